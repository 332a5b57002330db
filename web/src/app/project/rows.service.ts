import { DestroyRef, inject, Injectable } from '@angular/core';
import { Subject } from 'rxjs';
import { NoticesService } from '../notices/notices.service';
import { RowSaver, type Row, type Send } from './row-saver';

/** Rows as they are edited here: sent by and by, merged with edits of others, asked about where both changed the same. */
@Injectable({ providedIn: 'root' })
export class RowsService {
  private readonly notices = inject(NoticesService);
  private readonly subject = new Subject<{ readonly key: string; readonly row: Row | null }>();
  /** Rows as they are now, with waiting edits laid over them; null for one that is gone. */
  readonly put$ = this.subject.asObservable();
  private isAway = false;
  private readonly saver = new RowSaver({
    put: (key, row) => {
      this.isAway = false;
      this.subject.next({ key, row });
    },
    fail: (error) => this.notices.failed(error),
    away: () => this.away(),
    ask: (what, collisions, answer) => this.ask(what, collisions, answer),
  });

  constructor() {
    inject(DestroyRef).onDestroy(() => this.saver.stop());
  }

  save(key: string, change: Readonly<Record<string, unknown>>, send: Send): void {
    this.saver.save(key, change, send);
  }

  /** A row that was read, with waiting edits laid over it. */
  met<T extends { version: number }>(key: string, row: T): T {
    this.saver.learn(key, row);
    return this.saver.current(key, row);
  }

  /** True while an edit of a row has not reached the server. */
  isWaiting(key: string): boolean {
    return this.saver.isWaiting(key);
  }

  /** A row that somebody else has changed. */
  heard(key: string, row: Row): void {
    this.saver.heard(key, row);
  }

  /** The version of a row changed by another way than an edit of its fields. */
  bump(key: string, version: number): void {
    this.saver.bump(key, version);
  }

  /** Asks whose of two edits stands. */
  ask(what: string, collisions: readonly string[], answer: (whose: 'mine' | 'theirs') => void): void {
    const fields = collisions.map((path) => path.replace(/^choices\./, '')).join(', ');
    this.notices.ask(`${what} was changed in another window too: ${fields}`, [
      { text: 'Keep mine', act: () => answer('mine') },
      { text: 'Take the other', act: () => answer('theirs') },
    ]);
  }

  private away(): void {
    if (this.isAway) return;
    this.isAway = true;
    this.notices.caution('the server does not answer; your changes are kept here and sent as soon as it does');
  }
}
