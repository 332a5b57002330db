import { Observable, of, throwError } from 'rxjs';
import { random } from '../../../../core/src/math';
import { ApiError } from '../api/answers';
import { RowSaver, type Row } from './row-saver';

type Fields = Readonly<Record<string, unknown>>;
type Stored = Row & Fields;

const fault = { code: 'option' as const, message: 'refused', where: {} };

/** A server with rows, as far as a saver sees it: it answers when it is told to, refuses old versions, and can be away. */
class FakeServer {
  readonly rows = new Map<string, Stored>();
  readonly waiting: { readonly key: string; readonly answer: () => void }[] = [];
  /** Most requests of one row at a time. */
  atOnce = 0;
  away = false;

  /** An edit of somebody else. */
  edit(key: string, change: Fields): Stored {
    const row = this.rows.get(key)!;
    const next = { ...row, ...change, version: row.version + 1 };
    this.rows.set(key, next);
    return next;
  }

  request(key: string, base: number | null, change: Fields): Observable<Row> {
    return new Observable((subscriber) => {
      const answer = (): void => {
        const row = this.rows.get(key);
        if (this.away) subscriber.error(new ApiError(fault, 0));
        else if ((row?.version ?? null) !== base) subscriber.error(new ApiError(fault, 409, row ?? null));
        else {
          const next: Stored = { ...row, ...change, version: (base ?? 0) + 1 };
          this.rows.set(key, next);
          subscriber.next(next);
          subscriber.complete();
        }
      };
      this.waiting.push({ key, answer });
      this.atOnce = Math.max(this.atOnce, this.waiting.filter((one) => one.key === key).length);
    });
  }

  answerAll(): void {
    for (const { answer } of this.waiting.splice(0)) answer();
  }
}

describe('saving rows', () => {
  let server: FakeServer;
  let saver: RowSaver;
  let shown: Map<string, Row | null>;
  let asked: { readonly what: string; readonly collisions: readonly string[]; readonly answer: (whose: 'mine' | 'theirs') => void }[];
  let failures: unknown[];
  let aways: number;

  beforeEach(() => {
    jasmine.clock().install();
    server = new FakeServer();
    shown = new Map();
    asked = [];
    failures = [];
    aways = 0;
    saver = new RowSaver({
      put: (key, row) => shown.set(key, row),
      fail: (error) => failures.push(error),
      away: () => aways++,
      ask: (what, collisions, answer) => asked.push({ what, collisions, answer }),
    });
  });
  afterEach(() => {
    saver.stop();
    jasmine.clock().uninstall();
  });

  const have = (key: string, fields: Fields): void => {
    const row = { ...fields, version: 1 };
    server.rows.set(key, row);
    saver.learn(key, row);
    shown.set(key, row);
  };
  const save = (key: string, change: Fields): void =>
    saver.save(key, change, { what: `the row ${key}`, request: (base, sent) => server.request(key, base, sent) });
  /** Lets time go on and answers whatever is asked, until nothing waits. */
  const settle = (): void => {
    for (let i = 0; i < 20; i++) {
      jasmine.clock().tick(2100);
      server.answerAll();
    }
  };

  it('sends the edits of a drag as one, a moment after the last', () => {
    have('a', { x: 0 });
    for (let x = 1; x <= 20; x++) {
      save('a', { x });
      jasmine.clock().tick(100);
      expect(server.waiting.length).toBe(0);
    }
    expect(saver.isWaiting('a')).toBeTrue();
    jasmine.clock().tick(200);
    expect(server.waiting.length).toBe(1);
    server.answerAll();
    expect(server.rows.get('a')).toEqual({ x: 20, version: 2 });
    expect([saver.versionOf('a'), saver.isWaiting('a')]).toEqual([2, false]);
  });

  it('keeps one request of a row on its way; what comes meanwhile is the next, and what is shown is never older', () => {
    have('a', { x: 0, y: 0 });
    save('a', { x: 1 });
    jasmine.clock().tick(300);
    save('a', { y: 1 });
    save('a', { x: 2 });
    jasmine.clock().tick(1000);
    expect(server.waiting.length).toBe(1);
    expect(saver.current('a', { x: 0, y: 0, version: 1 })).toEqual({ x: 2, y: 1, version: 1 } as never);
    server.answerAll();
    expect(shown.get('a')).toEqual({ x: 2, y: 1, version: 2 } as never);
    settle();
    expect(server.rows.get('a')).toEqual({ x: 2, y: 1, version: 3 });
    expect(server.atOnce).toBe(1);
  });

  it('merges an edit that was overtaken, field by field and without a question', () => {
    have('a', { x: 0, y: 0, in: { p: 1, q: 1 } });
    save('a', { x: 5, in: { p: 2, q: 1 } });
    server.edit('a', { y: 7, in: { p: 1, q: 9 } });
    settle();
    expect(server.rows.get('a')).toEqual({ x: 5, y: 7, in: { p: 2, q: 9 }, version: 3 });
    expect(shown.get('a')).toEqual(server.rows.get('a') as never);
    expect([asked.length, failures.length]).toEqual([0, 0]);
  });

  for (const [whose, x] of [
    ['mine', 5],
    ['theirs', 8],
  ] as const) {
    it(`asks where both changed the same, and takes ${whose} when told so`, () => {
      have('a', { x: 0, y: 0 });
      save('a', { x: 5, y: 1 });
      server.edit('a', { x: 8 });
      settle();
      expect(asked.map(({ what, collisions }) => [what, collisions])).toEqual([['the row a', ['x']]]);
      expect(server.rows.get('a')).toEqual({ x: 8, y: 0, version: 2 });
      asked[0].answer(whose);
      settle();
      expect(server.rows.get('a')).toEqual({ x, y: 1, version: 3 });
    });
  }

  it('waits while the server is away, says so, and loses nothing', () => {
    have('a', { x: 0, y: 0 });
    server.away = true;
    save('a', { x: 1 });
    settle();
    save('a', { y: 2 });
    settle();
    expect(aways).toBeGreaterThan(1);
    expect(server.rows.get('a')).toEqual({ x: 0, y: 0, version: 1 });
    server.away = false;
    settle();
    expect(server.rows.get('a')).toEqual({ x: 1, y: 2, version: 2 });
    expect(failures).toEqual([]);
  });

  it('shows a row as the server has it once an edit cannot be made, and tells why', () => {
    have('a', { x: 0 });
    saver.save('a', { x: 99 }, { what: 'the row', request: () => throwError(() => new ApiError(fault, 422)) });
    settle();
    expect(failures.length).toBe(1);
    expect(shown.get('a')).toEqual({ x: 0, version: 1 } as never);
    expect(saver.isWaiting('a')).toBeFalse();
  });

  it('takes a row off that is gone', () => {
    have('a', { x: 0 });
    save('a', { x: 1 });
    server.rows.delete('a');
    settle();
    expect([shown.get('a'), failures.length]).toEqual([null, 1]);
  });

  it('makes a row that is not there yet, from nothing', () => {
    save('new', { x: 3 });
    settle();
    expect(server.rows.get('new')).toEqual({ x: 3, version: 1 });
    save('new', { x: 4 });
    settle();
    expect(server.rows.get('new')).toEqual({ x: 4, version: 2 });
  });

  it('shows what others do at once, but not over what waits here, and never an older state', () => {
    have('a', { x: 0 });
    saver.heard('a', server.edit('a', { x: 1 }));
    expect(shown.get('a')).toEqual({ x: 1, version: 2 } as never);
    saver.heard('a', { version: 1, x: 0 } as Row);
    expect(shown.get('a')).toEqual({ x: 1, version: 2 } as never);
    save('a', { x: 5 });
    saver.heard('a', server.edit('a', { x: 6 }));
    expect(shown.get('a')).toEqual({ x: 1, version: 2 } as never);
  });

  it('sends what waits as the page is left, by the way that needs no answer', () => {
    have('a', { x: 0 });
    const left: unknown[] = [];
    saver.save('a', { x: 1 }, { what: 'a', request: () => of({ version: 2 }), leave: (base, change) => left.push([base, change]) });
    dispatchEvent(new Event('pagehide'));
    expect(left).toEqual([[1, { x: 1 }]]);
    jasmine.clock().tick(1000);
    expect(server.waiting.length).toBe(0);
  });

  it('loses no edit and asks one thing at a time, whatever two people do and however the line is', () => {
    for (let trial = 0; trial < 60; trial++) {
      const rng = random(trial + 1);
      const key = `r${trial}`;
      have(key, { mine: 0, theirs: 0, list: { a: 0, b: 0 } });
      let [mine, theirs, a, b] = [0, 0, 0, 0];
      for (let step = 0; step < 40; step++) {
        const what = rng.integer(0, 6);
        if (what === 0) save(key, { mine: ++mine });
        if (what === 1) {
          // As a page does: a whole record is sent, with one of its parts changed.
          const { list } = saver.current(key, shown.get(key) as Stored) as unknown as { list: object };
          save(key, { list: { ...list, a: ++a } });
        }
        if (what === 2) server.edit(key, { theirs: ++theirs });
        if (what === 3) server.edit(key, { list: { ...(server.rows.get(key)!['list'] as object), b: ++b } });
        if (what === 4) jasmine.clock().tick(rng.integer(1, 400));
        if (what === 5) server.answerAll();
        if (what === 6) server.away = rng.next() < 0.3;
      }
      server.away = false;
      settle();
      expect(server.rows.get(key))
        .withContext(`trial ${trial}`)
        .toEqual(jasmine.objectContaining({ mine, theirs, list: { a, b } }));
      if (mine + a > 0) {
        expect(shown.get(key))
          .withContext(`trial ${trial}`)
          .toEqual(jasmine.objectContaining({ mine, list: jasmine.objectContaining({ a }) }) as never);
      }
      expect(saver.isWaiting(key)).toBeFalse();
    }
    expect(server.atOnce).toBe(1);
    expect([asked.length, failures.length]).toEqual([0, 0]);
  });
});
