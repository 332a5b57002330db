/** A made-up performer who takes a crate from one place, turns and sways with it, and puts it down at another. */
import type { Clip } from '../clip';
import { extraRole } from '../label';
import { fromAxisAngle, rotate } from '../math/quat';
import { DEFAULT_SKELETON, type SkeletonChoices } from '../recipe';
import { clipOf, labelFile, prepareRig, type Rig } from '../rig';
import { jointKeys } from '../skeleton';
import type { MotionFile } from '../formats';
import { makeFile, type Shape, type Style } from './bodies';
import { reaching, type Place } from './reacher';
import { walk } from './walker';

/** The crate's role, its size from hand to hand, and when it is taken and let go. */
export const CRATE = { role: 'extra.crate.1', name: 'crate', half: 0.19, frames: 300, held: [70, 230], moved: [100, 200] } as const;

const smooth = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * t * (t * (6 * t - 15) + 10));

/** The same body with a crate beside it. */
export function withCrate(shape: Shape): Shape {
  return { ...shape, joints: [...shape.joints, { role: CRATE.name, parent: -1, offset: [0, 0.2, 0.6] }] };
}

/** A file's skeleton made ready, its crate labelled. */
export function rigWithCrate(file: MotionFile): Rig {
  return prepareRig(file, 0, choicesNaming(file, CRATE.name));
}

/** All labels of a file as they are found, and a thing beside the body as a person names it. */
export function choicesNaming(file: MotionFile, thing: string): SkeletonChoices {
  const keys = jointKeys(file.skeleton);
  const labels = Object.fromEntries([...labelFile(file).roles].map(([role, joint]) => [role, keys[joint]]));
  return { ...DEFAULT_SKELETON, labels: { ...labels, [extraRole(thing, 1)]: keys[file.skeleton.names.indexOf(thing)] } };
}

/** Where the crate is in a frame, and how far it is turned to the left, radians. */
export function crateAt(frame: number, size: number): { readonly at: Place; readonly turn: number } {
  const [from, to] = CRATE.moved;
  const t = smooth((frame - from) / (to - from));
  const up = smooth((frame - from) / 30) * (1 - smooth((frame - to + 30) / 30));
  return { at: [0.06 * t * size, (1.05 + 0.2 * up + 0.05 * t) * size, (0.36 - 0.04 * t) * size], turn: 0.35 * t };
}

/**
 * The take of it. Hands turn as the crate does, so that palms keep exactly to its sides while they hold it.
 * @param size of the whole stage, 1 for an adult
 */
export function carrying(shape: Shape, seed: number, size = 1, style: Style = {}): { file: MotionFile; rig: Rig; clip: Clip } {
  const whole = withCrate(shape);
  const count = whole.joints.length;
  const sway = walk(whole, { seed, frames: CRATE.frames, fps: 60, pace: 0, crouch: 0.05 });
  for (let f = 0; f < CRATE.frames; f++) sway.hips[f * 3] += 0.03 * Math.sin(f / 20);
  const reach =
    (side: 1 | -1) =>
    (f: number, shoulder: Place, arm: number): Place => {
      const [taken, left] = CRATE.held;
      const there = smooth((f - taken + 50) / 50) * (1 - smooth((f - left) / 50));
      const { at, turn } = crateAt(f, size);
      // The hand's joint stands behind the crate's side, the palm on it.
      const v = new Float64Array(7);
      fromAxisAngle(v, 3, 0, 1, 0, turn);
      v.set([side * (CRATE.half - 0.085) * size, 0, -0.06 * size]);
      rotate(v, 0, v, 3, v, 0);
      const hanging = [shoulder[0], shoulder[1] - 0.8 * arm, shoulder[2] + 0.2 * arm];
      return hanging.map((x, c) => x + (at[c] + v[c] - x) * there) as unknown as Place;
    };
  const motion = reaching(whole, sway, { left: reach(1), right: reach(-1) });
  const turned = whole.joints.map(({ role }, j) => (/hand|crate/.test(role) ? j : -1)).filter((j) => j >= 0);
  for (let f = 0; f < CRATE.frames; f++)
    for (const j of turned) fromAxisAngle(motion.turns, (f * count + j) * 4, 0, 1, 0, crateAt(f, size).turn);
  const file = makeFile(whole, style, motion);
  const crate = count - 1;
  const values = new Float32Array(CRATE.frames * 3);
  for (let f = 0; f < CRATE.frames; f++)
    values.set(
      crateAt(f, size).at.map((v) => v / (style.metres ?? 1)),
      f * 3,
    );
  const [first] = file.clips;
  const made = { ...file, clips: [{ ...first, moves: [...first.moves, { joint: crate, values }] }] };
  const rig = rigWithCrate(made);
  return { file: made, rig, clip: clipOf(made, rig) };
}
