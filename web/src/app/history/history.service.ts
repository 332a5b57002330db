import { inject, Injectable } from '@angular/core';
import { LiveAnnouncer } from '@angular/cdk/a11y';
import { BehaviorSubject } from 'rxjs';

/** One change of one thing, as data: it can be undone after the page was loaded again. */
export interface Edit {
  /** Who applies it: a name under which somebody registered. */
  readonly kind: string;
  /** The change in the user's words. */
  readonly target: string;
  readonly before: unknown;
  readonly after: unknown;
}

/** A decision that can be undone. */
export interface Step {
  readonly text: string;
  readonly edits: readonly Edit[];
  /** Steps with the same key that follow each other at once are one: a drag, a number that is stepped. */
  readonly key?: string;
}

export interface HistoryState {
  readonly past: readonly Step[];
  readonly future: readonly Step[];
}

/** Puts a value in the place of another. */
export type Apply = (target: string, value: unknown) => void;

const KEPT = 200;
const TOGETHER = 900;
/** Where the steps of this tab lie while it is loaded again. */
const STORED = 'hollow-stride.history';
/** Room for all steps in the browser's storage, in characters; the oldest steps are dropped first. */
const MOST_STORED = 1_500_000;

/** Undo and redo of every decision, in one list that says what each step was. It is kept for as long as the tab is. */
@Injectable({ providedIn: 'root' })
export class HistoryService {
  private readonly announcer = inject(LiveAnnouncer);
  private readonly subject = new BehaviorSubject<HistoryState>(stored());
  readonly state$ = this.subject.asObservable();
  private readonly appliers = new Map<string, Apply>();
  private last = 0;
  private collecting: Edit[] | undefined;

  get state(): HistoryState {
    return this.subject.value;
  }

  /** Says who applies edits of a kind. */
  register(kind: string, apply: Apply): void {
    this.appliers.set(kind, apply);
  }

  /** Makes one step of all that is done in `act`. */
  together(text: string, act: () => void): void {
    const edits: Edit[] = [];
    const outer = this.collecting;
    this.collecting = edits;
    try {
      act();
    } finally {
      this.collecting = outer;
    }
    if (edits.length > 0) this.did({ text, edits });
  }

  /** Keeps a step that has just been done. */
  did(step: Step): void {
    if (this.collecting) {
      this.collecting.push(...step.edits);
      return;
    }
    const { past } = this.state;
    const before = past[past.length - 1] as Step | undefined;
    const now = performance.now();
    const together = step.key !== undefined && before?.key === step.key && now - this.last < TOGETHER;
    this.last = now;
    const kept = together ? [...past.slice(0, -1), { ...step, edits: joined(before.edits, step.edits) }] : [...past, step].slice(-KEPT);
    this.put({ past: kept, future: [] });
  }

  undo(): void {
    const { past, future } = this.state;
    const step = past[past.length - 1] as Step | undefined;
    if (!step) return;
    this.last = 0;
    this.put({ past: past.slice(0, -1), future: [...future, step] });
    for (const { kind, target, before } of [...step.edits].reverse()) this.appliers.get(kind)?.(target, before);
    void this.announcer.announce(`undone: ${step.text}`);
  }

  redo(): void {
    const { past, future } = this.state;
    const step = future[future.length - 1] as Step | undefined;
    if (!step) return;
    this.last = 0;
    this.put({ past: [...past, step], future: future.slice(0, -1) });
    for (const { kind, target, after } of step.edits) this.appliers.get(kind)?.(target, after);
    void this.announcer.announce(`done again: ${step.text}`);
  }

  /** Goes back to just after a step of the past; −1 undoes all. */
  backTo(index: number): void {
    while (this.state.past.length > index + 1) this.undo();
  }

  private put(state: HistoryState): void {
    this.subject.next(state);
    store(state);
  }
}

/** Edits of two steps that are one: what each thing was before the first, and is after the last. */
function joined(first: readonly Edit[], then: readonly Edit[]): Edit[] {
  const out = [...first];
  for (const edit of then) {
    const at = out.findIndex(({ kind, target }) => kind === edit.kind && target === edit.target);
    if (at < 0) out.push(edit);
    else out[at] = { ...edit, before: over(edit.before, out[at].before), after: over(out[at].after, edit.after) };
  }
  return out;
}

/** A record with the fields of another laid over its own; anything else is replaced. */
function over(below: unknown, above: unknown): unknown {
  const isRecord = (value: unknown): value is object => typeof value === 'object' && value !== null && !Array.isArray(value);
  return isRecord(below) && isRecord(above) ? { ...below, ...above } : above;
}

function stored(): HistoryState {
  try {
    const { past, future } = JSON.parse(sessionStorage.getItem(STORED) ?? '{}') as Partial<HistoryState>;
    return { past: past ?? [], future: future ?? [] };
  } catch {
    return { past: [], future: [] };
  }
}

function store({ past, future }: HistoryState): void {
  let from = 0;
  let text = JSON.stringify({ past, future });
  while (text.length > MOST_STORED && from < past.length) {
    from += Math.max(1, Math.ceil((past.length - from) / 4));
    text = JSON.stringify({ past: past.slice(from), future });
  }
  try {
    sessionStorage.setItem(STORED, text);
  } catch {
    // A browser that keeps nothing forgets the steps with the page.
    sessionStorage.removeItem(STORED);
  }
}
