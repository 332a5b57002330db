import { TestBed } from '@angular/core/testing';
import type { ChangeTakes } from '@hollow-stride/contract';
import { of, throwError } from 'rxjs';
import { random } from '../../../../core/src/math';
import { ApiService } from '../api/api.service';
import { HistoryService, type Apply, type Step } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { EditsStore } from '../project/edits.store';
import { ProjectStore } from '../project/project.store';
import { SeveralStore } from './several.store';

describe('takes that are chosen together', () => {
  const ids = Array.from({ length: 12 }, (_, i) => `t${i}`);
  let several: SeveralStore;
  let sent: ChangeTakes[];
  let steps: Step[];
  let appliers: Map<string, Apply>;
  let notices: jasmine.SpyObj<NoticesService>;
  let loads: number;
  /** Takes that a change makes different: as the server tells. */
  let different: (request: ChangeTakes) => string[];
  let api: jasmine.SpyObj<ApiService>;

  beforeEach(() => {
    sent = [];
    steps = [];
    appliers = new Map();
    loads = 0;
    different = ({ takes }) => takes;
    notices = jasmine.createSpyObj<NoticesService>('NoticesService', ['done', 'fault', 'failed']);
    api = jasmine.createSpyObj<ApiService>('ApiService', ['changeTakes', 'labelTakes']);
    api.changeTakes.and.callFake((request) => {
      sent.push(request);
      return of(different(request));
    });
    TestBed.configureTestingModule({
      providers: [
        { provide: ApiService, useValue: api },
        { provide: ProjectStore, useValue: { load: () => loads++ } },
        { provide: EditsStore, useValue: { putLabels: () => undefined } },
        { provide: NoticesService, useValue: notices },
        {
          provide: HistoryService,
          useValue: {
            register: (kind: string, apply: Apply) => appliers.set(kind, apply),
            did: (step: Step) => steps.push(step),
            undo: () => undefined,
          },
        },
      ],
    });
    several = TestBed.inject(SeveralStore);
  });
  const chosen = (): string[] => [...several.chosen].sort((a, b) => ids.indexOf(a) - ids.indexOf(b));

  it('go in and out one by one, and as ranges from the one that was touched last', () => {
    several.toggle('t2');
    several.extendTo('t5', ids);
    expect(chosen()).toEqual(['t2', 't3', 't4', 't5']);
    several.extendTo('t0', ids);
    expect(chosen()).toEqual(['t0', 't1', 't2', 't3', 't4', 't5']);
    several.toggle('t3');
    expect(chosen()).not.toContain('t3');
    several.startAt('t8');
    expect(chosen()).toEqual([]);
    several.extendTo('t9', ids);
    expect(chosen()).toEqual(['t8', 't9']);
  });

  it('are exactly those of a model, whatever is pressed', () => {
    const rng = random(8);
    let model = new Set<string>();
    let anchor: string | undefined;
    for (let i = 0; i < 400; i++) {
      const id = ids[rng.integer(0, ids.length - 1)];
      const what = rng.integer(0, 4);
      if (what === 0) {
        several.toggle(id);
        if (!model.delete(id)) model.add(id);
        anchor = id;
      } else if (what === 1) {
        several.startAt(id);
        model = new Set();
        anchor = id;
      } else if (what === 2) {
        several.extendTo(id, ids);
        const [a, b] = [ids.indexOf(anchor ?? id), ids.indexOf(id)].sort((x, y) => x - y);
        ids.slice(a, b + 1).forEach((one) => model.add(one));
      } else if (what === 3 && rng.next() < 0.2) {
        several.all(ids);
        model = new Set(ids);
      } else if (what === 4 && rng.next() < 0.2) {
        several.none();
        model = new Set();
      }
      expect(several.chosen).toEqual(model);
    }
  });

  it('are tagged as one step that puts back only what it made different', () => {
    several.all(['t1', 't2', 't3']);
    different = ({ takes }) => takes.filter((id) => id !== 't2');
    several.tag('quay');
    expect(sent).toEqual([{ takes: ['t1', 't2', 't3'], change: { kind: 'tag', tag: 'quay' } }]);
    expect(steps[0].text).toBe('tag 3 takes "quay"');
    const [{ kind, before, after }] = steps[0].edits;
    appliers.get(kind)!('', before);
    expect(sent[1]).toEqual({ takes: ['t1', 't3'], change: { kind: 'untag', tag: 'quay' } });
    appliers.get(kind)!('', after);
    expect(sent[2]).toEqual({ takes: ['t1', 't3'], change: { kind: 'tag', tag: 'quay' } });
    expect(loads).toBe(3);
    expect(chosen()).toEqual(['t1', 't2', 't3']);
  });

  it('are set as one step; those that had nothing to change are counted and stay as they are', () => {
    several.all(ids.slice(0, 4));
    different = ({ takes }) => takes.slice(0, 1);
    several.trim();
    several.rate(50);
    expect(sent.map(({ change }) => change)).toEqual([{ kind: 'trim' }, { kind: 'rate', rate: 50 }]);
    expect(steps.map(({ edits: [edit] }) => edit.before)).toEqual([
      { takes: ['t0'], change: { kind: 'untrim' } },
      { takes: ['t0'], change: { kind: 'unrate' } },
    ]);
    expect(notices.done.calls.mostRecent().args[0]).toContain('3 had nothing to change');
    several.start(1.5);
    several.reverse();
    several.loop(0.4);
    expect(sent.slice(2).map(({ change }) => change)).toEqual([
      { kind: 'start', seconds: 1.5 },
      { kind: 'reverse' },
      { kind: 'loop', seconds: 0.4 },
    ]);
    expect(steps.slice(2).map(({ edits: [edit] }) => (edit.before as ChangeTakes).change)).toEqual([
      { kind: 'untrim' },
      { kind: 'reverse' },
      { kind: 'unloop' },
    ]);
    steps.length = 2;
    different = () => [];
    several.clean();
    expect(steps.length).toBe(2);
    expect(notices.done.calls.mostRecent().args[0]).toContain('there is nothing to change');
  });

  it('are none once they are off the rack, and come back', () => {
    several.all(['t4']);
    several.remove();
    expect([steps[0].text, chosen()]).toEqual(['remove 1 take from the rack', []]);
    const [{ kind, before }] = steps[0].edits;
    appliers.get(kind)!('', before);
    expect(sent[1].change).toEqual({ kind: 'restore' });
  });

  it('do nothing where none is chosen, and say why where something fails', () => {
    several.tag('x');
    several.remove();
    expect([sent.length, steps.length]).toEqual([0, 0]);
    several.all(['t1']);
    api.changeTakes.and.returnValue(throwError(() => new Error('away')));
    several.untag('x');
    expect([notices.failed.calls.count(), steps.length]).toEqual([1, 0]);
  });

  it('are labelled by a scheme: a step for what it fits, a word for each that it passes over', () => {
    several.all(['t1', 't2']);
    api.labelTakes.and.returnValue(
      of({
        skeletons: [{ id: 's1', name: 'Crew', before: null, after: { hips: 'Seat' } }],
        passed: [{ name: 'Gull', why: 'it has no legs' }],
      }),
    );
    several.label({ id: 'scheme', name: 'Harbour' });
    expect(steps.map(({ text }) => text)).toEqual(['label Crew by Harbour']);
    expect(notices.fault.calls.mostRecent().args[0].message).toBe('Gull was passed over: it has no legs');
    api.labelTakes.and.returnValue(of({ skeletons: [], passed: [] }));
    several.label({ id: 'scheme', name: 'Harbour' });
    expect(steps.length).toBe(1);
  });
});
