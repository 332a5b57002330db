import { TestBed } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { DEFAULT_RECIPE, decisionsOf, pairingOf } from '@hollow-stride/core';
import { NEVER, of, Subject, throwError } from 'rxjs';
import { BodyService } from '../body/body.service';
import type { MatchView } from '../body/messages';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { ProjectStore } from '../project/project.store';
import type { PairRequest, TakeSource } from '../solver/messages';
import { SolverService } from '../solver/solver.service';
import { SolverError } from '../solver/worker-client';
import { flushRack, makeRack } from '../testing/rack';
import { makeMatchView } from '../testing/views';
import { MatchStore } from './match.store';

describe('MatchStore', () => {
  const rack = makeRack();
  let view: MatchView;
  let store: MatchStore;
  let project: ProjectStore;
  let asked: { pair: PairRequest; answer: Subject<MatchView> }[];
  let bodies: jasmine.SpyObj<BodyService>;
  const turns = (): object => project.choicesFor(rack.takes[0], rack.characters[0]).turns;
  const links = (): object => project.choicesFor(rack.takes[0], rack.characters[0]).links;
  const skeletonOf = (of: { skeleton: string }) => project.skeleton(of.skeleton)!;

  beforeEach(() => {
    // debounceTime looks at the date too.
    jasmine.clock().install().mockDate();
    localStorage.clear();
    sessionStorage.clear();
    asked = [];
    bodies = jasmine.createSpyObj<BodyService>('BodyService', ['match', 'press', 'keep', 'fit', 'body', 'recipe']);
    bodies.match.and.callFake((pair) => {
      const answer = new Subject<MatchView>();
      asked.push({ pair, answer });
      return answer;
    });
    bodies.recipe.and.callFake(({ choices }, name) =>
      of({ ...DEFAULT_RECIPE, name, pairing: pairingOf(choices), solve: decisionsOf(choices) }),
    );
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        { provide: BodyService, useValue: bodies },
        { provide: SolverService, useValue: { solve: () => NEVER } },
      ],
    });
    project = TestBed.inject(ProjectStore);
    store = TestBed.inject(MatchStore);
    project.load();
    flushRack(TestBed.inject(HttpTestingController), rack);
    tick();
    view = { ...makeMatchView(), pair: asked[0].pair };
    asked[0].answer.next(view);
  });
  afterEach(() => jasmine.clock().uninstall());
  const tick = (): void => {
    jasmine.clock().tick(1);
  };
  const exported = (): { name: string; text: string } => {
    let recipe = { name: '', text: '' };
    store.recipe().subscribe((given) => (recipe = given));
    return recipe;
  };
  const notices = (): string[] => {
    let texts: string[] = [];
    TestBed.inject(NoticesService)
      .notices$.subscribe((list) => (texts = list.map(({ text }) => text)))
      .unsubscribe();
    return texts;
  };

  it('looks at the pair anew at each change, and keeps the last view meanwhile', () => {
    store.choose('left.upperArm');
    store.turnBy('front', 12);
    tick();
    expect(asked.length).toBe(2);
    expect(store.state.view).toBe(view);
    asked[1].answer.error(new SolverError({ code: 'label/missing', message: 'no legs', where: {} }));
    expect(store.state.fault?.message).toBe('no legs');
  });

  it('turns a segment on and its partner as in a mirror, both changes counted when they come at once', () => {
    store.choose('left.upperArm');
    store.turnBy('front', 10);
    store.turnBy('front', 10);
    expect(turns()).toEqual({ 'left.upperArm': [0, 0, 20], 'right.upperArm': [0, 0, -20] });
    store.setAxis(1, 5);
    expect(turns()).toEqual({ 'left.upperArm': [0, 5, 20], 'right.upperArm': [0, -5, -20] });
    store.setMirrored(false);
    store.turn('left.upperArm', [0, 0, 0]);
    expect(turns()).toEqual({ 'right.upperArm': [0, -5, -20] });
    store.alignAll();
    expect(turns()).toEqual({});
    TestBed.inject(HistoryService).undo();
    expect(turns()).toEqual({ 'right.upperArm': [0, -5, -20] });
  });

  it('moves, cuts and gives back rungs, mirrored', () => {
    store.rung('left.hand', { a: 'left.lowerArm', b: 'left.hand', t: 0.5 });
    expect(links()).toEqual({
      'left.hand': { a: 'left.lowerArm', b: 'left.hand', t: 0.5 },
      'right.hand': { a: 'right.lowerArm', b: 'right.hand', t: 0.5 },
    });
    store.rung('left.hand', null);
    expect(links()).toEqual({ 'left.hand': null, 'right.hand': null });
    store.rung('left.hand', undefined);
    expect(links()).toEqual({});
  });

  it('corrects a rest pose at a press, takes one from a frame, keeps one by name', () => {
    bodies.press.and.returnValue(of({ 'left.upperArm': [0, 0, 40] }));
    store.press('character', 'level-arms', 'Level the arms');
    expect(skeletonOf(rack.characters[0]).choices.turns).toEqual({ 'left.upperArm': [0, 0, 40] });
    const rest = { name: 'calm', rotations: {} };
    bodies.keep.and.returnValue(of(rest));
    store.restFromFrame('performer', { file: 'f', name: 'Slow bow', clip: 0 }, 41);
    expect(bodies.keep).toHaveBeenCalledWith(jasmine.objectContaining({ file: 'f' }) as unknown as TakeSource, 41, 'frame 42 of Slow bow');
    expect(skeletonOf(rack.takes[0]).choices).toEqual(jasmine.objectContaining({ rest, turns: {} }));
    store.keepRest('character', 'calm');
    expect(skeletonOf(rack.characters[0]).rests).toEqual([rest]);
    store.setRest('character', 'file');
    expect(skeletonOf(rack.characters[0]).choices).toEqual(jasmine.objectContaining({ rest: 'file', turns: {} }));
  });

  it('copies what fits to the next character and goes there, saying what does not fit', () => {
    store.choose('left.upperArm');
    store.setAxis(2, 7);
    bodies.fit.and.callFake(({ choices }) =>
      of({ choices: { ...choices, turns: {} }, dropped: ['the turn of left.upperArm is left out'] }),
    );
    store.copyTo(rack.characters[1].id);
    expect(project.state.selection.character).toBe(rack.characters[1].id);
    expect(project.choicesFor(rack.takes[0], rack.characters[1]).turns).toEqual({});
    expect(notices().at(-1)).toBe('copied to Heron; the turn of left.upperArm is left out');
  });

  it('gives a recipe that can be brought in again as one step', () => {
    store.choose('left.upperArm');
    store.setAxis(2, 7);
    store.rename('to the ferry');
    const recipe = exported();
    expect(recipe.name).toBe('to the ferry');
    store.alignAll();
    bodies.fit.and.callFake(({ choices }) => of({ choices, dropped: [] }));
    const steps = TestBed.inject(HistoryService).state.past.length;
    store.applyRecipe(recipe.text, 'a.recipe.json');
    expect(turns()).toEqual({ 'left.upperArm': [0, 0, 7], 'right.upperArm': [0, 0, -7] });
    expect(TestBed.inject(HistoryService).state.past.length).toBe(steps + 1);
    TestBed.inject(HistoryService).undo();
    expect(turns()).toEqual({});
  });

  it('says what is wrong with a recipe, and changes nothing', () => {
    store.applyRecipe('{"format": "hollow-stride/recipe", "version": 9}', 'new.recipe.json');
    expect(notices().at(-1)).toContain('new.recipe.json: the recipe has version 9');
    bodies.fit.and.returnValue(throwError(() => new SolverError({ code: 'label/missing', message: 'no joint for left.foot', where: {} })));
    store.applyRecipe(exported().text, 'other.recipe.json');
    expect(notices().at(-1)).toContain('does not fit this pair: no joint for left.foot');
    expect(TestBed.inject(HistoryService).state.past.length).toBe(0);
  });
});
