import * as fc from 'fast-check';
import { ClipReader } from '../clip';
import { readMotionFile, writeBvh, type BvhLayout, type MotionFile } from '../formats';
import { fromAxisAngle, mul } from '../math/quat';
import { random } from '../math/random';
import { DEFAULT_RECIPE } from '../recipe';
import { labelFile } from '../rig';
import { makeFile, makeGlb, randomShape, Rebuild, walk, type Motion, type Shape, type Style } from '../testing';
import { judgeTransfer, runJob, type Outcome } from './job';
import { checkLabels } from './labels';

/** Ways in which rigs are laid out about the pelvis and the ground. */
const LAYOUTS: Readonly<Record<string, (shape: Shape) => Shape>> = {
  'one joint over legs and trunk': (shape) => shape,
  'a fork: one child carries the legs, the other the trunk': (shape) => {
    const body = new Rebuild(shape).add('legBase', 'hips', [0, -0.03, 0]).add('trunkBase', 'hips', [0, 0.05, 0.01]);
    for (const side of ['left', 'right']) body.move(`${side}.upperLeg`, 'legBase');
    return body.move('spine.1', 'trunkBase').shape();
  },
  'joints of no length before each leg and the trunk': (shape) => {
    const body = new Rebuild(shape).add('trunkHelper', 'hips', [0, 0, 0]).move('spine.1', 'trunkHelper');
    for (const side of ['left', 'right']) {
      body.add(`${side}.legHelper`, 'hips', [0, 0, 0]).move(`${side}.upperLeg`, `${side}.legHelper`);
    }
    return body.shape();
  },
  'two joints above the hips': (shape) =>
    new Rebuild(shape).add('world', undefined, [0, 0, 0]).add('carrier', 'world', [0, 0, 0]).move('hips', 'carrier').shape(),
  'several roots: marks beside the body': (shape) =>
    new Rebuild(shape).add('firstMark', undefined, [0.6, 0, 0]).add('firstMark.end', 'firstMark', [0, 0.3, 0]).shape(),
  'a ground joint with children of its own': (shape) =>
    new Rebuild(shape)
      .add('world', undefined, [0, 0, 0])
      .move('hips', 'world')
      .add('leftMark', 'world', [0.4, 0, 0])
      .add('rightMark', 'world', [-0.4, 0, 0.2])
      .shape(),
};

const RUNS = { numRuns: 5, seed: 77 };
const seeds = fc.integer({ min: 1, max: 100_000 });
const shapeOf = (seed: number): Shape => randomShape(seed, { spine: 3, neck: 1, clavicles: true, spread: [0.7, 1.5] });
/** The joints' own axes are turned at random, so that a pelvis stands on its head as often as not. */
const styleOf = (seed: number, name: string): Style => ({ axes: seed, name });

const asBvh = (file: MotionFile): Promise<MotionFile> =>
  readMotionFile(writeBvh(file.skeleton, file.clips[0], file.layout as BvhLayout), 'body.bvh');
const asGlb = async (file: MotionFile): Promise<MotionFile> =>
  readMotionFile(await makeGlb(file.skeleton, { scale: 100, sheath: true }), 'body.glb');

function run(take: MotionFile, character: MotionFile): Outcome {
  return runJob({ take, clip: 0, character, recipe: DEFAULT_RECIPE });
}

const value = ({ report }: Outcome, id: string): number => report.verdict.figures.find((figure) => figure.id === id)!.value;

/** The greatest change of any bone's length all through the delivered motion, metres; told from the file's own joints. */
function worstBone({ transfer: { pairing, clip } }: Outcome): number {
  const { skeleton, restPose, carrier, roles } = pairing.character;
  const reader = new ClipReader(skeleton, clip);
  const below = skeleton.names.map((_, j) => isBelow(skeleton.parents, j, roles.get('hips')!) || isBelow(skeleton.parents, j, carrier));
  const length = (positions: Float64Array, a: number, b: number): number =>
    Math.hypot(...[0, 1, 2].map((c) => positions[a * 3 + c] - positions[b * 3 + c]));
  let worst = 0;
  for (let f = 0; f < clip.frames; f += 5) {
    const { positions } = reader.at(f);
    skeleton.parents.forEach((parent, j) => {
      if (parent < 0 || j === carrier || !below[j]) return;
      worst = Math.max(worst, Math.abs(length(positions, j, parent) - length(restPose.positions, j, parent)));
    });
  }
  return worst;
}

function isBelow(parents: Int32Array | readonly number[], joint: number, above: number): boolean {
  for (let j = joint; j >= 0; j = parents[j]) if (j === above) return true;
  return false;
}

describe('bodies laid out in their own ways', () => {
  for (const [name, layOut] of Object.entries(LAYOUTS)) {
    for (const [format, write] of [
      ['BVH', asBvh],
      ['GLB', asGlb],
    ] as const) {
      it(`${name}, as ${format}: no bone parts, no skin is torn, feet hold`, async () => {
        await fc.assert(
          fc.asyncProperty(seeds, seeds, async (seed, other) => {
            const shape = shapeOf(seed);
            const take = makeFile(shape, { name: 'take.bvh' }, walk(shape, { seed, frames: 120 }));
            const laid = layOut(shapeOf(other));
            const character = await write(makeFile(laid, styleOf(other, 'body.bvh'), walk(laid, { frames: 1 })));
            const outcome = run(take, character);
            const label = `seeds ${seed}, ${other}`;
            // BVH is text of so many places.
            expect(worstBone(outcome)).withContext(label).toBeLessThan(3e-4);
            expect(value(outcome, 'parting')).withContext(label).toBeLessThan(0.1);
            if (format === 'GLB') expect(value(outcome, 'pull')).withContext(label).toBeLessThan(16);
            expect(value(outcome, 'held.feet')).withContext(label).toBeGreaterThan(95);
            const doubts = outcome.report.cautions.filter(({ code }) => code.startsWith('label/'));
            expect(doubts.map(({ message }) => message))
              .withContext(label)
              .toEqual([]);
          }),
          RUNS,
        );
      });
    }
    it(`${name}: walks as a performer too`, () => {
      fc.assert(
        fc.property(seeds, seeds, (seed, other) => {
          const laid = layOut(shapeOf(seed));
          const take = makeFile(laid, { axes: seed, name: 'take.bvh' }, walk(laid, { seed, frames: 120 }));
          const outcome = run(take, makeFile(shapeOf(other), styleOf(other, 'body.bvh')));
          expect(worstBone(outcome)).toBeLessThan(1e-4);
          expect(value(outcome, 'held.feet')).toBeGreaterThan(95);
          expect(value(outcome, 'likeness.arms')).toBeLessThan(4);
        }),
        RUNS,
      );
    });
  }

  it('are labelled so that the mistake finder has nothing to say', () => {
    fc.assert(
      fc.property(seeds, fc.constantFrom(...Object.keys(LAYOUTS)), fc.boolean(), (seed, layout, named) => {
        const shape = LAYOUTS[layout](shapeOf(seed));
        const rng = random(seed);
        const names = named ? undefined : () => `n${Math.floor(rng.next() * 1e9)}`;
        const file = makeFile(shape, { axes: seed, ...(names ? { names } : {}) }, walk(shape, { frames: 30 }));
        const doubts = checkLabels(file, labelFile(file, 0), 0);
        expect(doubts.map(({ message }) => message))
          .withContext(`${layout}, ${seed}`)
          .toEqual([]);
      }),
      { numRuns: 40, seed: 3 },
    );
  });

  it('ride on what turns above them: the same transfer as where nothing turns', () => {
    const shape = shapeOf(12);
    const laid = LAYOUTS['two joints above the hips'](shape);
    const motion = walk(laid, { seed: 12, frames: 120 });
    const turning = turnedAbove(laid, motion);
    const character = makeFile(shapeOf(13), styleOf(13, 'body.bvh'));
    const [still, turned] = [motion, turning].map((m) => run(makeFile(laid, { name: 'take.bvh' }, m), character));
    const [a, b] = [still, turned].map(({ transfer }) => new ClipReader(transfer.pairing.character.skeleton, transfer.clip));
    let worst = 0;
    for (let f = 0; f < 120; f += 7) {
      const [p, q] = [a.at(f).positions, b.at(f).positions];
      p.forEach((v, i) => (worst = Math.max(worst, Math.abs(v - q[i]))));
    }
    expect(worst).toBeLessThan(2e-3);
  });
});

describe('a torn skin', () => {
  it('is seen by the judge on the mesh itself, at the joint and in the frames where a bone parts', async () => {
    const shape = shapeOf(41);
    const take = makeFile(shape, { name: 'take.bvh' }, walk(shape, { seed: 41, frames: 120 }));
    const character = await asGlb(makeFile(shapeOf(42), styleOf(42, 'body.bvh')));
    const { ready, transfer } = run(take, character);
    const { skeleton, roles } = ready.character;
    const chest = roles.get('spine.2')!;
    const values = new Float32Array(120 * 3);
    for (let f = 0; f < 120; f++) {
      for (let c = 0; c < 3; c++) values[f * 3 + c] = skeleton.restT[chest * 3 + c] + (f >= 70 && f < 90 ? 0.4 : 0);
    }
    const torn = { ...transfer, clip: { ...transfer.clip, moves: [...transfer.clip.moves, { joint: chest, values }] } };
    const figures = new Map(judgeTransfer(ready, torn).figures.map((figure) => [figure.id, figure]));
    const whole = new Map(judgeTransfer(ready, transfer).figures.map((figure) => [figure.id, figure]));
    for (const id of ['pull', 'parting'] as const) {
      expect(whole.get(id)!.mark).withContext(id).toBe('good');
      expect(figures.get(id)!.mark).withContext(id).toBe('fault');
      expect(figures.get(id)!.frame).withContext(id).toBeGreaterThanOrEqual(70);
      expect(figures.get(id)!.frame).withContext(id).toBeLessThan(90);
    }
    expect(figures.get('pull')!.looked).toContain('edges');
  });
});

describe('joints that slide', () => {
  const shape = shapeOf(31);
  const motion = walk(shape, { seed: 31, frames: 120 });
  const spine = shape.joints.findIndex(({ role }) => role === 'spine.2');
  /** The spine stretches by up to four centimetres, as a puppet's may. */
  function sliding(): MotionFile {
    const file = makeFile(shape, { name: 'take.bvh' }, motion);
    const values = new Float32Array(motion.frames * 3);
    for (let f = 0; f < motion.frames; f++) {
      for (let c = 0; c < 3; c++) values[f * 3 + c] = file.skeleton.restT[spine * 3 + c] + (c === 1 ? 0.04 * Math.sin(f / 9) ** 2 : 0);
    }
    const [clip] = file.clips;
    const layout = file.layout as BvhLayout;
    const channels = layout.channels.map((list, j) => (j === spine ? [0, 1, 2, ...list] : list));
    return { ...file, clips: [{ ...clip, moves: [...clip.moves, { joint: spine, values }] }], layout: { ...layout, channels } };
  }
  const slideOf = ({ transfer: { clip } }: Outcome): number => {
    const move = clip.moves.find(({ joint }) => joint === spine);
    return move ? Math.max(...move.values.filter((_, i) => i % 3 === 1)) - Math.min(...move.values.filter((_, i) => i % 3 === 1)) : 0;
  };

  it('keep their way on the same body', () => {
    const outcome = run(sliding(), sliding());
    expect(slideOf(outcome)).toBeCloseTo(0.04, 3);
    expect(value(outcome, 'parting')).toBeLessThan(0.1);
    expect(outcome.report.cautions.map(({ code }) => code)).not.toContain('take/slide');
  });

  it('are said to be lost on another, joint and file named, and no bone parts', () => {
    const outcome = run(sliding(), makeFile(shapeOf(32), styleOf(32, 'body.bvh')));
    expect(worstBone(outcome)).toBeLessThan(1e-4);
    const said = outcome.report.cautions.find(({ code }) => code === 'take/slide')!;
    expect(said.where).toEqual({ file: 'take.bvh', joint: 'Spine2' });
  });
});

/** The same places and turns of the body, with the joint above the hips turning all the while: the hips make up for it. */
function turnedAbove(shape: Shape, motion: Motion): Motion {
  const turns = motion.turns.slice();
  const count = shape.joints.length;
  const carrier = shape.joints.findIndex(({ role }) => role === 'carrier');
  const q = new Float64Array(4);
  for (let f = 0; f < motion.frames; f++) {
    fromAxisAngle(q, 0, 0, 1, 0, f * 0.02);
    const o = (f * count + carrier) * 4;
    mul(turns, o, q, 0, turns, o);
  }
  return { ...motion, turns };
}
