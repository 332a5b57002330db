import type { Subscription } from 'rxjs';
import { FakeWorker } from '../testing/workers';
import { faultOf, SolverError, WorkerClient } from './worker-client';

interface Ask {
  readonly kind: 'double';
  readonly of: number;
}
interface Gives {
  readonly kind: 'doubled';
  readonly is: number;
}

describe('a worker behind observables', () => {
  type Worked = FakeWorker<Ask, Gives>;
  let client: WorkerClient<Ask, Gives>;
  const worker = (at = 0): Worked => FakeWorker.made[at] as unknown as Worked;

  beforeEach(() => {
    FakeWorker.made = [];
    client = new WorkerClient<Ask, Gives>(() => new FakeWorker() as unknown as Worker);
  });

  it('asks once for each that listens, and not before', () => {
    const asked = client.ask({ kind: 'double', of: 4 });
    expect(FakeWorker.made.length).toBe(0);
    asked.subscribe();
    asked.subscribe();
    expect(worker().sent.map(({ kind, job }) => [kind, job])).toEqual([
      ['double', 1],
      ['double', 2],
    ]);
  });

  it('ends what nobody waits for any more, and nothing that has been answered', () => {
    const got: number[] = [];
    const listeners: Subscription[] = [1, 2].map((of) => client.ask({ kind: 'double', of }).subscribe(({ is }) => got.push(is)));
    worker().answer({ kind: 'doubled', is: 2, job: 1 });
    for (const listener of listeners) listener.unsubscribe();
    const ended = worker().sent.filter(({ kind }) => kind === 'end');
    expect(ended.map(({ job }) => job)).toEqual([2]);
    // A late answer belongs to nobody.
    worker().answer({ kind: 'doubled', is: 4, job: 2 });
    expect(got).toEqual([2]);
  });

  it('completes without a value where the work was dropped', () => {
    const seen: string[] = [];
    client.ask({ kind: 'double', of: 1 }).subscribe({ next: () => seen.push('value'), complete: () => seen.push('end') });
    worker().answer({ kind: 'dropped', job: 1 });
    expect(seen).toEqual(['end']);
  });

  it('tells all that wait when the worker falls over, and takes a new one for the next', () => {
    const faults: string[] = [];
    for (const of of [1, 2])
      client.ask({ kind: 'double', of }).subscribe({ error: (error: unknown) => faults.push(faultOf(error).message) });
    worker().dispatchEvent(new ErrorEvent('error', { message: 'out of memory' }));
    expect(faults.length).toBe(2);
    expect(faults[0]).toMatch(/out of memory.*Try again/);
    let is = 0;
    client.ask({ kind: 'double', of: 3 }).subscribe((answer) => (is = answer.is));
    expect(FakeWorker.made.length).toBe(2);
    worker(1).answer({ kind: 'doubled', is: 6, job: 3 });
    expect(is).toBe(6);
  });

  it('starts no worker only to end something, and none is left behind', () => {
    const listener = client.ask({ kind: 'double', of: 1 }).subscribe();
    client.close();
    listener.unsubscribe();
    expect(FakeWorker.made.length).toBe(1);
    client.ask({ kind: 'double', of: 1 }).subscribe();
    expect(FakeWorker.made.length).toBe(2);
  });

  it('makes a fault of any error, and keeps one that is', () => {
    const fault = { code: 'label/missing' as const, message: 'no legs', where: { joint: 'Hips' } };
    expect(faultOf(new SolverError(fault))).toBe(fault);
    expect(faultOf(new TypeError('x is undefined')).message).toContain('x is undefined');
  });
});
