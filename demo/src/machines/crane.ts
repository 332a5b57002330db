import { clipFromBasis, flattenRest, fromBasis, makeBasis, quat, random, writeBvh, type Clip } from '@hollow-stride/core';
import { buildRig, type Rig, type RigJoint } from '../rig';
import { add, scale, sub, unit, type V3 } from '../vectors';

/** The Harbour Crane: a gantry on rails, a mast, a jib with a trolley, a cable and a hook with two claws. Metres, Y up, its rails along X. */
const JOINTS: readonly RigJoint[] = [
  { name: 'Crane_Gantry', parent: undefined, at: [0, 0, 0] },
  { name: 'Crane_Mast', parent: 'Crane_Gantry', at: [0, 2.4, 0] },
  { name: 'Crane_Slew', parent: 'Crane_Mast', at: [0, 5.2, 0] },
  { name: 'Crane_Counterweight', parent: 'Crane_Slew', at: [0, 5.4, -1.6] },
  { name: 'Crane_Jib', parent: 'Crane_Slew', at: [0, 5.6, 0.5] },
  { name: 'Crane_Trolley', parent: 'Crane_Jib', at: [0, 5.9, 3.6] },
  { name: 'Crane_Cable', parent: 'Crane_Trolley', at: [0, 5.8, 3.6] },
  { name: 'Crane_Hook', parent: 'Crane_Cable', at: [0, 3.4, 3.6] },
  { name: 'Crane_Claw_L', parent: 'Crane_Hook', at: [0.12, 3.25, 3.6] },
  { name: 'Crane_Claw_R', parent: 'Crane_Hook', at: [-0.12, 3.25, 3.6] },
];
const TIPS = new Map<string, V3>([
  ['Crane_Claw_L', [0.3, 2.9, 3.6]],
  ['Crane_Claw_R', [-0.3, 2.9, 3.6]],
  ['Crane_Counterweight', [0, 5.1, -2.3]],
]);

export const craneRig = (): Rig => buildRig(JOINTS, 'world', TIPS);

/** Where the crane stands in one moment: metres and degrees. */
export interface CraneMoment {
  /** Along the rails. */
  readonly travel: number;
  /** Of the upper part about the mast, and of the jib up and down. */
  readonly slew: number;
  readonly lift: number;
  /** Of the trolley out along the jib, and of the hook down. */
  readonly out: number;
  readonly down: number;
  /** Of the cable, along the jib and across it. */
  readonly sway: readonly [number, number];
  /** Of each claw. */
  readonly open: number;
}

/** Encoders of a crane tell angles to a hundredth of a degree and ways to a millimetre. */
const ANGLE_NOISE = 0.01;
const WAY_NOISE = 0.0005;

/** A motion of the crane as its encoders record it. */
export function craneClip(name: string, fps: number, seconds: number, seed: number, moment: (t: number) => CraneMoment): Clip {
  const rig = craneRig();
  const { skeleton, index } = rig;
  const count = skeleton.names.length;
  const frames = Math.round(seconds * fps) + 1;
  const rotations = new Float32Array(frames * count * 4);
  const track = (joint: string) => ({ joint: index.get(joint)!, values: new Float32Array(frames * 3) });
  const [gantry, trolley, hook] = ['Crane_Gantry', 'Crane_Trolley', 'Crane_Hook'].map(track);
  const rng = random(seed);
  const q = new Float64Array(4);
  const p = new Float64Array(4);
  const restAt = (joint: number): V3 => [skeleton.restT[joint * 3], skeleton.restT[joint * 3 + 1], skeleton.restT[joint * 3 + 2]];
  const along = unit(sub(at('Crane_Trolley'), at('Crane_Jib')));
  for (let f = 0; f < frames; f++) {
    const now = moment(f / fps);
    const turn = (joint: string, axis: V3, degrees: number): void => {
      quat.fromAxisAngle(q, 0, ...axis, ((degrees + ANGLE_NOISE * rng.normal()) * Math.PI) / 180);
      rotations.set(q, (f * count + index.get(joint)!) * 4);
    };
    for (let j = 0; j < count; j++) rotations[(f * count + j) * 4 + 3] = 1;
    turn('Crane_Slew', [0, 1, 0], now.slew);
    turn('Crane_Jib', [-1, 0, 0], now.lift);
    turn('Crane_Claw_L', [0, 0, 1], now.open);
    turn('Crane_Claw_R', [0, 0, -1], now.open);
    // The cable hangs down however the jib stands, and sways.
    quat.fromAxisAngle(q, 0, 1, 0, 0, ((now.lift + now.sway[0]) * Math.PI) / 180);
    quat.fromAxisAngle(p, 0, 0, 0, 1, (now.sway[1] * Math.PI) / 180);
    quat.mul(q, 0, q, 0, p, 0);
    rotations.set(q, (f * count + index.get('Crane_Cable')!) * 4);
    const noise = (): number => WAY_NOISE * rng.normal();
    gantry.values.set([now.travel + noise(), 0, 0], f * 3);
    trolley.values.set(add(restAt(trolley.joint), scale(along, now.out + noise())), f * 3);
    hook.values.set(add(restAt(hook.joint), [0, -now.down + noise(), 0]), f * 3);
  }
  return { name, frameTime: 1 / fps, frames, rotations, moves: [gantry, trolley, hook].sort((a, b) => a.joint - b.joint) };
}

function at(name: string): V3 {
  return JOINTS.find((joint) => joint.name === name)!.at;
}

const ease = (t: number, from: number, to: number): number => {
  const x = Math.max(0, Math.min(1, (t - from) / (to - from)));
  return x * x * (3 - 2 * x);
};

/** Unloads a crate: along the quay, down, grips, up, over, down, lets go. The cable sways after every move. */
export function craneUnloads(): Clip {
  const swing = (t: number, from: number, size: number): number =>
    t < from ? 0 : size * Math.exp(-(t - from) / 1.6) * Math.sin(((t - from) / 1.9) * Math.PI * 2);
  return craneClip('crane unloads', 60, 16, 71, (t) => ({
    travel: 3.2 * ease(t, 0.5, 4) - 1.4 * ease(t, 11, 14),
    slew: 125 * ease(t, 6.6, 10),
    lift: 9 * ease(t, 1, 3.5) - 6 * ease(t, 7, 9.5),
    out: 1.1 * ease(t, 1.5, 4) - 0.7 * ease(t, 8, 10),
    down: 2.1 * (ease(t, 3.2, 5) - ease(t, 5.8, 7.2)) + 1.7 * (ease(t, 10.2, 12) - ease(t, 13, 15)),
    sway: [swing(t, 3.6, 4) + swing(t, 13.6, -2), swing(t, 9.4, 7)],
    open: 28 * (ease(t, 2, 3) - ease(t, 5, 5.6) + ease(t, 12.1, 12.7) - ease(t, 14, 15)),
  }));
}

/** Salutes the pageant: bows with the jib three times while it turns right round, and snaps its claws. */
export function craneSalutes(): Clip {
  return craneClip('crane salutes', 30, 10, 72, (t) => ({
    travel: 0,
    slew: 400 * ease(t, 0.5, 9),
    lift: 14 * Math.sin(ease(t, 1, 8) * Math.PI * 3) ** 2,
    out: 0.8 * ease(t, 1, 4) - 0.8 * ease(t, 6, 9),
    down: 0.9 * Math.sin(ease(t, 1.5, 8.5) * Math.PI) ** 2,
    sway: [3 * Math.sin(t * 2.4) * ease(t, 1, 3), -8 * Math.sin(ease(t, 0.5, 9) * Math.PI)],
    open: 14 * (1 - Math.cos(t * 5)) * ease(t, 2, 3) * (1 - ease(t, 7, 8)),
  }));
}

/** Written with Z up, in centimetres. */
export function writeCraneTake(clip: Clip): Uint8Array {
  const { skeleton } = craneRig();
  const basis = makeBasis(0.01, '+Z');
  const flat = flattenRest(fromBasis(skeleton, basis), clipFromBasis(skeleton, clip, basis), 'channels');
  return writeBvh(flat.skeleton, flat.clip, flat.layout);
}
