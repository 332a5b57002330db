import { TestBed } from '@angular/core/testing';
import { DEFAULT_CHOICES } from '../project/project.store';
import { makeSolved } from '../testing/solved';
import type { PairRequest, SolverAnswer, SolverRequest } from './messages';
import { SolverError, SolverService } from './solver.service';

/** Stands in for the worker: keeps what it is sent, and answers when told to. */
class FakeWorker extends EventTarget {
  static made: FakeWorker[] = [];
  readonly sent: SolverRequest[] = [];
  constructor() {
    super();
    FakeWorker.made.push(this);
  }
  postMessage(request: SolverRequest): void {
    this.sent.push(request);
  }
  terminate(): void {
    this.sent.length = 0;
  }
  answer(answer: SolverAnswer): void {
    this.dispatchEvent(new MessageEvent('message', { data: answer }));
  }
}

describe('SolverService', () => {
  const pair: PairRequest = {
    take: { file: 'a', name: 'a.bvh', clip: 0 },
    character: { file: 'b', name: 'b.glb' },
    choices: DEFAULT_CHOICES,
  };
  const real = globalThis.Worker;
  let solver: SolverService;

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
    worker.answer({ kind: 'dropped', job: 1 });
    worker.answer({ kind: 'solved', job: 2, solved });
    expect(got).toEqual(['second']);
  });

  it('hands over a written file', () => {
    let size = 0;
    solver.deliver(pair, 'glb', 'walk on b').subscribe((bytes) => (size = bytes.length));
    FakeWorker.made[0].answer({ kind: 'delivered', job: 1, bytes: new Uint8Array(12) });
    expect(size).toBe(12);
  });

  it('passes faults on', () => {
    let fault: unknown;
    solver.solve(pair).subscribe({ error: (error: unknown) => (fault = error) });
    FakeWorker.made[0].answer({ kind: 'failed', job: 1, fault: { code: 'label/missing', message: 'no legs', where: {} } });
    expect(fault).toBeInstanceOf(SolverError);
    expect((fault as SolverError).fault.message).toBe('no legs');
  });

  it('lets an answer go that nobody waits for', () => {
    let got = false;
    solver
      .solve(pair)
      .subscribe(() => (got = true))
      .unsubscribe();
    FakeWorker.made[0].answer({ kind: 'solved', job: 1, solved: makeSolved() });
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
