import { inject, Injectable } from '@angular/core';
import { LiveAnnouncer } from '@angular/cdk/a11y';
import { describeFault, type Fault } from '@hollow-stride/core';
import { BehaviorSubject } from 'rxjs';
import { ApiError } from '../api/answers';

export interface Notice {
  readonly id: number;
  readonly kind: 'done' | 'caution' | 'fault';
  readonly text: string;
  readonly undo?: () => void;
  /** Answers on offer; the notice stays until one is pressed. */
  readonly answers?: readonly Answer[];
}

export interface Answer {
  readonly text: string;
  readonly act: () => void;
}

const SHOWN_FOR = 8000;
/** Faults that stay until they are closed. */
const MOST_FAULTS = 12;

/** Short messages at the foot of the page; faults stay until they are closed, questions until they are answered. Each is read out too. */
@Injectable({ providedIn: 'root' })
export class NoticesService {
  private readonly announcer = inject(LiveAnnouncer);
  private readonly list = new BehaviorSubject<readonly Notice[]>([]);
  readonly notices$ = this.list.asObservable();
  private next = 1;

  done(text: string, undo?: () => void): void {
    this.add({ kind: 'done', text, undo });
  }

  caution(text: string): void {
    this.add({ kind: 'caution', text });
  }

  fault(fault: Fault): void {
    this.add({ kind: 'fault', text: describeFault(fault) });
  }

  /** An error that a request or anything else ended with. */
  failed(error: unknown): void {
    this.fault(error instanceof ApiError ? error.fault : { code: 'option', message: String(error), where: {} });
  }

  /** A question: it stays until it is answered. */
  ask(text: string, answers: readonly Answer[]): void {
    this.add({ kind: 'caution', text, answers });
  }

  answer(notice: Notice, { act }: Answer): void {
    this.close(notice.id);
    act();
  }

  close(id: number): void {
    this.list.next(this.list.value.filter((notice) => notice.id !== id));
  }

  undo(notice: Notice): void {
    this.close(notice.id);
    notice.undo?.();
  }

  private add(notice: Omit<Notice, 'id'>): void {
    const id = this.next++;
    // Questions are never pushed out: something waits for their answer.
    const asked = this.list.value.filter(({ answers }) => answers);
    // So are faults, as far as anybody can read them all.
    const faults = this.list.value.filter(({ kind, answers }) => kind === 'fault' && !answers).slice(-MOST_FAULTS);
    const others = this.list.value.filter(({ kind, answers }) => kind !== 'fault' && !answers).slice(-2);
    this.list.next([...asked, ...faults, ...others, { ...notice, id }]);
    void this.announcer.announce(notice.text, notice.kind === 'fault' || notice.answers ? 'assertive' : 'polite');
    if (notice.kind !== 'fault' && !notice.answers) setTimeout(() => this.close(id), SHOWN_FOR);
  }
}
