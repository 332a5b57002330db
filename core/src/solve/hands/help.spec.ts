import { ClipReader } from '../../clip';
import { makePairing } from '../../match';
import { smoothstep } from '../../math/filter';
import { fromAxisAngle, mul } from '../../math/quat';
import { distance } from '../../math/vec';
import { prepareRig } from '../../rig';
import { judged, makeFile, performerOf, randomShape, reaching, walk, type Reach } from '../../testing';
import { DEFAULT_SOLVE, solve, type Transfer } from '..';
import { LiveSolver, type LiveFrame } from '../live';

const FRAMES = 260;
const SEEDS = [1, 2, 3, 4];

/** Down from 0 to 1: bent by the one frame, upright again from the other. */
const downAt = (f: number): number => smoothstep((f - 30) / 50) * (1 - smoothstep((f - 180) / 50));

/** Someone who bends over in a crouch, lays both hands on the floor before the feet for two seconds, and stands up again. */
function bending(seed: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1, spread: [0.95, 1.05] });
  const standing = walk(shape, { seed, frames: FRAMES, fps: 60, pace: 0, noise: 2e-4, crouch: 0.3 });
  const turns = standing.turns.slice();
  const count = shape.joints.length;
  const q = new Float64Array(4);
  for (let f = 0; f < FRAMES; f++) {
    fromAxisAngle(q, 0, 1, 0, 0, 2.3 * downAt(f));
    shape.joints.forEach(({ role }, j) => {
      if (!/hips|Leg|foot|toes/.test(role)) mul(turns, (f * count + j) * 4, q, 0, turns, (f * count + j) * 4);
    });
  }
  const onto =
    (s: number): Reach =>
    (f, shoulder, arm) => {
      const there = smoothstep((f - 50) / 30) * (1 - smoothstep((f - 180) / 30));
      const hanging = [shoulder[0], shoulder[1] - 0.85 * arm, shoulder[2] + 0.1 * arm];
      const at = [standing.hips[0] + s * 0.2, 0.03, standing.hips[2] + 0.4];
      return hanging.map((x, c) => x + (at[c] - x) * there) as unknown as ReturnType<Reach>;
    };
  return performerOf(shape, reaching(shape, { ...standing, turns }, { left: onto(1), right: onto(-1) }));
}

/** A body whose arms are so many times as long as usual. */
function armed(seed: number, arms: number) {
  const shape = randomShape(seed + 40, { clavicles: true, spine: 3, neck: 1, spread: [0.95, 1.05] });
  const joints = shape.joints.map((joint) =>
    /lowerArm|hand$/i.test(joint.role) ? { ...joint, offset: joint.offset.map((x) => x * arms) as unknown as typeof joint.offset } : joint,
  );
  return prepareRig(makeFile({ ...shape, joints }, { axes: seed }));
}

const DOWN = 130;

describe('a body whose arms are too short for where its hands rest', () => {
  const cases = SEEDS.map((seed) => {
    const { rig, clip } = bending(seed);
    const solveWith = (arms: number, help: number, hands = 1): Transfer =>
      solve(makePairing(rig, armed(seed, arms)), clip, { ...DEFAULT_SOLVE, clavicleHelp: help, spineHelp: help, hands });
    return { seed, solveWith };
  });

  /** Height of a hand over that of the performer's in proportion, in the middle of the rest, metres. */
  const over = ({ pairing, clip, take }: Transfer): number => {
    const { performer, character, scale } = pairing;
    const theirs = new ClipReader(performer.skeleton, take).at(DOWN).positions[performer.roles.get('left.hand')! * 3 + 1];
    return new ClipReader(character.skeleton, clip).at(DOWN).positions[character.roles.get('left.hand')! * 3 + 1] - scale.lift * theirs;
  };

  it('leans after them, the more the more it is set, and is upright before and behind', () => {
    for (const { seed, solveWith } of cases) {
      const [none, half, all] = [0, 0.5, 1].map((help) => solveWith(0.72, help));
      expect(over(none)).withContext(`${seed}`).toBeGreaterThan(0.02);
      expect(over(half))
        .withContext(`${seed} half`)
        .toBeLessThan(over(none) - 0.01);
      expect(over(all))
        .withContext(`${seed} all`)
        .toBeLessThan(over(half) + 1e-3);
      const { skeleton, roles } = all.pairing.character;
      const places = (transfer: Transfer, f: number): Float64Array => new ClipReader(skeleton, transfer.clip).at(f).positions.slice();
      const head = roles.get('head')! * 3;
      for (const f of [5, FRAMES - 5])
        expect(distance(places(none, f), head, places(all, f), head))
          .withContext(`${seed}`)
          .toBeLessThan(0.012);
      expect(distance(places(none, DOWN), head, places(all, DOWN), head))
        .withContext(`${seed}`)
        .toBeGreaterThan(0.02);
    }
  });

  it('leans without a jerk, its head turned as it was', () => {
    for (const { seed, solveWith } of cases) {
      const transfer = solveWith(0.72, 1);
      const verdict = judged(transfer);
      for (const id of ['jumps', 'flips', 'likeness.head'] as const) {
        const { mark, words } = verdict.figures.find((figure) => figure.id === id)!;
        expect(mark).withContext(`${id} of ${seed}: ${words}`).toBe('good');
      }
      expect(verdict.figures.find(({ id }) => id === 'energy.upper')!.mark)
        .withContext(`${seed}`)
        .not.toBe('fault');
    }
  });

  it('leans as much where frames come one by one, without a jerk', () => {
    for (const { seed, solveWith } of cases.slice(0, 1)) {
      const [none, all] = [0, 1].map((help) => solveWith(0.72, help));
      const { pairing, settings, take } = all;
      const solver = new LiveSolver(pairing, { frameTime: take.frameTime, settings });
      const size = pairing.performer.skeleton.parents.length * 4;
      const frames: LiveFrame[] = [];
      for (let f = 0; f < FRAMES; f++) {
        solver.push(take.rotations.subarray(f * size, (f + 1) * size), take.moves[0].values.subarray(f * 3, f * 3 + 3));
        frames.push(...solver.solve(f === FRAMES - 1));
      }
      const live = {
        ...all.clip,
        rotations: Float32Array.from(frames.flatMap((frame) => [...frame.rotations])),
        moves: frames[0].moves.map(({ joint }, i) => ({
          joint,
          values: Float32Array.from(frames.flatMap((frame) => [...frame.moves[i].place])),
        })),
      };
      expect(over({ ...all, clip: live }))
        .withContext(`${seed}`)
        .toBeLessThan((over(none) + over(all)) / 2);
      const { mark, words } = judged({ ...all, clip: live }).figures.find(({ id }) => id === 'jumps')!;
      expect(mark).withContext(`${seed}: ${words}`).toBe('good');
    }
  });

  it('says by how much hands stay away, less the more it leans, and nothing where arms are long enough', () => {
    for (const { seed, solveWith } of cases) {
      const shortOf = (transfer: Transfer): number[] =>
        transfer.misses.filter(({ limb, kind }) => /^(left|right) hand$/.test(limb) && kind === 'short').map(({ distance }) => distance);
      const [none, all] = [0, 1].map((help) => solveWith(0.72, help));
      expect(shortOf(none).length).withContext(`${seed}`).toBe(2);
      for (const distance of shortOf(none))
        expect(Math.abs(distance - over(none)))
          .withContext(`${seed}`)
          .toBeLessThan(0.04);
      expect(Math.max(...shortOf(all)))
        .withContext(`${seed}`)
        .toBeLessThan(Math.min(...shortOf(none)));
      expect(shortOf(solveWith(1.4, 0)))
        .withContext(`${seed}`)
        .toEqual([]);
    }
  });

  it('leans after no hand that is let go', () => {
    const { solveWith } = cases[0];
    const [none, all] = [0, 1].map((help) => solveWith(0.72, help, 0).clip.rotations);
    expect(all.every((x, i) => x === none[i])).toBe(true);
  });

  it('stays as it is where its arms are long enough', () => {
    for (const { seed, solveWith } of cases) {
      const [none, all] = [0, 1].map((help) => solveWith(1.4, help).clip.rotations);
      expect(all.every((x, i) => x === none[i]))
        .withContext(`${seed}`)
        .toBe(true);
    }
  });
});
