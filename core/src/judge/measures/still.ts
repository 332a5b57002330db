import type { Role } from '../../label';
import { DEG } from '../../math/trig';
import type { Found } from '../figure';
import type { Scene } from '../scene';

/** A joint that should move and does not. */
export interface Frozen {
  readonly role: Role;
  readonly first: number;
  readonly last: number;
}

/** Seconds in which the performer's joint turns by this much in all while the character's turns by no more than this share of it. */
const WINDOW = 0.5;
const MOVES = 8 * DEG;
const SHARE = 0.04;

/**
 * Joints that stand still while the performer's move.
 * @param mine turn of each joint from the frame before, radians, frames × roles
 */
export function frozenOf(roles: readonly Role[], mine: Float32Array, theirs: Float32Array, frameTime: number): Frozen[] {
  const count = roles.length;
  const frames = count === 0 ? 0 : mine.length / count;
  const width = Math.max(4, Math.round(WINDOW / frameTime));
  const out: Frozen[] = [];
  for (let i = 0; i < count; i++) {
    let a = 0;
    let b = 0;
    let first = -1;
    let last = -1;
    for (let f = 1; f < frames; f++) {
      a += mine[f * count + i];
      b += theirs[f * count + i];
      if (f > width) {
        a -= mine[(f - width) * count + i];
        b -= theirs[(f - width) * count + i];
      }
      if (f < width || b < MOVES || a > SHARE * b) continue;
      if (first < 0) first = f - width;
      last = f;
    }
    if (first >= 0) out.push({ role: roles[i], first, last });
  }
  return out;
}

/** Turns from one frame to the next that exceed the performer's by this, radians. */
const FLIP = 30 * DEG;

/** Joints that turn over from one frame to the next as the performer's do not. */
export function flipsOf(
  roles: readonly Role[],
  mine: Float32Array,
  theirs: Float32Array,
): { count: number; role: Role | undefined; frame: number } {
  const count = roles.length;
  let flips = 0;
  let role: Role | undefined;
  let frame = 0;
  for (let i = 0; i < mine.length; i++) {
    if (mine[i] - theirs[i] <= FLIP) continue;
    if (flips === 0) [role, frame] = [roles[i % count], Math.floor(i / count)];
    flips++;
  }
  return { count: flips, role, frame };
}

/** Turns over that the performer does not make. */
export function flips({ seen, at }: Scene): Found {
  const { count, role, frame } = flipsOf(seen.roles, seen.myTurns, seen.theirTurns);
  return {
    id: 'flips',
    value: seen.frames > 1 ? count : NaN,
    looked: `${seen.roles.length} joints`,
    words: count === 0 ? 'none' : `first ${role} at ${at(frame)}`,
    frame: count > 0 ? frame : undefined,
  };
}

/** Joints that stand still while the performer's move; an arm whose hand is on the body is as still as the body is. */
export function frozen({ given, seen, legs, onBody, at }: Scene): Found {
  const list = frozenOf(seen.roles, seen.myTurns, seen.theirTurns, given.take.frameTime).filter(
    ({ role, first, last }) => legs.isCompared(role) && !(/\.(lowerArm|hand)$/.test(role) && onBody?.isOn(role.split('.')[0], first, last)),
  );
  const words = list
    .slice(0, 3)
    .map(({ role, first, last }) => `${role} from ${at(first)} to ${at(last)}`)
    .join('; ');
  return {
    id: 'frozen',
    value: seen.frames > 20 ? list.length : NaN,
    looked: `${seen.roles.length} joints`,
    words: words === '' ? 'none' : words,
    frame: list[0]?.first,
  };
}
