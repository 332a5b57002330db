import type { Clip } from '../../clip';
import { percentile } from '../../math/filter';
import { unrotate } from '../../math/quat';
import { PI, atan2, acos } from '../../math/trig';
import type { SkinPoints } from '../../formats';
import type { Rig } from '../../rig';
import { emptyPose, forward, withAncestors } from '../../skeleton';
import { onceFor } from '../look/once';
import type { BodyPoint } from '../look/points';
import type { Found } from '../figure';
import type { Scene } from '../scene';

/** Bins around a joint's skin, by the way about its frame's vertical and down from it. */
const AROUND = 16;
const DOWN = 8;
/** Fewer points of skin than this in a bin say nothing about how far it reaches. */
const ENOUGH = 3;
/** Of skin that lies in layers, as a face and the brim over it, the nearer one counts. */
const NEARER = 0.15;
/** Palms and finger tips are looked at so often a second. */
const RATE = 30;
/** The depth that is exceeded in this share of the frames is told: a brush past is no fault. */
const SHARE = 0.98;

/** How far the skin of one joint reaches in each way from its middle. */
interface Room {
  readonly joint: number;
  readonly name: string;
  readonly middle: Float64Array;
  /** Metres; 0 where it is not known. */
  readonly reach: Float64Array;
  readonly farthest: number;
}

/** How deep the character's hands are in its own trunk or head. */
export interface Inside {
  readonly depth: number;
  readonly frame: number;
  readonly what: string;
  readonly looked: number;
}

/**
 * Looks for palms and finger tips inside the skin of trunk and head: nearer to its middle than the skin about it is in that
 * direction.
 * @param mine places of the points, frames × points × 3
 * @returns undefined for a character without a mesh
 */
export function insideOf(
  character: Rig,
  skin: SkinPoints | undefined,
  points: readonly BodyPoint[],
  mine: Float64Array,
  clip: Clip,
): Inside | undefined {
  const rooms = skin ? onceFor('rooms', character, skin, () => roomsOf(character, skin)) : [];
  const hands = points.flatMap(({ kind }, i) => (kind === 'hands' ? [i] : []));
  if (rooms.length === 0 || hands.length === 0) return undefined;
  const { skeleton } = character;
  const way = withAncestors(
    skeleton.parents,
    rooms.map(({ joint }) => joint),
  );
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const step = Math.max(1, Math.round(1 / RATE / clip.frameTime));
  const depths: number[] = [];
  let worst = { depth: 0, frame: 0, what: '' };
  const p = new Float64Array(3);
  for (let f = 0; f < clip.frames; f += step) {
    for (const { joint, values } of clip.moves) for (let c = 0; c < 3; c++) translations[joint * 3 + c] = values[f * 3 + c];
    forward(pose, skeleton.parents, translations, clip.rotations, f * skeleton.parents.length * 4, way);
    let deepest = 0;
    for (const i of hands) {
      const o = (f * points.length + i) * 3;
      for (const { joint, middle, reach, farthest, name } of rooms) {
        for (let c = 0; c < 3; c++) p[c] = mine[o + c] - pose.positions[joint * 3 + c];
        unrotate(p, 0, pose.rotations, joint * 4, p, 0);
        for (let c = 0; c < 3; c++) p[c] -= middle[c];
        const size = Math.sqrt(p[0] * p[0] + p[1] * p[1] + p[2] * p[2]);
        if (size > farthest) continue;
        const depth = reach[binOf(p, size)] - size;
        if (depth > deepest) deepest = depth;
        if (depth > worst.depth) worst = { depth, frame: f, what: `${points[i].name} in ${name}` };
      }
    }
    depths.push(deepest);
  }
  return { ...worst, depth: percentile(depths, SHARE), looked: depths.length };
}

function binOf(p: Float64Array, size: number): number {
  const around = Math.floor(((atan2(p[0], p[2]) + PI) / (2 * PI)) * AROUND);
  const down = Math.floor((acos(size > 0 ? p[1] / size : 1) / PI) * DOWN);
  return Math.min(DOWN - 1, down) * AROUND + Math.min(AROUND - 1, around);
}

function roomsOf({ roles, basis }: Rig, skin: SkinPoints): Room[] {
  return [...roles].flatMap(([role, joint]): Room[] => {
    if (!/^(hips|head|spine\.\d+)$/.test(role)) return [];
    const local: Float64Array[] = [];
    skin.joints.forEach((owner, i) => {
      if (owner !== joint) return;
      const k = [0, 1, 2, 3].find((n) => skin.influences[i * 4 + n] === joint) ?? 0;
      local.push(Float64Array.from([0, 1, 2], (c) => skin.locals[(i * 4 + k) * 3 + c] * basis.metres));
    });
    if (local.length < 4 * ENOUGH) return [];
    const middle = Float64Array.from([0, 1, 2], (c) =>
      percentile(
        local.map((v) => v[c]),
        0.5,
      ),
    );
    const bins: number[][] = Array.from({ length: AROUND * DOWN }, () => []);
    for (const v of local) {
      for (let c = 0; c < 3; c++) v[c] -= middle[c];
      const size = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
      bins[binOf(v, size)].push(size);
    }
    const reach = Float64Array.from(bins, (list) => (list.length < ENOUGH ? 0 : percentile(list, NEARER)));
    return [{ joint, name: role, middle, reach, farthest: Math.max(...reach) }];
  });
}

/** How deep hands are in the trunk or head. */
export function inside({ given, seen, at }: Scene): Found {
  const found = insideOf(given.character, given.skin, seen.points, seen.mine, given.result);
  if (!found) return { id: 'inside', value: NaN, looked: 'no mesh to look at', words: 'the character has no mesh' };
  const { depth, frame, what, looked } = found;
  return {
    id: 'inside',
    value: Math.max(0, depth) * 1000,
    looked: `${looked} frames`,
    words: what === '' ? 'no hand is in it' : `deepest the ${what} at ${at(frame)}`,
    frame: depth > 0.002 ? frame : undefined,
  };
}
