import type { Observable, Subscription } from 'rxjs';
import { ApiError } from '../api/answers';
import { merge3, type Merged } from './merge';

/** A row as the server has it. */
export interface Row {
  readonly version: number;
}

type Fields = Readonly<Record<string, unknown>>;

/** How the fields of a row are sent. */
export interface Send {
  /** Of the thing, for people: "the pairing to Heron". */
  readonly what: string;
  /** The fields as they were, of a row that the server does not have yet. */
  readonly before?: Fields;
  readonly request: (base: number | null, change: Fields) => Observable<Row>;
  /** The same as the page is left: nobody waits for an answer. */
  readonly leave?: (base: number | null, change: Fields) => void;
}

export interface RowSaverHooks {
  /** A row as it is now: the server's, with what waits to be sent laid over. Null where it is gone. */
  readonly put: (key: string, row: Row | null) => void;
  readonly fail: (error: unknown) => void;
  /** The server does not answer; what waits is sent again by itself. */
  readonly away: () => void;
  /** Two edits collide: whose stands. */
  readonly ask: (what: string, collisions: readonly string[], answer: (whose: 'mine' | 'theirs') => void) => void;
}

interface Entry {
  /** As the server acknowledged it last; undefined for a row that is not there yet. */
  known: Row | undefined;
  waiting: Fields | undefined;
  sent: Fields | undefined;
  send: Send | undefined;
  timer: ReturnType<typeof setTimeout> | undefined;
  running: Subscription | undefined;
}

const WAIT = 250;
const AGAIN = 2000;

/**
 * Sends edits of rows a moment after the last of them, one row's edits merged, so that a drag is one request; one request of a row at a
 * time, each naming the version that it was made from. An edit that was overtaken elsewhere is merged with what the row has become;
 * where both changed the same, a person is asked. Waiting edits are sent at once when the page is left.
 */
export class RowSaver {
  private readonly entries = new Map<string, Entry>();

  constructor(private readonly hooks: RowSaverHooks) {
    addEventListener('pagehide', this.flush);
  }

  /** A row as the server has it, as it was read or told of. An older one is passed over. */
  learn(key: string, row: Row): void {
    const entry = this.entry(key);
    if (entry.known && entry.known.version > row.version) return;
    // While an edit is on its way, what it was made from is needed to merge it.
    if (entry.sent || entry.waiting) return;
    entry.known = row;
  }

  /** A row that somebody else has changed: shown at once where nothing of ours waits. */
  heard(key: string, row: Row): void {
    const entry = this.entry(key);
    if (entry.sent || entry.waiting || (entry.known && entry.known.version >= row.version)) return;
    entry.known = row;
    this.hooks.put(key, row);
  }

  /** The version of a row went on by another way than an edit of ours. */
  bump(key: string, version: number): void {
    const entry = this.entry(key);
    if (entry.known && entry.known.version < version) entry.known = { ...entry.known, version };
  }

  versionOf(key: string): number | undefined {
    return this.entries.get(key)?.known?.version;
  }

  /** True while an edit of a row has not reached the server. */
  isWaiting(key: string): boolean {
    const entry = this.entries.get(key);
    return entry !== undefined && (entry.waiting !== undefined || entry.sent !== undefined);
  }

  /** A row as it was read, or as it was told of since, with what waits to be sent laid over. */
  current<T extends Row>(key: string, row: T): T {
    const entry = this.entries.get(key);
    if (!entry) return row;
    const { known } = entry;
    return { ...row, ...(known && known.version > row.version ? known : undefined), ...entry.sent, ...entry.waiting };
  }

  save(key: string, change: object, send: Send): void {
    const entry = this.entry(key);
    entry.waiting = { ...entry.waiting, ...change };
    entry.send = send;
    this.wait(key, entry, WAIT);
  }

  /** Sends all that waits, without waiting for answers. */
  readonly flush = (): void => {
    for (const [key, entry] of this.entries) {
      clearTimeout(entry.timer);
      if (!entry.waiting || entry.sent) continue;
      const { waiting, send, known } = entry;
      entry.waiting = undefined;
      if (send?.leave) send.leave(known?.version ?? null, waiting);
      else {
        entry.waiting = waiting;
        this.go(key, entry);
      }
    }
  };

  /** Lets go of what waits; nothing is sent any more. */
  stop(): void {
    removeEventListener('pagehide', this.flush);
    for (const { timer, running } of this.entries.values()) {
      clearTimeout(timer);
      running?.unsubscribe();
    }
    this.entries.clear();
  }

  private entry(key: string): Entry {
    const found = this.entries.get(key);
    if (found) return found;
    const made: Entry = { known: undefined, waiting: undefined, sent: undefined, send: undefined, timer: undefined, running: undefined };
    this.entries.set(key, made);
    return made;
  }

  private wait(key: string, entry: Entry, ms: number): void {
    clearTimeout(entry.timer);
    entry.timer = setTimeout(() => this.go(key, entry), ms);
  }

  private go(key: string, entry: Entry): void {
    if (entry.sent || !entry.waiting) return;
    entry.sent = entry.waiting;
    entry.waiting = undefined;
    this.request(key, entry);
  }

  private request(key: string, entry: Entry): void {
    const { send, sent } = entry;
    if (!send || !sent) return;
    entry.running = send.request(entry.known?.version ?? null, sent).subscribe({
      next: (row) => this.settled(key, entry, row),
      error: (error: unknown) => this.failed(key, entry, error),
    });
  }

  private settled(key: string, entry: Entry, row: Row): void {
    entry.known = row;
    entry.sent = undefined;
    this.hooks.put(key, { ...row, ...entry.waiting });
    if (entry.waiting) this.wait(key, entry, 0);
  }

  private failed(key: string, entry: Entry, error: unknown): void {
    const { sent, known, send } = entry;
    if (!(error instanceof ApiError) || !sent || !send) {
      this.give(key, entry, error);
      return;
    }
    if (error.status === 0 || error.status === 503) {
      // Nothing is lost for that: it is sent again, with what has been changed meanwhile.
      entry.sent = undefined;
      entry.waiting = { ...sent, ...entry.waiting };
      this.hooks.away();
      this.wait(key, entry, AGAIN);
      return;
    }
    if (error.status !== 409 || error.current === undefined) {
      this.give(key, entry, error);
      return;
    }
    const theirs = error.current as (Row & Fields) | null;
    if (theirs === null) {
      this.give(key, entry, error);
      this.hooks.put(key, null);
      return;
    }
    const base = (known ?? send.before ?? {}) as Fields;
    // What waits was made on top of what is sent: it is merged after it, or it would undo what others did meanwhile.
    const merged = (whose?: 'mine' | 'theirs'): { readonly sent: Merged; readonly waiting: Merged } => {
      const first = merge3(base, sent, theirs, whose);
      return { sent: first, waiting: merge3({ ...base, ...sent }, entry.waiting ?? {}, { ...theirs, ...first.value }, whose) };
    };
    const goOn = (whose?: 'mine' | 'theirs'): void => {
      const now = merged(whose);
      entry.known = theirs;
      entry.sent = now.sent.value;
      if (entry.waiting) entry.waiting = now.waiting.value;
      this.hooks.put(key, { ...theirs, ...entry.sent, ...entry.waiting });
      this.request(key, entry);
    };
    const now = merged();
    const collisions = [...new Set([...now.sent.collisions, ...now.waiting.collisions])];
    if (collisions.length === 0) goOn();
    else this.hooks.ask(send.what, collisions, goOn);
  }

  /** An edit that cannot be made: the row is shown as the server has it. */
  private give(key: string, entry: Entry, error: unknown): void {
    entry.sent = undefined;
    this.hooks.fail(error);
    if (entry.known) this.hooks.put(key, { ...entry.known, ...entry.waiting });
    if (entry.waiting) this.wait(key, entry, 0);
  }
}
