import { TestBed } from '@angular/core/testing';
import { HistoryService } from './history.service';

describe('HistoryService', () => {
  let history: HistoryService;
  let value: string;
  const set = (to: string, key?: string): void => {
    const before = value;
    value = to;
    history.did({ text: `to ${to}`, key, undo: () => (value = before), redo: () => (value = to) });
  };

  beforeEach(() => {
    history = TestBed.inject(HistoryService);
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
});
