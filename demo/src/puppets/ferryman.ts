import { MeshBuilder, type Ring, type Weights } from '../mesh';
import { buildRig, mirrored, type Rig, type RigJoint } from '../rig';
import { writePuppet, type Material } from '../glb';
import { add, mix, type V3 } from '../vectors';

/**
 * The Ferryman: stocky, short legs, long arms, wide shoulders; rests in an A-pose. Two spine joints, one neck joint, full
 * hands with two finger joints each.
 */
const LEFT: readonly RigJoint[] = [
  { name: 'shoulderBlade_L', parent: 'chest', at: [0.05, 1.19, 0.0] },
  { name: 'upperArm_L', parent: 'shoulderBlade_L', at: [0.25, 1.2, -0.01] },
  { name: 'foreArm_L', parent: 'upperArm_L', at: [0.475, 0.975, -0.02] },
  { name: 'hand_L', parent: 'foreArm_L', at: [0.685, 0.765, 0.005] },
  ...finger('thumb', [0.69, 0.735, 0.045], [0.7, 0.7, 0.075], [0.705, 0.672, 0.095]),
  ...finger('index', [0.748, 0.702, 0.04], [0.778, 0.67, 0.045], [0.8, 0.648, 0.048]),
  ...finger('middle', [0.753, 0.697, 0.012], [0.785, 0.664, 0.014], [0.808, 0.64, 0.016]),
  ...finger('ring', [0.75, 0.7, -0.016], [0.78, 0.668, -0.018], [0.8, 0.646, -0.02]),
  { name: 'thigh_L', parent: 'hips', at: [0.115, 0.72, 0.0] },
  { name: 'shin_L', parent: 'thigh_L', at: [0.125, 0.41, 0.012] },
  { name: 'foot_L', parent: 'shin_L', at: [0.13, 0.105, -0.02] },
  { name: 'toes_L', parent: 'foot_L', at: [0.142, 0.035, 0.125] },
];

function finger(name: string, ...at: readonly V3[]): RigJoint[] {
  return at.slice(0, 2).map((p, i) => ({ name: `${name}${i + 1}_L`, parent: i === 0 ? 'hand_L' : `${name}${i}_L`, at: p }));
}

const FINGER_ENDS: Readonly<Record<string, V3>> = {
  thumb2_L: [0.705, 0.672, 0.095],
  index2_L: [0.8, 0.648, 0.048],
  middle2_L: [0.808, 0.64, 0.016],
  ring2_L: [0.8, 0.646, -0.02],
};

const toRight = (name: string): string => name.replace(/_L$/, '_R');

function ferrymanRig(): Rig {
  const joints: RigJoint[] = [
    { name: 'hips', parent: undefined, at: [0, 0.78, 0] },
    { name: 'belly', parent: 'hips', at: [0, 0.88, 0.0] },
    { name: 'chest', parent: 'belly', at: [0, 1.04, -0.01] },
    { name: 'neck', parent: 'chest', at: [0, 1.27, 0.0] },
    { name: 'head', parent: 'neck', at: [0, 1.35, 0.02] },
    ...LEFT,
    ...mirrored(LEFT, toRight),
  ];
  return buildRig(joints, 'world', new Map([['head', [0, 1.62, 0.03]]]));
}

const COLOURS: Readonly<Record<string, Material>> = {
  coat: { colour: [0.1, 0.24, 0.3], rough: 0.85 },
  trim: { colour: [0.72, 0.47, 0.13], rough: 0.6 },
  skin: { colour: [0.72, 0.47, 0.32], rough: 0.7 },
  boots: { colour: [0.11, 0.08, 0.065], rough: 0.55 },
  trousers: { colour: [0.3, 0.24, 0.19], rough: 0.9 },
  beard: { colour: [0.62, 0.58, 0.5], rough: 0.95 },
  eyes: { colour: [0.03, 0.03, 0.035], rough: 0.3 },
};

export async function ferryman(): Promise<Uint8Array> {
  const rig = ferrymanRig();
  const m = new MeshBuilder();
  const at = (name: string): V3 => rig.joints[rig.index.get(name)!].at;
  const ring = (y: number, across: number, deep: number, weights: Weights, z = 0): Ring => ({ at: [0, y, z], across, deep, weights });

  // Coat: one turned piece from hem to collar.
  const hem: Weights = [
    ['hips', 0.4],
    ['thigh_L', 0.3],
    ['thigh_R', 0.3],
  ];
  m.tube(
    'coat',
    [
      ring(0.5, 0.225, 0.185, hem),
      ring(0.52, 0.245, 0.205, hem),
      ring(0.62, 0.24, 0.2, [
        ['hips', 0.6],
        ['thigh_L', 0.2],
        ['thigh_R', 0.2],
      ]),
      ring(0.74, 0.222, 0.185, [['hips', 1]]),
      ring(0.82, 0.215, 0.185, [
        ['hips', 0.6],
        ['belly', 0.4],
      ]),
      ring(0.92, 0.222, 0.195, [['belly', 1]], 0.01),
      ring(
        1.0,
        0.235,
        0.19,
        [
          ['belly', 0.5],
          ['chest', 0.5],
        ],
        0.005,
      ),
      ring(1.1, 0.26, 0.175, [['chest', 1]]),
      ring(1.18, 0.262, 0.15, [['chest', 1]]),
      ring(1.225, 0.2, 0.12, [['chest', 1]]),
      ring(1.26, 0.1, 0.09, [
        ['chest', 0.6],
        ['neck', 0.4],
      ]),
    ],
    [0, 0, 1],
    28,
  );
  const belt: Weights = [
    ['hips', 0.5],
    ['belly', 0.5],
  ];
  m.tube(
    'trim',
    [ring(0.815, 0.222, 0.195, belt), ring(0.825, 0.23, 0.202, belt), ring(0.855, 0.231, 0.205, belt), ring(0.865, 0.224, 0.198, belt)],
    [0, 0, 1],
    28,
  );
  for (const y of [0.95, 1.04, 1.13])
    m.ball('trim', [0, y, y > 1 ? 0.183 : 0.203], [0.016, 0.016, 0.01], [[y > 1 ? 'chest' : 'belly', 1]], 6);
  m.tube('trim', [
    ring(1.225, 0.125, 0.115, [['chest', 1]]),
    ring(1.25, 0.115, 0.108, [
      ['chest', 0.6],
      ['neck', 0.4],
    ]),
    ring(1.275, 0.1, 0.095, [['neck', 1]]),
  ]);

  // Head, beard and hat.
  const head: Weights = [['head', 1]];
  m.tube('skin', [
    ring(1.24, 0.06, 0.06, [['neck', 1]]),
    ring(
      1.34,
      0.062,
      0.065,
      [
        ['neck', 0.5],
        ['head', 0.5],
      ],
      0.01,
    ),
  ]);
  m.ball('skin', [0, 1.445, 0.025], [0.098, 0.118, 0.108], head, 14);
  m.ball('beard', [0, 1.375, 0.065], [0.088, 0.075, 0.075], head);
  m.ball('beard', [0, 1.31, 0.085], [0.05, 0.07, 0.045], head);
  m.ball('skin', [0, 1.44, 0.138], [0.021, 0.028, 0.03], head, 8);
  for (const x of [-0.04, 0.04]) m.ball('eyes', [x, 1.475, 0.118], [0.012, 0.014, 0.009], head, 6);
  m.tube(
    'boots',
    [
      ring(1.505, 0.2, 0.2, head, 0.02),
      ring(1.512, 0.215, 0.215, head, 0.02),
      ring(1.522, 0.2, 0.2, head, 0.02),
      ring(1.53, 0.115, 0.125, head, 0.02),
      ring(1.6, 0.105, 0.115, head, 0.015),
      ring(1.625, 0.08, 0.09, head, 0.015),
      ring(1.63, 0.03, 0.03, head, 0.015),
    ],
    [0, 0, 1],
    24,
  );
  m.tube('trim', [ring(1.528, 0.118, 0.128, head, 0.02), ring(1.55, 0.117, 0.127, head, 0.02)], [0, 0, 1], 24);

  for (const s of ['L', 'R'] as const) {
    const j = (name: string): string => `${name}_${s}`;
    const upper = at(j('upperArm'));
    m.ball(
      'coat',
      upper,
      [0.088, 0.085, 0.085],
      [
        [j('upperArm'), 0.6],
        [j('shoulderBlade'), 0.4],
      ],
    );
    m.limb('coat', upper, at(j('foreArm')), [0.078, 0.074, 0.066], j('upperArm'), j('shoulderBlade'), j('foreArm'));
    const wrist = at(j('hand'));
    m.limb('coat', at(j('foreArm')), mix(at(j('foreArm')), wrist, 0.9), [0.066, 0.07, 0.062], j('foreArm'), j('upperArm'));
    m.limb('trim', mix(at(j('foreArm')), wrist, 0.84), mix(at(j('foreArm')), wrist, 0.96), [0.066, 0.068, 0.066], j('foreArm'));
    const palm = mix(wrist, at(j('middle1')), 0.55);
    m.ball('skin', palm, [0.042, 0.046, 0.05], [[j('hand'), 1]], 8);
    for (const f of ['thumb', 'index', 'middle', 'ring']) {
      const end = FINGER_ENDS[`${f}2_L`];
      const tip: V3 = s === 'L' ? end : [-end[0], end[1], end[2]];
      const r = f === 'thumb' ? 0.017 : 0.015;
      m.limb('skin', mix(wrist, at(j(`${f}1`)), 0.55), at(j(`${f}1`)), [r, r, r], j('hand'), undefined, j(`${f}1`));
      m.limb('skin', at(j(`${f}1`)), at(j(`${f}2`)), [r, r, r * 0.95], j(`${f}1`), j('hand'), j(`${f}2`));
      m.limb('skin', at(j(`${f}2`)), tip, [r * 0.95, r * 0.9, r * 0.75], j(`${f}2`), j(`${f}1`));
    }
    m.limb('trousers', at(j('thigh')), at(j('shin')), [0.1, 0.1, 0.085], j('thigh'), 'hips', j('shin'));
    const ankle = at(j('foot'));
    m.limb('trousers', at(j('shin')), mix(at(j('shin')), ankle, 0.5), [0.085, 0.084, 0.08], j('shin'), j('thigh'));
    m.limb('boots', mix(at(j('shin')), ankle, 0.3), ankle, [0.09, 0.086, 0.07], j('shin'), undefined, j('foot'));
    boot(m, s, ankle);
  }
  return writePuppet('Ferryman', rig, m, COLOURS);
}

/** A boot whose sole lies flat on the floor from heel to toe. */
function boot(m: MeshBuilder, side: 'L' | 'R', ankle: V3): void {
  const foot: Weights = [[`foot_${side}`, 1]];
  const mid: Weights = [
    [`foot_${side}`, 0.5],
    [`toes_${side}`, 0.5],
  ];
  const toes: Weights = [[`toes_${side}`, 1]];
  const turn = side === 'L' ? 1 : -1;
  const p = (z: number, height: number, half: number, weights: Weights): Ring => ({
    at: add(ankle, [turn * 0.08 * z, height / 2 - ankle[1], z]),
    across: half,
    deep: height / 2,
    weights,
  });
  m.tube(
    'boots',
    [
      p(-0.085, 0.03, 0.02, foot),
      p(-0.08, 0.09, 0.05, foot),
      p(-0.03, 0.125, 0.062, foot),
      p(0.04, 0.115, 0.064, foot),
      p(0.11, 0.085, 0.068, foot),
      p(0.145, 0.075, 0.068, mid),
      p(0.19, 0.068, 0.064, toes),
      p(0.225, 0.055, 0.048, toes),
      p(0.24, 0.025, 0.02, toes),
    ],
    [0, 1, 0],
    16,
  );
}
