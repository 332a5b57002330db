import { TestBed } from '@angular/core/testing';
import { BehaviorSubject, EMPTY, of, Subject, type Observable } from 'rxjs';
import type { SolveChoices } from '@hollow-stride/contract';
import { DEFAULT_CHOICES, ProjectStore } from '../project/project.store';
import type { PairRequest, Preview, Solved } from '../solver/messages';
import { SolverService } from '../solver/solver.service';
import { SolverError } from '../solver/worker-client';
import { makeSolved } from '../testing/solved';
import { PlaybackService } from '../timeline/playback.service';
import { KeptStore } from './kept.store';
import { editsToProject } from '../testing/edits';
import { SolveStore } from './solve.store';

describe('a pair, what solves it, and what is kept of it', () => {
  const takes = [
    { id: 't1', file: 'a', fileName: 'a.bvh', clip: 0 },
    { id: 't2', file: 'z', fileName: 'z.bvh', clip: 0 },
  ];
  const characters = [{ id: 'c1', file: 'b', fileName: 'b.glb' }];
  const take = new BehaviorSubject<object | undefined>(takes[0]);
  const rack = new BehaviorSubject<{ choices: SolveChoices; transfers: object[] }>({ choices: DEFAULT_CHOICES, transfers: [] });
  let asked: { pair: PairRequest; answer: Subject<Solved> }[];
  let saved: { take: string; choices: SolveChoices; summary: { frames: number } }[];
  let previews: (pair: PairRequest, frame?: number) => Observable<Preview>;
  let store: SolveStore;
  let kept: KeptStore;

  beforeEach(() => {
    jasmine.clock().install();
    asked = [];
    previews = () => EMPTY;
    saved = [];
    take.next(takes[0]);
    rack.next({ choices: DEFAULT_CHOICES, transfers: [] });
    TestBed.configureTestingModule({
      providers: [
        {
          provide: SolverService,
          useValue: {
            preview: (pair: PairRequest, frame?: number) => previews(pair, frame),
            solve: (pair: PairRequest) => {
              const answer = new Subject<Solved>();
              asked.push({ pair, answer });
              return answer;
            },
          },
        },
        ...editsToProject,
        {
          provide: ProjectStore,
          useValue: {
            take$: take,
            character$: new BehaviorSubject(characters[0]),
            rack$: rack,
            get state() {
              return {
                rack: { takes, characters, ...rack.value },
                selection: { take: (take.value as { id: string }).id, character: 'c1' },
              };
            },
            choicesFor: () => rack.value.choices,
            pairRequest: (of: { file: string }, _c: object, choices: SolveChoices) => {
              const { pair } = makeSolved();
              return { ...pair, take: { ...pair.take, file: of.file }, choices };
            },
            changePairing: (_p: string, _c: string, { choices }: { choices: SolveChoices }) => rack.next({ ...rack.value, choices }),
            saveTransfer: (r: (typeof saved)[number]) => saved.push(r),
          },
        },
      ],
    });
    store = TestBed.inject(SolveStore);
    kept = TestBed.inject(KeptStore);
    tick(1);
    tick(1);
  });
  afterEach(() => jasmine.clock().uninstall());
  const tick = (ms: number): void => {
    jasmine.clock().tick(ms);
  };
  /** The worker's answer to a request, with the request as it was sent. */
  const answer = (at: number, solved: Solved): Solved => {
    const whole = { ...solved, pair: structuredClone(asked[at].pair) };
    asked[at].answer.next(whole);
    return whole;
  };
  const change = (choices: Partial<SolveChoices>, wait: number): void => {
    kept.change(choices);
    tick(1);
    tick(wait);
  };

  it('solves the chosen pair, and writes nothing for looking at it', () => {
    const solved = answer(0, makeSolved());
    expect(store.state.solved).toBe(solved);
    take.next(takes[1]);
    tick(1);
    tick(200);
    answer(1, makeSolved());
    expect(asked.map(({ pair }) => pair.take.file)).toEqual(['a', 'z']);
    expect(saved).toEqual([]);
  });

  it('keeps a transfer when a person says so, once', () => {
    const solved = makeSolved();
    answer(0, solved);
    kept.keep();
    expect(saved.map((s) => [s.take, s.choices.stride, s.summary.frames])).toEqual([['t1', 'legs', 150]]);
  });

  it('keeps a transfer in which something was changed, as it comes out', () => {
    answer(0, makeSolved());
    change({ stride: 'marks' }, 200);
    expect(saved).toEqual([]);
    answer(1, makeSolved({ ...DEFAULT_CHOICES, stride: 'marks' }));
    expect(saved.map(({ choices }) => choices.stride)).toEqual(['marks']);
  });

  it('keeps nothing of a pair that was left before its change came out', () => {
    answer(0, makeSolved());
    change({ stride: 'marks' }, 10);
    take.next(takes[1]);
    tick(1);
    tick(200);
    answer(asked.length - 1, makeSolved());
    expect(saved).toEqual([]);
  });

  it('knows whether the pair is kept', () => {
    const seen: boolean[] = [];
    kept.isKept$.subscribe((is) => seen.push(is));
    rack.next({ ...rack.value, transfers: [{ take: 't1', character: 'c1' }] });
    expect(seen).toEqual([false, true]);
  });

  it('solves again at each change, keeps the last result meanwhile, and lets an outdated answer go', () => {
    const second = makeSolved();
    const first = answer(0, makeSolved());
    change({ stride: 'marks' }, 200);
    expect([store.state.busy, store.state.solved]).toEqual([true, first]);
    change({ stride: 1.5 }, 200);
    expect(asked.map((a) => a.pair.choices.stride)).toEqual(['legs', 'marks', 1.5]);
    answer(1, second);
    expect(store.state.solved).toBe(first);
    const last = answer(2, second);
    expect([store.state.solved, store.state.result]).toEqual([last, last]);
  });

  it('shows what a change does to the motion at once, and judges it when it has settled', () => {
    const before = answer(0, makeSolved());
    const preview = {
      solved: { ...before.solved, name: 'preview' },
      contacts: before.contacts,
      touches: [],
      lying: [],
      floorHeight: 0.1,
      below: undefined,
      face: undefined,
    };
    previews = () => of({ ...preview, isWhole: true });
    change({ stride: 'marks' }, 20);
    expect(asked.length).toBe(1);
    expect(store.state.solved).toEqual({ ...before, ...preview });
    // Another rate is another take: what is shown stays until all of it is there.
    previews = () => of({ ...preview, isWhole: true, solved: { ...preview.solved, name: 'other', frames: 7 } });
    change({ fps: 24 }, 200);
    expect(store.state.solved!.solved.name).toBe('preview');
    expect(asked.length).toBe(2);
  });

  it('shows a long take about the frame that is looked at while something is dragged, and all of it when it has been let go', () => {
    const { solved, contacts } = answer(0, makeSolved());
    TestBed.inject(PlaybackService).setClip(solved.frames, solved.frameTime);
    TestBed.inject(PlaybackService).seek(40);
    const about: (number | undefined)[] = [];
    previews = (_pair, frame) => {
      about.push(frame);
      const isWhole = frame === undefined;
      const name = isWhole ? 'whole' : 'near';
      return of({
        solved: { ...solved, name },
        contacts,
        touches: [],
        lying: [],
        floorHeight: 0,
        below: undefined,
        face: undefined,
        isWhole,
      });
    };
    for (const stride of [1.1, 1.2, 1.3]) change({ stride }, 50);
    expect([about, store.state.solved!.solved.name]).toEqual([[40, 40, 40], 'near']);
    expect(asked.length).toBe(1);
    tick(200);
    expect([about, store.state.solved!.solved.name]).toEqual([[40, 40, 40, undefined], 'whole']);
    expect(asked.map((a) => a.pair.choices.stride)).toEqual(['legs', 1.3]);
  });

  it('waits for a dial to stand still before it solves the whole take again', () => {
    answer(0, makeSolved());
    for (const stride of [1.1, 1.2, 1.3]) change({ stride }, 50);
    expect(asked.length).toBe(1);
    tick(200);
    expect(asked.map((a) => a.pair.choices.stride)).toEqual(['legs', 1.3]);
  });

  it('shows what cannot be solved and goes on with the next', () => {
    asked[0].answer.error(new SolverError({ code: 'label/missing', message: 'no legs', where: {} }));
    expect(store.state.fault?.message).toBe('no legs');
    change({ floor: 'zero' }, 200);
    answer(1, makeSolved());
    expect(store.state.fault).toBeUndefined();
  });

  it('never takes a preview, or a result of other choices, for the result that is waited for', () => {
    const first = answer(0, makeSolved());
    previews = () =>
      of({
        solved: { ...first.solved, name: 'preview' },
        contacts: first.contacts,
        touches: [],
        lying: [],
        floorHeight: 0.1,
        below: undefined,
        face: undefined,
        isWhole: true,
      });
    change({ balance: 0.31 }, 20);
    expect(store.state.solved!.solved.name).withContext('it is shown').toBe('preview');
    expect([store.state.result, saved]).withContext('it is no result').toEqual([undefined, []]);
    kept.keep();
    expect(saved).withContext('what is on screen is not there yet').toEqual([]);
    tick(200);
    // A result of the choices before, however it comes.
    asked[1].answer.next({ ...first, pair: { ...first.pair, choices: { ...first.pair.choices, balance: 0 } } });
    expect([store.state.result, saved]).toEqual([undefined, []]);
    answer(1, makeSolved());
    expect(saved.map(({ choices }) => choices.balance)).toEqual([0.31]);
    // A choice that was made this very moment, and that no solve has been asked for yet.
    rack.next({ ...rack.value, choices: { ...rack.value.choices, balance: 0.5 } });
    kept.keep();
    expect(saved.length).toBe(1);
    tick(1);
    tick(200);
    answer(2, makeSolved());
    expect(saved.map(({ choices }) => choices.balance)).toEqual([0.31, 0.5]);
  });
});
