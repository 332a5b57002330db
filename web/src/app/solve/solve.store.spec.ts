import { TestBed } from '@angular/core/testing';
import { BehaviorSubject, Subject } from 'rxjs';
import { ProjectStore, DEFAULT_CHOICES } from '../project/project.store';
import type { PairRequest, Solved } from '../solver/messages';
import { SolverError, SolverService } from '../solver/solver.service';
import { makeSolved } from '../testing/solved';
import { SolveStore } from './solve.store';

describe('SolveStore', () => {
  const take = new BehaviorSubject<object | undefined>({ id: 't1', file: 'a', fileName: 'a.bvh', clip: 0 });
  const character = new BehaviorSubject<object | undefined>({ id: 'c1', file: 'b', fileName: 'b.glb' });
  let asked: { pair: PairRequest; answer: Subject<Solved> }[];
  let saved: unknown[];
  let store: SolveStore;

  beforeEach(() => {
    jasmine.clock().install();
    asked = [];
    saved = [];
    TestBed.configureTestingModule({
      providers: [
        {
          provide: SolverService,
          useValue: {
            solve: (pair: PairRequest) => {
              const answer = new Subject<Solved>();
              asked.push({ pair, answer });
              return answer;
            },
          },
        },
        {
          provide: ProjectStore,
          useValue: { take$: take, character$: character, choicesFor: () => DEFAULT_CHOICES, saveTransfer: (r: unknown) => saved.push(r) },
        },
      ],
    });
    store = TestBed.inject(SolveStore);
    jasmine.clock().tick(1);
  });
  afterEach(() => jasmine.clock().uninstall());

  it('solves the chosen pair and keeps the transfer', () => {
    const solved = makeSolved();
    asked[0].answer.next(solved);
    expect(store.state.solved).toBe(solved);
    expect(saved.length).toBe(1);
  });

  it('solves again at each change, keeps the last result meanwhile, and lets an outdated answer go', () => {
    const [first, second] = [makeSolved(), makeSolved()];
    asked[0].answer.next(first);
    store.change({ stride: 'marks' });
    expect([store.state.busy, store.state.solved]).toEqual([true, first]);
    store.change({ stride: 1.5 });
    expect(asked.map((a) => a.pair.choices.stride)).toEqual(['legs', 'marks', 1.5]);
    asked[1].answer.next(second);
    expect(store.state.solved).toBe(first);
    asked[2].answer.next(second);
    expect(store.state.solved).toBe(second);
  });

  it('undoes and redoes choices', () => {
    store.change({ floor: 'zero' });
    store.change({ head: 'match' });
    store.undo();
    expect(store.state.choices).toEqual({ ...DEFAULT_CHOICES, floor: 'zero' });
    store.undo();
    expect([store.state.choices, store.canUndo]).toEqual([DEFAULT_CHOICES, false]);
    store.redo();
    expect(store.state.choices.floor).toBe('zero');
    store.change({ floor: 'zero' });
    expect(store.canRedo).toBeTrue();
  });

  it('shows what cannot be solved and goes on with the next', () => {
    asked[0].answer.error(new SolverError({ code: 'label/missing', message: 'no legs', where: {} }));
    expect(store.state.fault?.message).toBe('no legs');
    store.change({ floor: 'zero' });
    asked[1].answer.next(makeSolved());
    expect(store.state.fault).toBeUndefined();
  });
});
