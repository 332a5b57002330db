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

  it('walk and fold the joints by arrow keys and pick with Enter or a press', async () => {
    const { fixture, host } = await show(JointTreeComponent, { view, joint: view.roles['hips'] });
    document.body.append(host);
    const picked: number[] = [];
    fixture.componentInstance.picked.subscribe((joint) => picked.push(joint));
    const node = (joint: number): HTMLElement => host.querySelector<HTMLElement>(`#joint-${joint}`)!;
    const press = async (key: string, keyCode: number): Promise<void> => {
      const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true });
      // The kit still reads key codes.
      Object.defineProperty(event, 'keyCode', { value: keyCode });
      document.activeElement!.dispatchEvent(event);
      await fixture.whenStable();
    };
    const { parents } = view.display.skeleton;
    const hips = view.roles['hips'];
    const pointed: number[] = [];
    fixture.componentInstance.pointed.subscribe((joint) => pointed.push(joint));
    expect(host.querySelectorAll('[role=treeitem]').length).toBe(parents.length);
    node(hips).focus();
    await press('ArrowRight', 39);
    await press('Enter', 13);
    const first = parents.indexOf(hips);
    await press('ArrowLeft', 37);
    expect(node(first).getAttribute('aria-expanded')).toBe('false');
    expect(host.querySelectorAll('[role=treeitem]').length).toBeLessThan(parents.length);
    await press('ArrowRight', 39);
    expect(host.querySelectorAll('[role=treeitem]').length).toBe(parents.length);
    await press('ArrowLeft', 37);
    await press('ArrowLeft', 37);
    expect(document.activeElement).toBe(node(hips));
    // A joint chosen elsewhere opens its folded ancestors.
    fixture.componentRef.setInput('joint', view.roles['head']);
    await fixture.whenStable();
    expect(node(view.roles['head']).classList).toContain('chosen');
    fixture.componentRef.setInput('joint', hips);
    await fixture.whenStable();
    await press('End', 35);
    await press('Enter', 13);
    expect(picked[0]).toBe(first);
    expect(picked[1]).toBe(pointed.at(-1)!);
    expect(host.querySelector(`#joint-${picked[1]}`)).toBe([...host.querySelectorAll('[role=treeitem]')].at(-1)!);
    node(hips).click();
    expect(picked.at(-1)).toBe(hips);
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
