import { inject, Injectable } from '@angular/core';
import { LiveAnnouncer } from '@angular/cdk/a11y';
import { BehaviorSubject } from 'rxjs';

/** A decision that can be taken back. */
export interface Step {
  readonly text: string;
  readonly undo: () => void;
  readonly redo: () => void;
  /** Steps with the same key that follow each other at once are one: a drag, a number that is stepped. */
  readonly key?: string;
}

export interface HistoryState {
  readonly past: readonly Step[];
  readonly future: readonly Step[];
}

const KEPT = 200;
const TOGETHER = 900;

/** Undo and redo of every decision, in one list that says what each step was. */
@Injectable({ providedIn: 'root' })
export class HistoryService {
  private readonly announcer = inject(LiveAnnouncer);
  private readonly subject = new BehaviorSubject<HistoryState>({ past: [], future: [] });
  readonly state$ = this.subject.asObservable();
  private last = 0;
  private collecting: Step[] | undefined;

  get state(): HistoryState {
    return this.subject.value;
  }

  /** Makes one step of all that is done in `act`. */
  together(text: string, act: () => void): void {
    const steps: Step[] = [];
    const outer = this.collecting;
    this.collecting = steps;
    try {
      act();
    } finally {
      this.collecting = outer;
    }
    if (steps.length === 0) return;
    this.did({ text, undo: () => [...steps].reverse().forEach((step) => step.undo()), redo: () => steps.forEach((step) => step.redo()) });
  }

  /** Keeps a step that has just been done. */
  did(step: Step): void {
    if (this.collecting) {
      this.collecting.push(step);
      return;
    }
    const { past } = this.state;
    const before = past[past.length - 1] as Step | undefined;
    const now = performance.now();
    const together = step.key !== undefined && before?.key === step.key && now - this.last < TOGETHER;
    this.last = now;
    const kept = together ? [...past.slice(0, -1), { ...step, undo: before.undo }] : [...past, step].slice(-KEPT);
    this.subject.next({ past: kept, future: [] });
  }

  undo(): void {
    const { past, future } = this.state;
    const step = past[past.length - 1] as Step | undefined;
    if (!step) return;
    this.last = 0;
    this.subject.next({ past: past.slice(0, -1), future: [...future, step] });
    step.undo();
    void this.announcer.announce(`undone: ${step.text}`);
  }

  redo(): void {
    const { past, future } = this.state;
    const step = future[future.length - 1] as Step | undefined;
    if (!step) return;
    this.last = 0;
    this.subject.next({ past: [...past, step], future: future.slice(0, -1) });
    step.redo();
    void this.announcer.announce(`done again: ${step.text}`);
  }

  /** Goes back to just after a step of the past; −1 takes all back. */
  backTo(index: number): void {
    while (this.state.past.length > index + 1) this.undo();
  }
}
