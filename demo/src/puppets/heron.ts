import { MeshBuilder, type Ring, type Weights } from '../mesh';
import { buildRig, mirrored, type Rig, type RigJoint } from '../rig';
import { writePuppet, type Material } from '../glb';
import { add, mix, type V3 } from '../vectors';

/**
 * The Heron: on stilts, legs half as long again, thin and narrow; rests in a T-pose, each joint's axes along its bone.
 * Four spine joints, two neck joints, a ground joint; hands of three fingers.
 */
const LEFT: readonly RigJoint[] = [
  { name: 'heron:LeftCollar', parent: 'heron:Spine4', at: [0.03, 1.86, -0.01] },
  { name: 'heron:LeftUpperArm', parent: 'heron:LeftCollar', at: [0.14, 1.87, -0.02] },
  { name: 'heron:LeftForeArm', parent: 'heron:LeftUpperArm', at: [0.41, 1.87, -0.03] },
  { name: 'heron:LeftHand', parent: 'heron:LeftForeArm', at: [0.66, 1.87, -0.015] },
  { name: 'heron:LeftThumb1', parent: 'heron:LeftHand', at: [0.69, 1.855, 0.025] },
  { name: 'heron:LeftThumb2', parent: 'heron:LeftThumb1', at: [0.72, 1.845, 0.05] },
  { name: 'heron:LeftIndex1', parent: 'heron:LeftHand', at: [0.745, 1.87, 0.01] },
  { name: 'heron:LeftIndex2', parent: 'heron:LeftIndex1', at: [0.79, 1.87, 0.014] },
  { name: 'heron:LeftMiddle1', parent: 'heron:LeftHand', at: [0.748, 1.87, -0.025] },
  { name: 'heron:LeftMiddle2', parent: 'heron:LeftMiddle1', at: [0.795, 1.87, -0.028] },
  { name: 'heron:LeftUpLeg', parent: 'heron:Hips', at: [0.075, 1.34, 0.0] },
  { name: 'heron:LeftLeg', parent: 'heron:LeftUpLeg', at: [0.08, 0.74, 0.02] },
  { name: 'heron:LeftFoot', parent: 'heron:LeftLeg', at: [0.083, 0.09, -0.02] },
  { name: 'heron:LeftToes', parent: 'heron:LeftFoot', at: [0.09, 0.025, 0.11] },
];

const toRight = (name: string): string => name.replace('Left', 'Right');

function heronRig(): Rig {
  const joints: RigJoint[] = [
    { name: 'heron:Ground', parent: undefined, at: [0, 0, 0] },
    { name: 'heron:Hips', parent: 'heron:Ground', at: [0, 1.39, 0] },
    { name: 'heron:Spine1', parent: 'heron:Hips', at: [0, 1.47, -0.01] },
    { name: 'heron:Spine2', parent: 'heron:Spine1', at: [0, 1.57, -0.015] },
    { name: 'heron:Spine3', parent: 'heron:Spine2', at: [0, 1.67, -0.015] },
    { name: 'heron:Spine4', parent: 'heron:Spine3', at: [0, 1.77, -0.01] },
    { name: 'heron:Neck1', parent: 'heron:Spine4', at: [0, 1.91, 0.0] },
    { name: 'heron:Neck2', parent: 'heron:Neck1', at: [0, 2.0, 0.015] },
    { name: 'heron:Head', parent: 'heron:Neck2', at: [0, 2.09, 0.03] },
    ...LEFT,
    ...mirrored(LEFT, toRight),
  ];
  return buildRig(joints, 'bones', new Map<string, V3>([['heron:Head', [0, 2.28, 0.04]]]));
}

const COLOURS: Readonly<Record<string, Material>> = {
  cloth: { colour: [0.58, 0.63, 0.66], rough: 0.85 },
  dark: { colour: [0.13, 0.17, 0.2], rough: 0.7 },
  wood: { colour: [0.55, 0.36, 0.18], rough: 0.75 },
  beak: { colour: [0.83, 0.5, 0.11], rough: 0.5 },
  white: { colour: [0.86, 0.84, 0.78], rough: 0.85 },
  eyes: { colour: [0.85, 0.65, 0.1], rough: 0.3 },
};

export async function heron(): Promise<Uint8Array> {
  const rig = heronRig();
  const m = new MeshBuilder();
  const n = (name: string): string => `heron:${name}`;
  const at = (name: string): V3 => rig.joints[rig.index.get(n(name))!].at;
  const w = (...list: readonly (readonly [string, number])[]): Weights => list.map(([name, k]) => [n(name), k] as const);
  const ring = (y: number, across: number, deep: number, weights: Weights, z = 0): Ring => ({ at: [0, y, z], across, deep, weights });

  // Body: a slender turned trunk with a tail of cloth behind.
  m.tube(
    'cloth',
    [
      ring(1.28, 0.07, 0.07, w(['Hips', 1])),
      ring(1.32, 0.118, 0.1, w(['Hips', 1])),
      ring(1.4, 0.122, 0.108, w(['Hips', 1])),
      ring(1.48, 0.11, 0.1, w(['Hips', 0.4], ['Spine1', 0.6]), -0.005),
      ring(1.57, 0.106, 0.1, w(['Spine1', 0.4], ['Spine2', 0.6]), -0.01),
      ring(1.67, 0.118, 0.11, w(['Spine2', 0.4], ['Spine3', 0.6]), -0.01),
      ring(1.77, 0.13, 0.118, w(['Spine3', 0.4], ['Spine4', 0.6]), -0.005),
      ring(1.84, 0.13, 0.105, w(['Spine4', 1])),
      ring(1.885, 0.09, 0.08, w(['Spine4', 1])),
      ring(1.905, 0.05, 0.05, w(['Spine4', 0.6], ['Neck1', 0.4])),
    ],
    [0, 0, 1],
    24,
  );
  m.tube('dark', [
    { at: [0, 1.42, -0.08], across: 0.09, deep: 0.03, weights: w(['Hips', 1]) },
    { at: [0, 1.3, -0.14], across: 0.11, deep: 0.03, weights: w(['Hips', 1]) },
    { at: [0, 1.14, -0.2], across: 0.085, deep: 0.022, weights: w(['Hips', 1]) },
    { at: [0, 1.02, -0.23], across: 0.02, deep: 0.01, weights: w(['Hips', 1]) },
  ]);
  m.tube(
    'white',
    [
      ring(1.83, 0.16, 0.14, w(['Spine4', 1])),
      ring(1.845, 0.172, 0.15, w(['Spine4', 1])),
      ring(1.875, 0.13, 0.115, w(['Spine4', 1])),
      ring(1.92, 0.07, 0.07, w(['Spine4', 0.4], ['Neck1', 0.6])),
      ring(1.94, 0.05, 0.05, w(['Neck1', 1])),
    ],
    [0, 0, 1],
    24,
  );

  // Neck, head and beak.
  m.tube('white', [
    ring(1.9, 0.045, 0.045, w(['Neck1', 1])),
    ring(1.96, 0.038, 0.038, w(['Neck1', 0.6], ['Neck2', 0.4]), 0.007),
    ring(2.03, 0.036, 0.036, w(['Neck2', 1]), 0.02),
    ring(2.1, 0.042, 0.045, w(['Neck2', 0.3], ['Head', 0.7]), 0.03),
  ]);
  const head = w(['Head', 1]);
  m.ball('white', [0, 2.15, 0.045], [0.066, 0.075, 0.085], head, 14);
  m.tube(
    'dark',
    [
      { at: [0, 2.2, 0.08], across: 0.045, deep: 0.018, weights: head },
      { at: [0, 2.222, 0.0], across: 0.055, deep: 0.022, weights: head },
      { at: [0, 2.2, -0.09], across: 0.03, deep: 0.014, weights: head },
      { at: [0, 2.15, -0.19], across: 0.008, deep: 0.006, weights: head },
    ],
    [0, 1, 0],
  );
  m.tube(
    'beak',
    [
      { at: [0, 2.145, 0.11], across: 0.034, deep: 0.034, weights: head },
      { at: [0, 2.14, 0.17], across: 0.025, deep: 0.025, weights: head },
      { at: [0, 2.125, 0.29], across: 0.013, deep: 0.013, weights: head },
      { at: [0, 2.11, 0.37], across: 0.003, deep: 0.003, weights: head },
    ],
    [0, 1, 0],
  );
  for (const x of [-0.052, 0.052]) m.ball('eyes', [x, 2.165, 0.085], [0.012, 0.015, 0.015], head, 6);

  for (const side of ['Left', 'Right'] as const) {
    const s = side === 'Left' ? 1 : -1;
    const j = (name: string): string => `${side}${name}`;
    m.ball('cloth', at(j('UpperArm')), [0.05, 0.05, 0.05], w([j('UpperArm'), 0.6], [j('Collar'), 0.4]), 8);
    m.limb('cloth', at(j('UpperArm')), at(j('ForeArm')), [0.045, 0.04, 0.036], n(j('UpperArm')), n(j('Collar')), n(j('ForeArm')));
    m.limb('cloth', at(j('ForeArm')), at(j('Hand')), [0.036, 0.036, 0.03], n(j('ForeArm')), n(j('UpperArm')), n(j('Hand')));
    // Flight feathers hang from the fore arm.
    for (let k = 0; k < 5; k++) {
      const from = mix(at(j('ForeArm')), at(j('Hand')), 0.08 + k * 0.2);
      m.tube(
        k % 2 === 0 ? 'dark' : 'cloth',
        [
          { at: add(from, [0, -0.02, -0.01]), across: 0.03, deep: 0.008, weights: w([j('ForeArm'), 1]) },
          { at: add(from, [s * 0.02, -0.11, -0.05]), across: 0.032, deep: 0.007, weights: w([j('ForeArm'), 1]) },
          { at: add(from, [s * 0.045, -0.19, -0.09]), across: 0.008, deep: 0.004, weights: w([j('ForeArm'), 1]) },
        ],
        [0, 0, 1],
        8,
      );
    }
    m.ball('wood', mix(at(j('Hand')), at(j('Index1')), 0.45), [0.045, 0.018, 0.032], w([j('Hand'), 1]), 8);
    for (const [f, tip] of [
      ['Thumb', [0.745, 1.835, 0.068]],
      ['Index', [0.83, 1.868, 0.016]],
      ['Middle', [0.836, 1.868, -0.03]],
    ] as const) {
      const end: V3 = [s * tip[0], tip[1], tip[2]];
      m.limb('wood', at(j(`${f}1`)), at(j(`${f}2`)), [0.011, 0.011, 0.01], n(j(`${f}1`)), n(j('Hand')), n(j(`${f}2`)));
      m.limb('wood', at(j(`${f}2`)), end, [0.01, 0.009, 0.007], n(j(`${f}2`)), n(j(`${f}1`)));
    }
    m.limb('cloth', at(j('UpLeg')), mix(at(j('UpLeg')), at(j('Leg')), 0.55), [0.085, 0.075, 0.05], n(j('UpLeg')), n('Hips'));
    m.limb('wood', mix(at(j('UpLeg')), at(j('Leg')), 0.4), at(j('Leg')), [0.03, 0.03, 0.032], n(j('UpLeg')), undefined, n(j('Leg')));
    m.ball('beak', at(j('Leg')), [0.042, 0.05, 0.045], w([j('UpLeg'), 0.5], [j('Leg'), 0.5]), 8);
    m.limb('wood', at(j('Leg')), at(j('Foot')), [0.032, 0.028, 0.026], n(j('Leg')), n(j('UpLeg')), n(j('Foot')));
    foot(m, side, at(j('Foot')));
  }
  return writePuppet('Heron', rig, m, COLOURS);
}

/** A carved stilt foot, flat below from heel to toe. */
function foot(m: MeshBuilder, side: 'Left' | 'Right', ankle: V3): void {
  const f: Weights = [[`heron:${side}Foot`, 1]];
  const mid: Weights = [
    [`heron:${side}Foot`, 0.5],
    [`heron:${side}Toes`, 0.5],
  ];
  const t: Weights = [[`heron:${side}Toes`, 1]];
  const turn = side === 'Left' ? 1 : -1;
  const p = (z: number, height: number, half: number, weights: Weights): Ring => ({
    at: add(ankle, [turn * 0.054 * z, height / 2 - ankle[1], z]),
    across: half,
    deep: height / 2,
    weights,
  });
  m.tube(
    'dark',
    [
      p(-0.07, 0.02, 0.012, f),
      p(-0.065, 0.06, 0.03, f),
      p(-0.02, 0.095, 0.038, f),
      p(0.03, 0.085, 0.04, f),
      p(0.09, 0.055, 0.045, f),
      p(0.13, 0.045, 0.046, mid),
      p(0.18, 0.04, 0.042, t),
      p(0.215, 0.03, 0.03, t),
      p(0.225, 0.014, 0.012, t),
    ],
    [0, 1, 0],
    14,
  );
}
