import { FINGERS, shinEnd, SIDES, type Role } from '../label';
import { between, fromAxisAngle, mulInv, rotate } from '../math/quat';
import { asin, DEG } from '../math/trig';
import { length, vec } from '../math/vec';
import type { Turns } from '../recipe';
import { type Pose, turnBelow } from '../skeleton';
import type { Rig } from './rig';
import { copyPose, turnsBetween } from './turns';

/** Corrections of a rest pose at a single press. */
export const PRESSES = [
  { id: 'level-arms', name: 'Level the arms', what: 'arms straight out to the sides' },
  { id: 'straight-legs', name: 'Straighten the legs', what: 'shins on the line of the thighs, thighs straight down' },
  { id: 'flat-feet', name: 'Feet flat', what: 'soles level, toes level' },
  { id: 'straight-fingers', name: 'Fingers straight', what: 'each finger on the line of its first bone' },
] as const;
export type Press = (typeof PRESSES)[number]['id'];

/** How a bare foot's bone from ankle to ball falls when it stands flat, where nothing better is known. */
const FLAT_FOOT = -28 * DEG;

const q = new Float64Array(4);

/** The turns by hand, all of them, that a body's rest pose has after a press. The body itself is not changed. */
export function press(body: Rig, which: Press): Turns {
  const { skeleton, roles } = body;
  const pose = copyPose(body.restPose);
  const joint = (role: Role): number | undefined => roles.get(role);
  for (const side of SIDES) {
    const s = side === 'left' ? 1 : -1;
    if (which === 'level-arms') {
      const out = Float64Array.of(s * body.left[0], 0, s * body.left[2]);
      point(joint(`${side}.upperArm`), joint(`${side}.lowerArm`), out);
      point(joint(`${side}.lowerArm`), joint(`${side}.hand`), out);
    } else if (which === 'straight-legs') {
      const foot = joint(`${side}.foot`)!;
      const kept = pose.rotations.slice(foot * 4, foot * 4 + 4);
      const down = Float64Array.of(0, -1, 0);
      point(joint(`${side}.upperLeg`), joint(`${side}.lowerLeg`), down);
      // A leg of more than two bones bends by nature: only its thigh is set straight.
      if (shinEnd(roles, side) === 'foot') point(joint(`${side}.lowerLeg`), foot, down);
      restore(foot, kept);
    } else if (which === 'flat-feet') flatten(joint(`${side}.foot`)!, joint(`${side}.toes`));
    else straightenFingers(side);
  }
  return turnsBetween(body.basePose, pose, skeleton, roles, body);

  function point(from: number | undefined, to: number | undefined, way: Float64Array): void {
    if (from === undefined || to === undefined) return;
    const now = direction(pose, from, to);
    if (length(now, 0) < 1e-9) return;
    between(q, 0, now, 0, way, 0);
    turnBelow(pose, skeleton, from, q);
  }

  function restore(at: number, rotation: Float64Array): void {
    mulInv(q, 0, rotation, 0, pose.rotations, at * 4);
    turnBelow(pose, skeleton, at, q);
  }

  function flatten(foot: number, toes: number | undefined): void {
    if (toes === undefined) return;
    pitchTo(foot, direction(pose, foot, toes), FLAT_FOOT);
    const tip = tipDirection(toes);
    if (tip) pitchTo(toes, tip, 0);
  }

  /** Turns a joint about the level axis across `way` until `way` rises by an angle. */
  function pitchTo(at: number, way: Float64Array, rise: number): void {
    const n = length(way, 0);
    const level = Math.sqrt(way[0] * way[0] + way[2] * way[2]);
    if (n < 1e-9 || level < 1e-3 * n) return;
    fromAxisAngle(q, 0, -way[2] / level, 0, way[0] / level, rise - asin(way[1] / n));
    turnBelow(pose, skeleton, at, q);
  }

  function tipDirection(toes: number): Float64Array | undefined {
    const child = skeleton.parents.indexOf(toes);
    if (child >= 0) return direction(pose, toes, child);
    if (!Number.isFinite(skeleton.tips[toes * 3])) return undefined;
    const way = vec();
    rotate(way, 0, pose.rotations, toes * 4, skeleton.tips, toes * 3);
    return way;
  }

  function straightenFingers(side: string): void {
    for (const finger of FINGERS) {
      const bones = [1, 2, 3, 4].map((i) => joint(`${side}.${finger}.${i}`)).filter((j) => j !== undefined);
      for (let i = 1; i + 1 < bones.length; i++) point(bones[i], bones[i + 1], direction(pose, bones[0], bones[1]));
    }
  }
}

function direction({ positions: p }: Pose, from: number, to: number): Float64Array {
  return Float64Array.of(p[to * 3] - p[from * 3], p[to * 3 + 1] - p[from * 3 + 1], p[to * 3 + 2] - p[from * 3 + 2]);
}
