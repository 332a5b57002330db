import {
  DEFAULT_SKELETON,
  DEFAULT_TAKE,
  FaultError,
  makeTouchUp,
  recipeSchema,
  solveReady,
  writeBvh,
  type BvhLayout,
} from '@hollow-stride/core';
import * as v from 'valibot';
import { makeFile, randomShape, walk } from '../../../../core/src/testing';
import { DEFAULT_CHOICES } from '../project/project.store';
import { fileOf, jobOf, readyOf, recipeOf, takeOf } from './jobs';
import type { PairRequest } from './messages';

describe('what the solver’s worker makes of a request', () => {
  const shape = randomShape(31, { clavicles: true });
  const made = makeFile(shape, { name: 'walk.bvh' }, walk(shape, { seed: 31, frames: 120 }));
  const text = writeBvh(made.skeleton, made.clips[0], made.layout as BvhLayout);
  const real = globalThis.fetch;
  let asked: string[];
  let broken: boolean;
  /** Each test has files of its own: what was read once is kept. */
  let number = 0;
  let pair: PairRequest;

  beforeEach(() => {
    asked = [];
    broken = false;
    globalThis.fetch = (address) => {
      asked.push(String(address));
      return Promise.resolve(broken ? new Response('', { status: 503 }) : new Response(text as BodyInit));
    };
    const body = { clip: 0, skeleton: DEFAULT_SKELETON, reference: null };
    number++;
    pair = {
      take: { ...body, file: `take${number}`, name: 'walk.bvh', choices: DEFAULT_TAKE },
      character: { ...body, file: `body${number}`, name: 'body.bvh' },
      choices: DEFAULT_CHOICES,
      touchUps: [],
      layers: [],
    };
  });
  afterEach(() => (globalThis.fetch = real));

  it('fetches a file once, however often it is asked for, and the latest few stay', async () => {
    const [a, b] = await Promise.all([fileOf(pair.take), fileOf(pair.take)]);
    expect(a).toBe(b);
    expect(asked).toEqual([`/api/files/take${number}`]);
    for (let i = 0; i < 9; i++) await fileOf({ file: `other${number}.${i}`, name: 'other.bvh' });
    await fileOf(pair.take);
    expect(asked.filter((address) => address.endsWith(`take${number}`)).length).toBe(2);
  });

  it('says which file cannot be fetched, and tries again when it is asked again', async () => {
    broken = true;
    await expectAsync(fileOf(pair.take)).toBeRejectedWithError(FaultError, /503/);
    broken = false;
    expect((await fileOf(pair.take)).clips[0].frames).toBe(120);
  });

  it('makes a take as it is set', async () => {
    const { clip } = await takeOf({ ...pair.take, choices: { ...DEFAULT_TAKE, from: 20 / 60, to: 79 / 60 } });
    expect(clip.frames).toBe(60);
    expect((await takeOf(pair.take)).clip.frames).toBe(120);
  });

  it('makes a recipe of every decision that is one, and that gives the same again', async () => {
    const touchUp = makeTouchUp({ kind: 'arms', value: 12 });
    const recipe = await recipeOf({ ...pair, choices: { ...DEFAULT_CHOICES, inPlace: true, stride: 0.8 }, touchUps: [touchUp] }, 'mine');
    expect(v.parse(recipeSchema, JSON.parse(JSON.stringify(recipe)))).toEqual(recipe);
    expect([recipe.name, recipe.solve.inPlace, recipe.pairing.stride, recipe.touchUps]).toEqual(['mine', true, 0.8, [touchUp]]);
  });

  it('solves a pair of one body to the motion that it has', async () => {
    const ready = await readyOf(pair);
    const { clip } = solveReady(ready);
    expect(clip.frames).toBe(120);
    let worst = 0;
    // Feet that stand are held: of all else nothing is changed.
    const upper = ready.character.roles.get('left.upperArm')! * 4;
    const width = ready.character.skeleton.parents.length * 4;
    for (let f = 0; f < 120; f++) {
      for (let c = 0; c < 4; c++)
        worst = Math.max(worst, Math.abs(clip.rotations[f * width + upper + c] - ready.take.rotations[f * width + upper + c]));
    }
    expect(worst).toBeLessThan(1e-3);
    expect((await jobOf(pair)).recipe.delivery).toEqual((await recipeOf(pair, 'as on the page')).delivery);
  });
});
