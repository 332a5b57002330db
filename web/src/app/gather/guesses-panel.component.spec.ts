import { TestBed } from '@angular/core/testing';
import type { SkeletonJson } from '@hollow-stride/contract';
import { DEFAULT_SKELETON } from '@hollow-stride/core';
import { select } from '../testing/fake-stage';
import { makeRack } from '../testing/rack';
import { GuessesPanelComponent } from './guesses-panel.component';

describe('GuessesPanelComponent', () => {
  const { takes } = makeRack();
  const rest = { name: 'calm', rotations: {} };

  async function show(choices: Partial<SkeletonJson['choices']> = {}) {
    const skeleton: SkeletonJson = {
      id: takes[0].skeleton,
      version: 1,
      name: 'suit',
      choices: { ...DEFAULT_SKELETON, ...choices },
      rests: [rest],
      reference: null,
    };
    const fixture = TestBed.createComponent(GuessesPanelComponent);
    fixture.componentRef.setInput('body', takes[0].facts.body);
    fixture.componentRef.setInput('skeleton', skeleton);
    await fixture.whenStable();
    const told: object[] = [];
    fixture.componentInstance.overruled.subscribe(({ choices: made }) => told.push(made));
    return { host: fixture.nativeElement as HTMLElement, told };
  }
  const chosen = (host: HTMLElement, id: string): string =>
    host.querySelector<HTMLSelectElement>(id)!.selectedOptions[0].textContent!.trim();

  const type = (host: HTMLElement, label: string, value: string): void => {
    const field = host.querySelector<HTMLInputElement>(`[aria-label="${label}"]`)!;
    field.value = value;
    field.dispatchEvent(new Event('change'));
  };

  it('shows each guess with its reason', async () => {
    const { host } = await show();
    const body = takes[0].facts.body!;
    expect(chosen(host, '#guess-unit')).toBe('as found: cm');
    expect(chosen(host, '#guess-up')).toBe('as found: +Y');
    for (const reason of [body.unit.reason, body.up.reason, body.rest.reason]) expect(host.textContent).toContain(reason);
  });

  it('overrules unit, up axis, facing and rest, and gives each back', async () => {
    const { host, told } = await show();
    select(host, '#guess-unit', '0.0254');
    select(host, '#guess-up', '-X');
    select(host, '#guess-rest', 'file');
    select(host, '#guess-rest', 'kept calm');
    type(host, 'facing, degrees from +Z', '90');
    expect(told).toEqual([{ unit: 0.0254 }, { up: '-X' }, { rest: 'file', turns: {} }, { rest, turns: {} }, { facing: 90 }]);
    const set = await show({ unit: 1, up: '+Z', facing: 45 });
    expect(chosen(set.host, '#guess-unit')).toBe('m');
    select(set.host, '#guess-unit', '');
    select(set.host, '#guess-up', '');
    set.host
      .querySelector('[aria-label^="facing"]')!
      .closest('hs-number')!
      .querySelector('.name')!
      .dispatchEvent(new MouseEvent('dblclick'));
    expect(set.told).toEqual([{ unit: null }, { up: null }, { facing: null }]);
  });

  it('takes the unit as a factor, or by the true height of the body', async () => {
    const { host, told } = await show();
    const { unit, height } = takes[0].facts.body!;
    type(host, 'metres for one unit of the file', '0.02');
    type(host, 'true height of the body', String(2 * height));
    expect(told[0]).toEqual({ unit: 0.02 });
    expect((told[1] as { unit: number }).unit / unit.metres).toBeCloseTo(2, 6);
  });

  it('shows a unit that has no name, and a pose that is in force and not kept', async () => {
    const { host } = await show({ unit: 0.037, rest: { name: 'frame 42 of walk.bvh', rotations: {} } });
    expect(chosen(host, '#guess-unit')).toBe('0.037 m a unit');
    expect(chosen(host, '#guess-rest')).toBe('frame 42 of walk.bvh');
  });
});
