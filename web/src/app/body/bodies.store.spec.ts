import { TestBed } from '@angular/core/testing';
import { BehaviorSubject, Subject } from 'rxjs';
import { DEFAULT_SKELETON, type SkeletonChoices } from '@hollow-stride/core';
import { ProjectStore } from '../project/project.store';
import type { BodySource } from '../solver/messages';
import { SolverError } from '../solver/worker-client';
import { makeBodyView } from '../testing/views';
import { BodiesStore, type BodyState } from './bodies.store';
import { BodyService } from './body.service';
import { editsToProject } from '../testing/edits';
import type { BodyView } from './messages';

describe('BodiesStore', () => {
  const view = makeBodyView();
  let asked: { source: BodySource; answer: Subject<BodyView> }[];
  let take: BehaviorSubject<{ file: string; skeleton: SkeletonChoices }>;
  let rack: BehaviorSubject<number>;
  let states: BodyState[];

  beforeEach(() => {
    jasmine.clock().install().mockDate();
    asked = [];
    states = [];
    take = new BehaviorSubject({ file: 'a', skeleton: DEFAULT_SKELETON });
    rack = new BehaviorSubject(0);
    TestBed.configureTestingModule({
      providers: [
        ...editsToProject,
        {
          provide: ProjectStore,
          useValue: {
            take$: take,
            character$: new BehaviorSubject(undefined),
            rack$: rack,
            takeSource: (of: object) => ({ name: 'a.bvh', clip: 0, choices: {}, ...of }),
          },
        },
        {
          provide: BodyService,
          useValue: {
            body: (source: BodySource) => {
              const answer = new Subject<BodyView>();
              asked.push({ source, answer });
              return answer;
            },
          },
        },
      ],
    });
    TestBed.inject(BodiesStore).performer$.subscribe((state) => states.push(state));
    tick();
  });
  afterEach(() => jasmine.clock().uninstall());
  const tick = (): void => {
    jasmine.clock().tick(1);
  };

  it('asks for the body of what is chosen, and not again while nothing that it depends on changes', () => {
    expect(asked.map(({ source }) => source.file)).toEqual(['a']);
    expect('choices' in asked[0].source).toBeFalse();
    asked[0].answer.next(view);
    expect(states.at(-1)?.view).toBe(view);
    rack.next(1);
    tick();
    expect(asked.length).toBe(1);
  });

  it('keeps the last view of the same file while the next is on its way, and lets another file’s go at once', () => {
    asked[0].answer.next(view);
    take.next({ file: 'a', skeleton: { ...DEFAULT_SKELETON, up: '+Z' } });
    tick();
    expect(asked.length).toBe(2);
    expect(states.at(-1)?.view).toBe(view);
    take.next({ file: 'b', skeleton: DEFAULT_SKELETON });
    tick();
    expect(states.at(-1)).toEqual(jasmine.objectContaining({ view: undefined, fault: undefined }));
  });

  it('says why there is no view', () => {
    asked[0].answer.error(new SolverError({ code: 'file/empty', message: 'it is empty', where: {} }));
    expect(states.at(-1)?.fault?.message).toBe('it is empty');
  });
});
