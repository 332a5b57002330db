import { inject, Injectable } from '@angular/core';
import { LiveAnnouncer } from '@angular/cdk/a11y';
import { describeFault, type Fault } from '@hollow-stride/core';
import { BehaviorSubject } from 'rxjs';

export interface Notice {
  readonly id: number;
  readonly kind: 'done' | 'caution' | 'fault';
  readonly text: string;
  readonly undo?: () => void;
}

const SHOWN_FOR = 8000;

/** Short messages at the foot of the page; faults stay until they are closed. Each is read out too. */
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

  close(id: number): void {
    this.list.next(this.list.value.filter((notice) => notice.id !== id));
  }

  undo(notice: Notice): void {
    this.close(notice.id);
    notice.undo?.();
  }

  private add(notice: Omit<Notice, 'id'>): void {
    const id = this.next++;
    this.list.next([...this.list.value.slice(-3), { ...notice, id }]);
    void this.announcer.announce(notice.text, notice.kind === 'fault' ? 'assertive' : 'polite');
    if (notice.kind !== 'fault') setTimeout(() => this.close(id), SHOWN_FOR);
  }
}
