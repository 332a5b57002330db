import { TestBed } from '@angular/core/testing';
import { HistoryService } from './history.service';

describe('HistoryService', () => {
  let history: HistoryService;
  let value: string;
  const set = (to: string, key?: string): void => {
    const before = value;
    value = to;
    history.did({ text: `to ${to}`, key, edits: [{ kind: 'value', target: '', before, after: to }] });
  };

  beforeEach(() => {
    sessionStorage.clear();
    history = TestBed.inject(HistoryService);
    history.register('value', (_, to) => (value = to as string));
    value = 'a';
  });

  it('takes steps back and does them again, and forgets what was undone when another step comes', () => {
    set('b');
    set('c');
    history.undo();
    expect(value).toBe('b');
    history.redo();
    expect(value).toBe('c');
    history.undo();
    set('d');
    expect(history.state.future).toEqual([]);
    history.redo();
    expect(value).toBe('d');
    expect(history.state.past.map(({ text }) => text)).toEqual(['to b', 'to d']);
  });

  it('makes one step of those with the same key that follow at once, and of those with none two', () => {
    set('b', 'drag');
    set('c', 'drag');
    set('d');
    set('e');
    expect(history.state.past.length).toBe(3);
    history.backTo(0);
    expect(value).toBe('c');
    history.undo();
    expect(value).toBe('a');
  });

  it('makes one step of what is done together, taken back in reverse', () => {
    history.together('both', () => {
      set('b');
      set('c');
    });
    expect(history.state.past.map(({ text }) => text)).toEqual(['both']);
    history.undo();
    expect(value).toBe('a');
    history.redo();
    expect(value).toBe('c');
    history.together('nothing', () => undefined);
    expect(history.state.past.length).toBe(1);
  });

  it('keeps the latest two hundred and goes back to before all of them', () => {
    for (let i = 0; i < 210; i++) set(String(i));
    expect(history.state.past.length).toBe(200);
    history.backTo(-1);
    expect(value).toBe('9');
    expect(history.state.past.length).toBe(0);
  });

  it('is there after the page was loaded again, and undoes what was done before', () => {
    set('b');
    set('c');
    history.undo();
    TestBed.resetTestingModule();
    const again = TestBed.inject(HistoryService);
    again.register('value', (_, to) => (value = to as string));
    expect([again.state.past, again.state.future].map((list) => list.map(({ text }) => text))).toEqual([['to b'], ['to c']]);
    again.redo();
    expect(value).toBe('c');
    again.backTo(-1);
    expect(value).toBe('a');
    // A history larger than the browser keeps drops its oldest steps and carries on.
    for (let i = 0; i < 20; i++)
      again.did({ text: `${i}`, edits: [{ kind: 'value', target: '', before: 'x'.repeat(200_000), after: `${i}` }] });
    TestBed.resetTestingModule();
    const third = TestBed.inject(HistoryService).state.past;
    expect(third.length).toBeGreaterThan(2);
    expect([third.length < 20, third.at(-1)?.text]).toEqual([true, '19']);
    sessionStorage.setItem('hollow-stride.history', '{nonsense');
    TestBed.resetTestingModule();
    expect(TestBed.inject(HistoryService).state).toEqual({ past: [], future: [] });
  });

  it('keeps of a drag what was there before it and what is there after it, field by field', () => {
    const edit = (before: object, after: object) => ({ text: 'drag', key: 'd', edits: [{ kind: 'value', target: 't', before, after }] });
    history.did(edit({ a: 1 }, { a: 2 }));
    history.did(edit({ b: 5 }, { b: 6 }));
    history.did(edit({ a: 2 }, { a: 3 }));
    expect(history.state.past.length).toBe(1);
    expect(history.state.past[0].edits).toEqual([{ kind: 'value', target: 't', before: { a: 1, b: 5 }, after: { a: 3, b: 6 } }]);
  });
});
