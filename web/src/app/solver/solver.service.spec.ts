import { TestBed } from '@angular/core/testing';
import { DEFAULT_DELIVERY, DEFAULT_RECIPE } from '@hollow-stride/core';
import { makeSolved } from '../testing/solved';
import { FakeWorker } from '../testing/workers';
import type { Answered, PairRequest, SolverAsk, SolverGives } from './messages';
import { SolverService } from './solver.service';
import { SolverError } from './worker-client';

describe('SolverService', () => {
  const pair: PairRequest = makeSolved().pair;
  const real = globalThis.Worker;
  let solver: SolverService;

  const answer = (given: Answered<SolverGives>): void =>
    (FakeWorker.made[0] as unknown as FakeWorker<SolverAsk, SolverGives>).answer(given);

  beforeEach(() => {
    FakeWorker.made = [];
    globalThis.Worker = FakeWorker as unknown as typeof Worker;
    solver = TestBed.inject(SolverService);
  });
  afterEach(() => (globalThis.Worker = real));

  it('starts its worker when it is first asked, and gives each answer to its asker', () => {
    const got: string[] = [];
    expect(FakeWorker.made.length).toBe(0);
    const solved = makeSolved();
    solver.solve(pair).subscribe(() => got.push('first'));
    solver.solve(pair).subscribe((answer) => got.push(answer === solved ? 'second' : 'wrong'));
    const [worker] = FakeWorker.made;
    expect(worker.sent.map((r) => r.job)).toEqual([1, 2]);
    answer({ kind: 'dropped', job: 1 });
    answer({ kind: 'solved', job: 2, solved });
    expect(got).toEqual(['second']);
  });

  it('hands over a written file', () => {
    let size = 0;
    solver.deliver(pair, { ...DEFAULT_DELIVERY, format: 'glb', title: 'walk on b' }).subscribe(({ bytes }) => (size = bytes.length));
    const { report } = makeSolved();
    answer({ kind: 'delivered', job: 1, delivered: { bytes: new Uint8Array(12), recipe: DEFAULT_RECIPE, report } });
    expect(size).toBe(12);
  });

  it('passes faults on', () => {
    let fault: unknown;
    solver.solve(pair).subscribe({ error: (error: unknown) => (fault = error) });
    answer({ kind: 'failed', job: 1, fault: { code: 'label/missing', message: 'no legs', where: {} } });
    expect(fault).toBeInstanceOf(SolverError);
    expect((fault as SolverError).fault.message).toBe('no legs');
  });

  it('lets an answer go that nobody waits for, and tells the worker so', () => {
    let got = false;
    solver
      .solve(pair)
      .subscribe(() => (got = true))
      .unsubscribe();
    expect(FakeWorker.made[0].sent).toEqual([jasmine.objectContaining({ kind: 'solve', job: 1 }), { kind: 'end', job: 1 }]);
    answer({ kind: 'solved', job: 1, solved: makeSolved() });
    expect(got).toBeFalse();
  });

  it('tells those who wait when the worker falls over, and starts another for the next', () => {
    let fault: unknown;
    solver.solve(pair).subscribe({ error: (error: unknown) => (fault = error) });
    FakeWorker.made[0].dispatchEvent(new ErrorEvent('error', { message: 'out of memory' }));
    expect((fault as SolverError).fault.message).toContain('out of memory');
    solver.solve(pair).subscribe();
    expect(FakeWorker.made.length).toBe(2);
  });
});
