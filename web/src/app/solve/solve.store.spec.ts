import { TestBed } from '@angular/core/testing';
import { BehaviorSubject, Subject } from 'rxjs';
import { ProjectStore, DEFAULT_CHOICES } from '../project/project.store';
import type { SolveChoices } from '@hollow-stride/contract';
import type { PairRequest, Solved } from '../solver/messages';
import { SolverService } from '../solver/solver.service';
import { SolverError } from '../solver/worker-client';
import { makeSolved } from '../testing/solved';
import { SolveStore } from './solve.store';

describe('SolveStore', () => {
  const take = new BehaviorSubject<object | undefined>({ id: 't1', file: 'a', fileName: 'a.bvh', clip: 0 });
  const character = new BehaviorSubject<object | undefined>({ id: 'c1', file: 'b', fileName: 'b.glb' });
  const rack = new BehaviorSubject<SolveChoices>(DEFAULT_CHOICES);
  let asked: { pair: PairRequest; answer: Subject<Solved> }[];
  let saved: unknown[];
  let store: SolveStore;

  beforeEach(() => {
    jasmine.clock().install();
    asked = [];
    saved = [];
    rack.next(DEFAULT_CHOICES);
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
          useValue: {
            take$: take,
            character$: character,
            rack$: rack,
            choicesFor: () => rack.value,
            pairRequest: (_t: object, _c: object, choices: SolveChoices) => ({ ...makeSolved().pair, choices }),
            changePairing: (_p: string, _c: string, { choices }: { choices: SolveChoices }) => rack.next(choices),
            saveTransfer: (r: unknown) => saved.push(r),
          },
        },
      ],
    });
    store = TestBed.inject(SolveStore);
    tick(1);
    tick(1);
  });
  afterEach(() => jasmine.clock().uninstall());
  const tick = (ms: number): void => {
    jasmine.clock().tick(ms);
  };
  const change = (choices: Partial<SolveChoices>, wait: number): void => {
    store.change(choices);
    tick(1);
    tick(wait);
  };

  it('solves the chosen pair and keeps the transfer', () => {
    const solved = makeSolved();
    asked[0].answer.next(solved);
    expect(store.state.solved).toBe(solved);
    expect(saved.length).toBe(1);
  });

  it('solves again at each change, keeps the last result meanwhile, and lets an outdated answer go', () => {
    const [first, second] = [makeSolved(), makeSolved()];
    asked[0].answer.next(first);
    change({ stride: 'marks' }, 200);
    expect([store.state.busy, store.state.solved]).toEqual([true, first]);
    change({ stride: 1.5 }, 200);
    expect(asked.map((a) => a.pair.choices.stride)).toEqual(['legs', 'marks', 1.5]);
    asked[1].answer.next(second);
    expect(store.state.solved).toBe(first);
    asked[2].answer.next(second);
    expect(store.state.solved).toBe(second);
  });

  it('waits for a dial to stand still before it solves the whole take again', () => {
    asked[0].answer.next(makeSolved());
    for (const stride of [1.1, 1.2, 1.3]) change({ stride }, 50);
    expect(asked.length).toBe(1);
    tick(200);
    expect(asked.map((a) => a.pair.choices.stride)).toEqual(['legs', 1.3]);
  });

  it('shows what cannot be solved and goes on with the next', () => {
    asked[0].answer.error(new SolverError({ code: 'label/missing', message: 'no legs', where: {} }));
    expect(store.state.fault?.message).toBe('no legs');
    change({ floor: 'zero' }, 200);
    asked[1].answer.next(makeSolved());
    expect(store.state.fault).toBeUndefined();
  });
});
