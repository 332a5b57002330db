import type { Answered, Numbered } from '../solver/messages';

/** Stands in for a web worker: keeps what it is sent, and answers when told to. */
export class FakeWorker<Ask extends { readonly kind: string }, Gives extends { readonly kind: string }> extends EventTarget {
  static made: FakeWorker<{ kind: string }, { kind: string }>[] = [];
  readonly sent: Numbered<Ask>[] = [];
  constructor() {
    super();
    FakeWorker.made.push(this as never);
  }
  postMessage(request: Numbered<Ask>): void {
    this.sent.push(request);
  }
  terminate(): void {
    this.sent.length = 0;
  }
  answer(answer: Answered<Gives>): void {
    this.dispatchEvent(new MessageEvent('message', { data: answer }));
  }
}
