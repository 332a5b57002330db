import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { Type } from '@angular/core';
import { makeBodyView } from '../testing/views';
import { JointTreeComponent } from './joint-tree.component';
import { RailsComponent } from './rails.component';
import { RolesPanelComponent } from './roles-panel.component';

describe('the parts of Label', () => {
  const view = makeBodyView();
  const less = makeBodyView({ labels: { hips: 'Hips', head: 'Head' } });

  async function show<T>(type: Type<T>, inputs: Record<string, unknown>): Promise<{ fixture: ComponentFixture<T>; host: HTMLElement }> {
    const fixture = TestBed.createComponent(type);
    for (const [key, value] of Object.entries(inputs)) fixture.componentRef.setInput(key, value);
    await fixture.whenStable();
    return { fixture, host: fixture.nativeElement as HTMLElement };
  }

  it('walk the joints by arrow keys and pick with Enter', async () => {
    const { fixture, host } = await show(JointTreeComponent, { view, joint: view.roles['hips'] });
    document.body.append(host);
    const picked: number[] = [];
    fixture.componentInstance.picked.subscribe((joint) => picked.push(joint));
    const tree = host.querySelector<HTMLElement>('[role=tree]')!;
    const press = (key: string): unknown => tree.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
    press('ArrowRight');
    press('Enter');
    press('ArrowLeft');
    press('Enter');
    press('End');
    press('Enter');
    const { parents } = view.display.skeleton;
    expect(picked).toEqual([parents.indexOf(view.roles['hips']), view.roles['hips'], parents.length - 1]);
    expect(tree.getAttribute('aria-activedescendant')).toBe(`joint-${parents.length - 1}`);
    expect(host.querySelector('[aria-selected=true]')!.textContent).toContain('hips');
    host.remove();
  });

  it('show each chain as a rail, left solid and right hollow, and what is missing on it', async () => {
    const { fixture, host } = await show(RailsComponent, { view, party: 'performer', joint: view.roles['left.hand'] });
    const picked: number[] = [];
    fixture.componentInstance.picked.subscribe((joint) => picked.push(joint));
    const rail = (name: string): Element =>
      [...host.querySelectorAll('.rail')].find((r) => r.querySelector('.chain')!.textContent === name)!;
    expect(rail('left arm').querySelectorAll('circle.solid').length).toBe(4);
    expect(rail('right arm').querySelectorAll('circle.solid').length).toBe(0);
    expect(rail('left arm').querySelector('.chosen')!.getAttribute('aria-label')).toContain('left.hand');
    rail('right leg')
      .querySelector('circle')!
      .dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    expect(picked).toEqual([view.roles['right.upperLeg']]);
    const bare = await show(RailsComponent, { view: less, party: 'performer' });
    const arm = [...bare.host.querySelectorAll('.rail')].find((r) => r.textContent!.includes('left arm'))!;
    expect(arm.textContent).toContain('3 missing');
  });

  it('say of each role whether it is needed, and put what is missing first', async () => {
    const { host } = await show(RolesPanelComponent, { view: less });
    expect(host.querySelector('.ready')!.textContent).toContain('Not ready: 12 of 14 needed roles missing');
    expect(host.querySelector('li')!.textContent).toContain('missing');
    const { fixture, host: all } = await show(RolesPanelComponent, { view });
    expect(all.querySelector('.ready')!.textContent).toContain('Ready: all 14 needed roles');
    const pointed: (string | undefined)[] = [];
    fixture.componentInstance.pointed.subscribe((role) => pointed.push(role));
    const hand = [...all.querySelectorAll<HTMLButtonElement>('.role')].find((b) => b.textContent!.includes('left.hand'))!;
    hand.dispatchEvent(new PointerEvent('pointerenter'));
    hand.dispatchEvent(new PointerEvent('pointerleave'));
    expect(pointed).toEqual(['left.hand', undefined]);
  });
});
