import { makeBasis, readMotionFile, writeMotion, type Clip } from '@hollow-stride/core';
import { writePuppet, type Material } from '../glb';
import { MeshBuilder, type Weights } from '../mesh';
import { performerRig } from '../performer';
import { buildRig, type Rig } from '../rig';
import { mix, type V3 } from '../vectors';

/** The depot's own performer: the understudy, a jointed figure of pale wood. Its joints are numbered, with a prefix. */
const NAMES: Readonly<Record<string, string>> = {
  pelvis: 'Hips',
  lumbar: 'Spine1',
  thorax: 'Spine2',
  neck: 'Neck',
  skull: 'Head',
  collar: 'Shoulder',
  humerus: 'UpperArm',
  radius: 'LowerArm',
  wrist: 'Hand',
  femur: 'UpperLeg',
  tibia: 'LowerLeg',
  ankle: 'Foot',
  ball: 'ToeBase',
};

const rename = (name: string): string => {
  const [part, side] = name.split('_');
  return `understudy:${side === undefined ? '' : side === 'l' ? 'Left' : 'Right'}${NAMES[part]}`;
};

/** The understudy's skeleton: the demo performer's measures under its own names. */
export function understudyRig(): Rig {
  const { joints, skeleton } = performerRig();
  const tips = new Map<string, V3>();
  joints.forEach(({ name, at }, j) => {
    const [x, y, z] = skeleton.tips.subarray(j * 3, j * 3 + 3);
    if (Number.isFinite(x)) tips.set(rename(name), [at[0] + x, at[1] + y, at[2] + z]);
  });
  return buildRig(
    joints.map(({ name, parent, at }) => ({ name: rename(name), parent: parent === undefined ? undefined : rename(parent), at })),
    'world',
    tips,
  );
}

const COLOURS: Readonly<Record<string, Material>> = {
  wood: { colour: [0.72, 0.56, 0.36], rough: 0.7 },
  pins: { colour: [0.3, 0.2, 0.12], rough: 0.5 },
};

/** The figure as a GLB file, standing at rest. */
export async function understudy(): Promise<Uint8Array> {
  const rig = understudyRig();
  const m = new MeshBuilder();
  const n = (name: string): string => `understudy:${name}`;
  const at = (name: string): V3 => rig.joints[rig.index.get(n(name))!].at;
  const only = (name: string): Weights => [[n(name), 1]];
  m.tube('wood', [
    { at: [0, 0.88, 0], across: 0.08, deep: 0.07, weights: only('Hips') },
    { at: [0, 0.9, 0], across: 0.15, deep: 0.11, weights: only('Hips') },
    { at: [0, 1.0, 0], across: 0.14, deep: 0.1, weights: only('Hips') },
    { at: [0, 1.04, 0], across: 0.08, deep: 0.07, weights: only('Hips') },
  ]);
  m.ball('pins', at('Spine1'), [0.085, 0.07, 0.075], only('Spine1'), 10);
  m.tube('wood', [
    { at: [0, 1.16, -0.01], across: 0.09, deep: 0.075, weights: only('Spine2') },
    { at: [0, 1.2, -0.01], across: 0.13, deep: 0.1, weights: only('Spine2') },
    { at: [0, 1.36, -0.012], across: 0.165, deep: 0.11, weights: only('Spine2') },
    { at: [0, 1.43, -0.01], across: 0.15, deep: 0.085, weights: only('Spine2') },
    { at: [0, 1.47, -0.005], across: 0.06, deep: 0.055, weights: only('Spine2') },
  ]);
  m.limb('pins', at('Neck'), at('Head'), [0.042, 0.04, 0.042], n('Neck'), n('Spine2'), n('Head'));
  m.ball('wood', [0, 1.685, 0.03], [0.08, 0.108, 0.095], only('Head'), 14);
  for (const side of ['Left', 'Right'] as const) {
    const j = (name: string): string => `${side}${name}`;
    const limb = (a: string, b: V3, r: readonly [number, number, number]): void => {
      m.ball('pins', at(j(a)), [r[0] * 1.02, r[0] * 1.02, r[0] * 1.02], only(j(a)), 10);
      m.limb('wood', mix(at(j(a)), b, 0.08), mix(at(j(a)), b, 0.94), r, n(j(a)));
    };
    limb('UpperArm', at(j('LowerArm')), [0.05, 0.048, 0.04]);
    limb('LowerArm', at(j('Hand')), [0.04, 0.042, 0.032]);
    const hand = at(j('Hand'));
    const tip: V3 = [hand[0] + (side === 'Left' ? 0.17 : -0.17), hand[1] - 0.003, hand[2] + 0.004];
    m.ball('pins', hand, [0.033, 0.033, 0.033], only(j('Hand')), 8);
    m.ball('wood', mix(hand, tip, 0.5), [0.085, 0.02, 0.042], only(j('Hand')), 8);
    limb('UpperLeg', at(j('LowerLeg')), [0.075, 0.07, 0.055]);
    limb('LowerLeg', at(j('Foot')), [0.055, 0.056, 0.042]);
    const ankle = at(j('Foot'));
    const s = side === 'Left' ? 1 : -1;
    const ring = (z: number, height: number, half: number, weights: Weights) => ({
      at: [ankle[0] + s * 0.06 * z, height / 2, ankle[2] + z] as V3,
      across: half,
      deep: height / 2,
      weights,
    });
    m.ball('pins', ankle, [0.042, 0.042, 0.042], only(j('Foot')), 8);
    m.tube(
      'wood',
      [
        ring(-0.06, 0.03, 0.015, only(j('Foot'))),
        ring(-0.055, 0.065, 0.032, only(j('Foot'))),
        ring(0.02, 0.075, 0.04, only(j('Foot'))),
        ring(0.13, 0.05, 0.045, only(j('Foot'))),
        ring(0.14, 0.048, 0.045, only(j('ToeBase'))),
        ring(0.19, 0.036, 0.038, only(j('ToeBase'))),
        ring(0.215, 0.016, 0.012, only(j('ToeBase'))),
      ],
      [0, 1, 0],
      14,
    );
  }
  return writePuppet('Understudy', rig, m, COLOURS);
}

/** The figure with a motion on it, in one file. */
export async function understudyPlays(clip: Clip): Promise<Uint8Array> {
  const file = await readMotionFile(await understudy(), 'understudy.glb');
  const from = understudyRig().skeleton.names;
  const { names } = file.skeleton;
  const order = names.map((name) => from.indexOf(name));
  const rotations = new Float32Array(clip.rotations.length);
  for (let f = 0; f < clip.frames; f++) {
    order.forEach((source, j) => {
      const o = (f * names.length + source) * 4;
      rotations.set(clip.rotations.subarray(o, o + 4), (f * names.length + j) * 4);
    });
  }
  const moves = clip.moves.map(({ joint, values }) => ({ joint: order.indexOf(joint), values }));
  return writeMotion(file, makeBasis(1, '+Y'), { ...clip, rotations, moves }, 'glb');
}
