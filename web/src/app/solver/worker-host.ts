/// <reference lib="webworker" />
import { asFault } from '@hollow-stride/core';
import type { Answered, Numbered } from './messages';

/** Tells whether the work of a request is still wanted; lets waiting messages in first. */
export type Wanted = () => Promise<boolean>;

/** Tells how far the work is; it is heard at once, though nothing else is while the work goes on. */
export type Tell = (share: number, what: string) => void;

/** Result of a request: the answer, and the buffers that are transferred with it; undefined when it was dropped. */
export type Outcome<Gives> = { readonly gives: Gives; readonly buffers?: Transferable[] } | undefined;

/** Serves a worker's requests one after the other; what has been ended in the meantime is dropped. */
export function serve<Ask extends { readonly kind: string }, Gives extends { readonly kind: string }>(
  answer: (ask: Ask, wanted: Wanted, tell: Tell) => Promise<Outcome<Gives>>,
): void {
  const ended = new Set<number>();
  let queue = Promise.resolve();
  const send = (message: Answered<Gives>, buffers: Transferable[] = []): void => postMessage(message, { transfer: buffers });
  addEventListener('message', ({ data }: MessageEvent<Numbered<Ask>>) => {
    const { job } = data;
    if (data.kind === 'end') {
      ended.add(job);
      return;
    }
    const wanted: Wanted = async () => {
      await new Promise((resolve) => setTimeout(resolve, 0));
      return !ended.has(job);
    };
    const tell: Tell = (share, what) => send({ kind: 'progress', job, progress: { share, what } });
    queue = queue.then(async () => {
      try {
        const outcome = (await wanted()) ? await answer(data as Ask, wanted, tell) : undefined;
        if (outcome) send({ ...outcome.gives, job }, outcome.buffers);
        else send({ kind: 'dropped', job });
      } catch (error) {
        send({ kind: 'failed', job, fault: asFault(error) });
      }
      ended.delete(job);
    });
  });
}
