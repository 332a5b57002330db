import { ClipReader } from '../clip';
import { DEFAULT_RECIPE, makeLayer, makeTouchUp, type Recipe } from '../recipe';
import { makeFile, randomShape, walk } from '../testing';
import type { Transfer } from '../solve';
import { solveAround, type SolvedBefore } from './around';
import { JobMemory, prepare, solveBelow } from './job';

describe('a job that changes, solved anew about one frame', () => {
  const shape = randomShape(61, { clavicles: true });
  const FRAMES = 1200;
  const FPS = 60;
  const take = makeFile(
    shape,
    { name: 'long.bvh', metres: 0.01 },
    walk(shape, { seed: 61, frames: FRAMES, fps: FPS, roll: 20, noise: 0.001 }),
  );
  const [character, other] = [62, 63].map((seed) => makeFile(randomShape(seed), { name: 'body.bvh', axes: seed }));
  const memory = new JobMemory();
  const solved = (change: Partial<Recipe> = {}, body = character, from = take): SolvedBefore => {
    const ready = prepare({ take: from, clip: 0, character: body, recipe: { ...DEFAULT_RECIPE, ...change } }, memory);
    return { ready, below: solveBelow(ready, memory) };
  };
  const before = solved();
  const places = ({ pairing, clip }: Transfer, frame: number): Float64Array =>
    new ClipReader(pairing.character.skeleton, clip).at(frame).positions.slice();
  const apart = (a: Transfer, b: Transfer, frame: number): number => {
    const other = places(b, frame);
    return places(a, frame).reduce((worst, x, i) => Math.max(worst, Math.abs(x - other[i])), 0);
  };
  const AT = 600;
  const CHANGES: readonly (readonly [string, Partial<Recipe>])[] = [
    ['a handle', { touchUps: [makeTouchUp({ kind: 'hips', value: -5, mask: { from: 8, to: 12, fade: 0.3 } })] }],
    ['a footprint', { touchUps: [makeTouchUp({ kind: 'stepsOut', side: 'left', value: 9, mask: { from: 8, to: 12, fade: 0.3 } })] }],
    [
      'a bar',
      { take: { ...DEFAULT_RECIPE.take, plants: [{ kind: 'remove', side: 'left', part: 'ball', from: 9.5, to: 10.5, height: null }] } },
    ],
    ['a dial', { pairing: { ...DEFAULT_RECIPE.pairing, stride: 0.8 } }],
  ];

  it('is there as the whole is solved, and elsewhere as it was', () => {
    for (const [name, change] of CHANGES) {
      const { ready, below: whole } = solved(change);
      const near = solveAround(ready, before, AT)!;
      expect(Math.max(...[560, 580, 600, 620, 640].map((f) => apart(whole, before.below, f))))
        .withContext(name)
        .toBeGreaterThan(0.003);
      for (const frame of [541, 570, AT, 630, 659])
        expect(apart(near, whole, frame))
          .withContext(`${name}, frame ${frame}`)
          .toBeLessThan(0.001);
      for (const frame of [0, 539, 661, FRAMES - 1])
        expect(apart(near, before.below, frame))
          .withContext(`${name}, frame ${frame}`)
          .toBeLessThan(1e-6);
      expect(near.contacts).toBe(ready.contacts);
    }
  });

  it('is not where the whole is found as soon, or nothing of before is of use', () => {
    const around = (change: Partial<Recipe>, from = before, body = character): Transfer | undefined =>
      solveAround(solved(change, body).ready, from, AT);
    const [, handle] = CHANGES[0];
    expect(around(handle)).toBeDefined();
    expect(around({})).withContext('nothing has changed').toBeUndefined();
    expect(around({ layers: [makeLayer({ name: 'calm', does: { kind: 'calm' } })] }))
      .withContext('layers come behind the solve')
      .toBeUndefined();
    expect(around({ solve: { ...DEFAULT_RECIPE.solve, inPlace: true } }))
      .withContext('in place')
      .toBeUndefined();
    expect(around(handle, before, other))
      .withContext('another body')
      .toBeUndefined();
    expect(around(handle, solved({}, character, { ...take })))
      .withContext('another take')
      .toBeUndefined();
    expect(around({ take: { ...DEFAULT_RECIPE.take, to: 12 } }))
      .withContext('another range')
      .toBeUndefined();
    const short = { ...handle, take: { ...DEFAULT_RECIPE.take, to: 6 } };
    expect(around(short, solved({ take: short.take })))
      .withContext('a short take')
      .toBeUndefined();
  });
});
