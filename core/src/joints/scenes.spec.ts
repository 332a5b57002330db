// Rigs and measures that the specs of joints share: it has no specs of its own.
import { ClipReader, type Clip } from '../clip';
import { mulInv, normalize } from '../math/quat';
import { judgeJoints } from '../judge';
import { DEFAULT_BY_JOINT, DEFAULT_CARRY, type ByJoint, type Carry } from '../recipe';
import { jointKeys } from '../skeleton';
import { stateMachine, type Machine } from '../testing';
import { type Carried } from './carry';
import { type JointMap } from './pairs';

export const SEEDS = [1, 2, 3, 4, 5, 6];
export const by = (change: Partial<ByJoint>): ByJoint => ({ ...DEFAULT_BY_JOINT, ...change });
export const carry = (change: Partial<Carry>): Partial<ByJoint> => ({ carry: { ...DEFAULT_CARRY, ...change } });

/** As another file has it: a prefix, other case and separators, other axes, another size, turned by quarters. */
export const twinOf = (machine: Machine, seed: number) =>
  stateMachine(machine, {
    names: (name, j) => (j === 0 ? 'yard:GANTRY' : `yard:The_${name.toUpperCase()}`),
    axes: seed,
    size: 0.4,
    heading: ((seed % 4) * Math.PI) / 2,
  });

/** A joint more in the middle of a bone: paired with nothing. */
export function withOneMore({ joints }: Machine, at: number): Machine {
  const { parent, at: end } = joints[at];
  const start = joints[parent].at;
  const middle = [0, 1, 2].map((c) => (start[c] + end[c]) / 2) as [number, number, number];
  const shifted = joints.map((joint) => ({ ...joint, parent: joint.parent >= at ? joint.parent + 1 : joint.parent }));
  return {
    joints: [...shifted.slice(0, at), { name: 'spareLink', parent, at: middle }, { ...shifted[at], parent: at }, ...shifted.slice(at + 1)],
  };
}

/** Degrees between two turns; from the sine, as a cosine tells small angles badly. */
export function degreesBetween(a: Float64Array, b: Float64Array, joint: number): number {
  const [p, q] = [a, b].map((r) => r.slice(joint * 4, joint * 4 + 4));
  normalize(p, 0);
  normalize(q, 0);
  mulInv(p, 0, p, 0, q, 0);
  const sine = Math.hypot(p[0], p[1], p[2]);
  return (2 * Math.atan2(sine, Math.abs(p[3])) * 180) / Math.PI;
}

export const read = ({ skeleton }: Carried, clip: Clip): ClipReader => new ClipReader(skeleton, clip);
export const pairsOf = (map: JointMap): Map<number, number> => new Map(map.pairs.map(({ target, sources }) => [target, sources[0].joint]));

/** Farthest that joints of the second are from where the first's are, scaled and turned; metres of the first. */
export function apart(a: Carried, clipA: Clip, b: Carried, clipB: Clip, map: JointMap): number {
  const [one, other] = [read(a, clipA), read(b, clipB)];
  let worst = 0;
  for (let f = 0; f < clipA.frames; f++) {
    const [p, q] = [one.at(f).positions, other.at(f).positions];
    for (const [target, source] of pairsOf(map)) {
      const [c, s] = [Math.cos(map.heading), Math.sin(map.heading)];
      const [x, y, z] = [p[source * 3], p[source * 3 + 1], p[source * 3 + 2]];
      const want = [c * x + s * z, y, c * z - s * x].map((v) => v * map.size);
      worst = Math.max(worst, Math.hypot(...want.map((v, i) => v - q[target * 3 + i])) / map.size);
    }
  }
  return worst;
}

export function judged(a: Carried, take: Clip, b: Carried, result: Clip, map: JointMap, settings: ByJoint) {
  const keys = jointKeys(b.skeleton);
  const paired = pairsOf(map);
  return judgeJoints({
    performer: { ...a, name: 'a' },
    character: { ...b, name: 'b' },
    take,
    result,
    first: 0,
    last: result.frames - 1,
    channels: map.pairs.map(({ target, sources }) => ({ joint: target, sources, carry: settings.own[keys[target]] ?? settings.carry })),
    canMove: b.canMove,
    still: keys.map((_, j) => j).filter((j) => !paired.has(j)),
    heading: map.heading,
    size: map.size,
  }).figures;
}
