import { DestroyRef, inject, Injectable } from '@angular/core';
import type { Fault, OutputFormat } from '@hollow-stride/core';
import { filter, map, Observable, Subject, take } from 'rxjs';
import type { PairRequest, Solved, SolverAnswer, SolverRequest } from './messages';

/** A fault that the solver met. */
export class SolverError extends Error {
  constructor(readonly fault: Fault) {
    super(fault.message);
  }
}

/** A request without its number. */
type Unnumbered<T> = T extends unknown ? Omit<T, 'job'> : never;

/** The solve in its web worker. A newer solve replaces an older one; unsubscribing drops the answer. */
@Injectable({ providedIn: 'root' })
export class SolverService {
  private readonly answers = new Subject<SolverAnswer>();
  private worker: Worker | undefined;
  private next = 1;

  constructor() {
    inject(DestroyRef).onDestroy(() => this.worker?.terminate());
  }

  solve(pair: PairRequest): Observable<Solved> {
    return this.ask({ kind: 'solve', pair }).pipe(
      filter((answer) => answer.kind === 'solved'),
      map((answer) => answer.solved),
    );
  }

  deliver(pair: PairRequest, format: OutputFormat, title: string): Observable<Uint8Array<ArrayBuffer>> {
    return this.ask({ kind: 'deliver', pair, format, title }).pipe(
      filter((answer) => answer.kind === 'delivered'),
      map((answer) => answer.bytes),
    );
  }

  private ask(request: Unnumbered<SolverRequest>): Observable<SolverAnswer> {
    return new Observable((subscriber) => {
      const job = this.next++;
      const inner = this.answers
        .pipe(
          filter((answer) => answer.job === job),
          take(1),
        )
        .subscribe((answer) => {
          if (answer.kind === 'failed') subscriber.error(new SolverError(answer.fault));
          else {
            subscriber.next(answer);
            subscriber.complete();
          }
        });
      this.start().postMessage({ ...request, job });
      return inner;
    });
  }

  private start(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL('./solver.worker', import.meta.url), { type: 'module' });
    worker.addEventListener('message', ({ data }: MessageEvent<SolverAnswer>) => this.answers.next(data));
    worker.addEventListener('error', (event) => {
      // A worker that fell over is replaced at the next request; whoever waits is told.
      this.worker = undefined;
      const fault: Fault = { code: 'option', message: `the solver stopped: ${event.message}. Try again`, where: {} };
      for (let job = 1; job < this.next; job++) this.answers.next({ kind: 'failed', job, fault });
    });
    this.worker = worker;
    return worker;
  }
}
