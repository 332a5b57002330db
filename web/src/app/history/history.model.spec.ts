import { TestBed } from '@angular/core/testing';
import { random } from '../../../../core/src/math';
import { HistoryService, type Edit } from './history.service';

/** The history beside a model of it: a document of fields, and the states that it has been through. */
describe('the history, whatever is done', () => {
  type Fields = Record<string, Record<string, number>>;

  function made(document: Fields): HistoryService {
    TestBed.resetTestingModule();
    const history = TestBed.inject(HistoryService);
    history.register('field', (target, value) => (document[target] = { ...document[target], ...(value as Record<string, number>) }));
    return history;
  }
  const edit = (document: Fields, target: string, after: Record<string, number>): Edit => {
    const before = Object.fromEntries(Object.keys(after).map((key) => [key, document[target][key]]));
    document[target] = { ...document[target], ...after };
    return { kind: 'field', target, before, after };
  };
  const copy = (document: Fields): Fields => JSON.parse(JSON.stringify(document)) as Fields;
  beforeEach(() => sessionStorage.clear());
  afterAll(() => sessionStorage.clear());

  it('goes back to every state that there was, and on to every one again, also after the page was loaded anew', () => {
    for (let trial = 0; trial < 40; trial++) {
      sessionStorage.clear();
      const rng = random(trial + 1);
      const document: Fields = { a: { x: 0, y: 0 }, b: { x: 0, y: 0 } };
      let history = made(document);
      let states = [copy(document)];
      let at = 0;
      for (let step = 0; step < 60; step++) {
        const what = rng.integer(0, 9);
        if (what < 4) {
          const edits = [edit(document, rng.next() < 0.5 ? 'a' : 'b', rng.next() < 0.5 ? { x: step + 1 } : { y: step + 1 })];
          if (rng.next() < 0.3) edits.push(edit(document, 'a', { x: -step - 1 }));
          history.did({ text: `step ${step}`, edits });
          states = [...states.slice(0, at + 1), copy(document)];
          at++;
        } else if (what < 5) {
          history.together(`together ${step}`, () => {
            for (const target of ['a', 'b']) history.did({ text: '', edits: [edit(document, target, { x: 100 + step })] });
          });
          states = [...states.slice(0, at + 1), copy(document)];
          at++;
        } else if (what < 7) {
          history.undo();
          at = Math.max(0, at - 1);
        } else if (what < 8) {
          history.redo();
          at = Math.min(states.length - 1, at + 1);
        } else if (what < 9) {
          const to = rng.integer(-1, at - 1);
          history.backTo(to);
          at = Math.min(at, to + 1);
        } else history = made(document);
        expect(document).withContext(`trial ${trial}, step ${step}`).toEqual(states[at]);
        expect([history.state.past.length, history.state.future.length]).toEqual([at, states.length - 1 - at]);
      }
      while (history.state.future.length > 0) history.redo();
      expect(document).toEqual(states[states.length - 1]);
      while (history.state.past.length > 0) history.undo();
      expect(document).toEqual({ a: { x: 0, y: 0 }, b: { x: 0, y: 0 } });
    }
  });

  it('makes one step of a drag, however many fields it goes over, and takes all of it back', () => {
    for (let trial = 0; trial < 20; trial++) {
      sessionStorage.clear();
      const rng = random(trial + 50);
      const document: Fields = { a: { x: 1, y: 2 }, b: { x: 3, y: 4 } };
      const history = made(document);
      const before = copy(document);
      for (let i = 0; i < 15; i++) {
        const target = rng.next() < 0.7 ? 'a' : 'b';
        history.did({
          text: 'drag',
          key: 'drag',
          edits: [edit(document, target, rng.next() < 0.5 ? { x: rng.next() } : { y: rng.next() })],
        });
      }
      const after = copy(document);
      expect(history.state.past.length).toBe(1);
      history.undo();
      expect(document).toEqual(before);
      history.redo();
      expect(document).toEqual(after);
    }
  });

  it('does without the browser’s storage, and starts empty where something else stands in it', () => {
    sessionStorage.setItem('hollow-stride.history', '{"past": 7');
    expect(made({}).state).toEqual({ past: [], future: [] });
    spyOn(Storage.prototype, 'setItem').and.throwError('full');
    const document: Fields = { a: { x: 0 } };
    const history = made(document);
    history.did({ text: 'step', edits: [edit(document, 'a', { x: 5 })] });
    history.undo();
    expect(document['a']['x']).toBe(0);
  });
});
