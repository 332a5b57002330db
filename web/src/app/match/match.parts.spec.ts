import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { Type } from '@angular/core';
import { makeMatchView } from '../testing/views';
import { DialsComponent, shortName } from './dials.component';
import { LadderComponent } from './ladder.component';
import { PoseViewComponent } from './pose-view.component';

describe('the parts of Match', () => {
  const view = makeMatchView();
  const turned = makeMatchView({ turns: { 'left.upperArm': [0, 0, 30] } });

  async function show<T>(type: Type<T>, inputs: Record<string, unknown>): Promise<{ fixture: ComponentFixture<T>; host: HTMLElement }> {
    const fixture = TestBed.createComponent(type);
    for (const [key, value] of Object.entries(inputs)) fixture.componentRef.setInput(key, value);
    await fixture.whenStable();
    return { fixture, host: fixture.nativeElement as HTMLElement };
  }
  const press = (target: Element, key: string, more: KeyboardEventInit = {}): unknown =>
    target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }));

  it('lay needles over each other where the poses match, and apart by the turn where they do not', async () => {
    const angles = async (of: typeof view): Promise<number> => {
      const { host } = await show(DialsComponent, { view: of });
      const dial = [...host.querySelectorAll('.dial')].find((d) => d.textContent!.includes('L upper arm'))!;
      const turn = (name: string): number => parseFloat(dial.querySelector(name)!.getAttribute('transform')!.slice('rotate('.length));
      return turn('.performer') - turn('.character');
    };
    expect(await angles(view)).toBeCloseTo(0, 1);
    expect(await angles(turned)).toBeCloseTo(30, 0);
    const { host } = await show(DialsComponent, { view: turned });
    expect(host.querySelector('.caution')!.textContent).toContain('30.0°');
  });

  it('turn by arrow keys on a dial and on the handle of a view', async () => {
    const { fixture, host } = await show(DialsComponent, { view, chosen: 'left.upperArm' });
    const told: unknown[] = [];
    fixture.componentInstance.turned.subscribe((turn) => told.push(turn));
    const dial = host.querySelector('svg')!;
    press(dial, 'ArrowUp');
    press(dial, 'ArrowRight', { shiftKey: true });
    expect(told).toEqual([
      { plane: 'front', by: 1 },
      { plane: 'front', by: -10 },
    ]);
    const front = await show(PoseViewComponent, { view, plane: 'front', chosen: 'left.upperArm' });
    const by: number[] = [];
    front.fixture.componentInstance.turned.subscribe((degrees) => by.push(degrees));
    press(front.host.querySelector('.handle')!, 'ArrowLeft');
    expect(by).toEqual([1]);
  });

  it('lay limb on limb, root on root and of one length, so that only directions are left apart', async () => {
    const ends = async (of: typeof view, byLimb: boolean): Promise<number> => {
      const { host } = await show(PoseViewComponent, { view: of, plane: 'front', byLimb });
      const spots = (name: string): [number, number][] =>
        [...host.querySelectorAll(`line.${name}`)].map((line) => [Number(line.getAttribute('x2')), Number(line.getAttribute('y2'))]);
      const near = spots('performer').map(([x, y]) => Math.min(...spots('character').map(([a, b]) => Math.hypot(x - a, y - b))));
      // The median: bodies may have joints that the other has not.
      return near.sort((a, b) => a - b)[near.length >> 1];
    };
    expect(await ends(view, true)).toBeLessThan(2.5);
    expect(await ends(view, true)).toBeLessThan(await ends(view, false));
    expect(await ends(turned, true)).toBeGreaterThan(await ends(view, true));
  });

  it('turn by as much as the pointer turns about the dial, the short way round', async () => {
    const { fixture, host } = await show(DialsComponent, { view, chosen: view.segments[0].role });
    document.body.append(host);
    spyOn(Element.prototype, 'setPointerCapture');
    spyOn(Element.prototype, 'releasePointerCapture');
    let sum = 0;
    fixture.componentInstance.turned.subscribe(({ by }) => (sum += by));
    const dial = host.querySelector('svg')!;
    const box = dial.getBoundingClientRect();
    const at = (kind: string, degrees: number): void => {
      const angle = (degrees * Math.PI) / 180;
      const [clientX, clientY] = [box.left + box.width / 2 + 20 * Math.cos(angle), box.top + box.height / 2 - 20 * Math.sin(angle)];
      dial.dispatchEvent(new PointerEvent(kind, { clientX, clientY, pointerId: 1, bubbles: true }));
    };
    at('pointerdown', 170);
    at('pointermove', 180);
    at('pointermove', 195);
    at('pointerup', 195);
    at('pointermove', 270);
    expect(sum).toBeCloseTo(25, 3);
    host.remove();
  });

  it('draw the left hand to the right of the front view, feet on the floor, both bodies alike in height', async () => {
    const { host } = await show(PoseViewComponent, { view, plane: 'front', chosen: 'left.lowerArm' });
    expect(Number(host.querySelector('.handle')!.getAttribute('cx'))).toBeGreaterThan(10);
    const low = (selector: string): number => Math.max(...[...host.querySelectorAll(selector)].map((l) => Number(l.getAttribute('y2'))));
    expect(low('line.performer')).toBeCloseTo(0, 5);
    expect(low('line.character')).toBeCloseTo(0, 5);
  });

  it('move, cut and give back a rung by the keyboard, and add one to a joint that has none', async () => {
    const ladder = view.ladders.find(({ chain }) => chain === 'trunk')!;
    const { fixture, host } = await show(LadderComponent, { ladder });
    const told: { role: string; rung: unknown }[] = [];
    fixture.componentInstance.changed.subscribe(({ role, rung }) => told.push({ role, rung }));
    const grip = host.querySelector('[aria-label="rung of spine.2"]')!;
    press(grip, 'Delete');
    press(grip, 'Home');
    press(grip, 'ArrowRight');
    expect(told[0]).toEqual({ role: 'spine.2', rung: null });
    expect(told[1]).toEqual({ role: 'spine.2', rung: undefined });
    const place = ladder.rungs.find(({ role }) => role === 'spine.2')!.place;
    expect(told[2].rung).toEqual(jasmine.objectContaining({ a: jasmine.any(String), t: jasmine.any(Number) }));
    expect(grip.getAttribute('aria-valuenow')).toBe((place * 100).toFixed(0));
    const cut = makeMatchView({ links: { 'spine.2': null } }).ladders.find(({ chain }) => chain === 'trunk')!;
    const loose = await show(LadderComponent, { ladder: cut });
    const added: string[] = [];
    loose.fixture.componentInstance.changed.subscribe(({ role }) => added.push(role));
    press(loose.host.querySelector('[aria-label^="add a rung to spine.2"]')!, 'Enter');
    expect(added).toEqual(['spine.2']);
  });

  it('have names that people read', () => {
    expect(['left.upperArm', 'right.thumb.1', 'left.hand'].map(shortName)).toEqual(['L upper arm', 'R thumb 1', 'L hand']);
  });
});
