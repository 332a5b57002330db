import type { Fault } from '@hollow-stride/core';
import { filter, Observable, Subject, take } from 'rxjs';
import type { Answered, Numbered, Progress } from './messages';

/** Message of work that was cancelled. */
export const CANCELLED = 'cancelled';

/** A fault that a worker met. */
export class SolverError extends Error {
  constructor(readonly fault: Fault) {
    super(fault.message);
  }
}

/** Any error of a worker as a fault that can be shown. */
export function faultOf(error: unknown): Fault {
  return error instanceof SolverError ? error.fault : { code: 'option', message: String(error), where: {} };
}

/**
 * One web worker behind observables: it starts at the first request, answers are told apart by number, and unsubscribing
 * ends the work. A worker that fell over is replaced at the next request.
 */
export class WorkerClient<Ask extends { readonly kind: string }, Gives extends { readonly kind: string }> {
  private readonly answers = new Subject<Answered<Gives>>();
  private worker: Worker | undefined;
  private next = 1;

  constructor(private readonly make: () => Worker) {}

  /** @param progress told how far the work is */
  ask(request: Ask, progress?: (now: Progress) => void): Observable<Gives> {
    return new Observable((subscriber) => {
      const job = this.next++;
      let waiting = true;
      const inner = this.answers
        .pipe(
          filter((answer) => answer.job === job),
          filter((answer) => {
            if (answer.kind !== 'progress') return true;
            progress?.((answer as { progress: Progress }).progress);
            return false;
          }),
          take(1),
        )
        .subscribe((answer) => {
          waiting = false;
          if (answer.kind === 'failed') subscriber.error(new SolverError((answer as { fault: Fault }).fault));
          else {
            if (answer.kind !== 'dropped') subscriber.next(answer as Gives);
            subscriber.complete();
          }
        });
      this.post({ ...request, job });
      return () => {
        inner.unsubscribe();
        if (waiting) this.post({ kind: 'end', job });
      };
    });
  }

  /** Ends all work at once, whatever it is in the middle of; the next request starts a worker anew. */
  cancel(): void {
    this.close();
    const fault: Fault = { code: 'option', message: CANCELLED, where: {} };
    for (let job = 1; job < this.next; job++) this.answers.next({ kind: 'failed', job, fault });
  }

  close(): void {
    this.worker?.terminate();
    this.worker = undefined;
  }

  private post(message: Numbered<Ask>): void {
    if (message.kind === 'end' && !this.worker) return;
    this.start().postMessage(message);
  }

  private start(): Worker {
    if (this.worker) return this.worker;
    const worker = this.make();
    worker.addEventListener('message', ({ data }: MessageEvent<Answered<Gives>>) => this.answers.next(data));
    worker.addEventListener('error', (event) => {
      this.worker = undefined;
      const fault: Fault = { code: 'option', message: `the solver stopped: ${event.message}. Try again`, where: {} };
      for (let job = 1; job < this.next; job++) this.answers.next({ kind: 'failed', job, fault });
    });
    this.worker = worker;
    return worker;
  }
}
