import { TestBed } from '@angular/core/testing';
import { BehaviorSubject, firstValueFrom, of } from 'rxjs';
import type { ChangeSkeleton } from '@hollow-stride/contract';
import { DEFAULT_SKELETON, schemeOf } from '@hollow-stride/core';
import { BodiesStore, type BodyState } from '../body/bodies.store';
import type { BodyView } from '../body/messages';
import { ProjectStore } from '../project/project.store';
import { makeBodyView } from '../testing/views';
import { editsToProject } from '../testing/edits';
import { LabelStore, type LabelState } from './label.store';

describe('LabelStore', () => {
  let store: LabelStore;
  let performer: BehaviorSubject<BodyState>;
  let steps: string[];
  const whole = makeBodyView();
  const name = (joint: number): string => whole.display.skeleton.names[joint];
  const roleAt = (role: string): string => name(performer.value.view!.roles[role]);
  const state = (): Promise<LabelState> => firstValueFrom(store.state$);
  const kept: { id: string; scheme: ReturnType<typeof schemeOf>; addedAt: string }[] = [];

  beforeEach(async () => {
    steps = [];
    performer = new BehaviorSubject<BodyState>({ view: whole, fault: undefined });
    const project = {
      state: { rack: { takes: [{ id: 't', skeleton: 's' }], characters: [], schemes: kept }, selection: { take: 't' } },
      skeleton: () => ({ id: 's', name: 'performer', choices: DEFAULT_SKELETON, rests: [] }),
      // As the application does: what is decided is looked at anew.
      changeSkeleton: (_id: string, { choices }: ChangeSkeleton, text: string) => {
        steps.push(text);
        performer.next({ view: makeBodyView(choices), fault: undefined });
      },
    };
    TestBed.configureTestingModule({
      providers: [
        ...editsToProject,
        { provide: ProjectStore, useValue: project },
        {
          provide: BodiesStore,
          useValue: { of: (party: string) => (party === 'performer' ? performer : of({ view: undefined, fault: undefined })) },
        },
      ],
    });
    store = TestBed.inject(LabelStore);
    store.state$.subscribe();
    await state();
  });

  it('gives a role and then the joint, and does on the right what was done on the left', async () => {
    const other = whole.roles['left.lowerArm'];
    store.armRole('left.hand');
    expect((await state()).joint).toBe(whole.roles['left.hand']);
    store.pick(other);
    expect(roleAt('left.hand')).toBe(name(other));
    expect(roleAt('right.hand')).toBe(name(whole.partners[other]));
    expect(performer.value.view!.missing).toEqual(['left.lowerArm', 'right.lowerArm']);
    expect(steps).toEqual([`give left.hand to ${name(other)}, and its partner`]);
    expect((await state()).armed).toBeUndefined();
  });

  it('leaves the other side alone when it is told to', () => {
    store.setMirrored(false);
    store.give('left.hand', whole.roles['left.lowerArm']);
    expect(roleAt('right.hand')).toBe(name(whole.roles['right.hand']));
    store.take('head');
    expect(performer.value.view!.missing).toContain('head');
  });

  it('fills a chain from its first and last joint, and says why it cannot', async () => {
    store.armChain('left.index');
    store.pick(whole.roles['left.index.2']);
    store.pick(whole.roles['left.index.1']);
    expect((await state()).said).toEqual(
      jasmine.objectContaining({ good: false, text: jasmine.stringContaining('out of order') as never }),
    );
    expect(steps).toEqual([]);
    expect((await state()).armed).toEqual({ kind: 'chain', chain: 'left.index', first: undefined });
    store.pick(whole.roles['left.thumb.1']);
    store.pick(whole.roles['left.thumb.2']);
    expect(roleAt('left.index.2')).toBe(name(whole.roles['left.thumb.2']));
    expect((await state()).said?.text).toContain('was left.thumb.1');
    expect(roleAt('right.index.1')).toBe(name(whole.roles['right.thumb.1']));
  });

  it('names a chain that no upright body has, and takes it away again', () => {
    store.armChain('extra.tail');
    store.pick(whole.roles['spine.1']);
    store.pick(whole.roles['spine.2']);
    expect(store.extras(performer.value.view!)).toEqual(['tail']);
    store.removeExtra('tail');
    expect(store.extras(performer.value.view!)).toEqual([]);
  });

  it('clears all labels at a press, and shows a joint without giving it anything', async () => {
    store.armRole('head');
    store.show(whole.roles['hips']);
    expect([(await state()).joint, (await state()).armed]).toEqual([whole.roles['hips'], undefined]);
    expect(steps).toEqual([]);
    store.clear();
    expect(performer.value.view!.roles).toEqual({});
    expect(performer.value.view!.missing.length).toBe(14);
    expect(steps.length).toBe(1);
  });

  it('corrects a mistake at a press', () => {
    store.give('hips', whole.roles['ground']);
    const [mistake] = performer.value.view!.mistakes;
    expect(mistake.kind).toBe('ground');
    store.fix(mistake);
    expect(performer.value.view!.mistakes).toEqual([]);
    expect(roleAt('ground')).toBe('Ground');
  });

  it('offers the scheme that fits best, applies what fits and lists what does not', async () => {
    const roles = new Map(Object.entries(whole.roles));
    const own = schemeOf('own', whole.display.skeleton, roles);
    kept.push(
      { id: '1', scheme: { ...own, name: 'half', roles: { hips: 'Hips', 'left.hand': 'Paw' } }, addedAt: '' },
      { id: '2', scheme: own, addedAt: '' },
    );
    const list = store.schemes(whole);
    expect(list.map(({ scheme, misses }) => [scheme.name, misses])).toEqual([
      ['own', 0],
      ['half', 1],
    ]);
    expect(list.map(({ scheme }) => store.changes(scheme))).toEqual([false, false]);
    store.applyScheme(list[1].scheme);
    expect((await state()).said?.text).toBe('1 roles by "half"; not here: left.hand');
    expect(roleAt('left.hand')).toBe(name(whole.roles['left.hand']));
    expect(store.scheme('mine')?.roles).toEqual((own as { roles: Record<string, string> }).roles);
  });

  it('does nothing while there is no skeleton', async () => {
    performer.next({ view: undefined as BodyView | undefined, fault: undefined });
    await state();
    store.give('hips', 0);
    store.take('hips');
    store.fill('spine', 0, 1);
    expect(steps).toEqual([]);
  });
});
