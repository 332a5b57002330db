import { writePuppet, zUpCentimetres, type Material } from '../glb';
import { add, type V3 } from '../vectors';
import { Human } from './human';

/**
 * The Tide-King: made Z-up in centimetres, a prefix on each joint; hock legs of three segments; a tail of six joints. Rests in
 * a T-pose. Its file says the standard's metres and Y up and means neither, as files of such origin do.
 */
const PREFIX = 'tideking:';
const WORDS: Readonly<Record<string, string>> = {
  hips: 'hip_root',
  head: 'head',
  clavicle: 'clav',
  upperArm: 'uparm',
  lowerArm: 'loarm',
  hand: 'hand',
  upperLeg: 'thigh',
  lowerLeg: 'shank',
  hock: 'cannon',
  foot: 'foot',
  toes: 'toe',
};

function name(part: string): string {
  const [side, own] = part.includes('.') ? part.split('.') : ['', part];
  const [, word, number] = /^([A-Za-z]+?)(\d*)$/.exec(own)!;
  return `${PREFIX}${WORDS[word] ?? word}${number && `_${number}`}${side && `_${side.toLowerCase()}`}`;
}

const COLOURS: Readonly<Record<string, Material>> = {
  hide: { colour: [0.09, 0.3, 0.33], rough: 0.6 },
  belly: { colour: [0.42, 0.55, 0.46], rough: 0.7 },
  mantle: { colour: [0.13, 0.18, 0.35], rough: 0.9 },
  gold: { colour: [0.78, 0.58, 0.18], rough: 0.35 },
  horn: { colour: [0.68, 0.62, 0.5], rough: 0.6 },
  eyes: { colour: [0.85, 0.72, 0.2], rough: 0.3 },
};

const TAIL: readonly V3[] = [
  [0, 1.0, -0.13],
  [0, 0.93, -0.32],
  [0, 0.83, -0.5],
  [0, 0.71, -0.67],
  [0, 0.6, -0.85],
  [0, 0.53, -1.04],
];
const TAIL_TIP: V3 = [0, 0.5, -1.24];

function tideKingPlan(): Human {
  return new Human({
    name,
    axes: 'world',
    hips: [0, 1.06, 0],
    spine: [
      [0, 1.16, 0.0],
      [0, 1.3, -0.01],
      [0, 1.45, -0.01],
      [0, 1.58, 0.0],
    ],
    neck: [
      [0, 1.72, 0.02],
      [0, 1.79, 0.04],
    ],
    head: [0, 1.86, 0.06],
    crown: [0, 2.1, 0.07],
    clavicle: [0.04, 1.66, 0.01],
    arm: [
      [0.23, 1.67, -0.01],
      [0.53, 1.67, -0.02],
      [0.8, 1.67, 0],
    ],
    fingers: {
      thumb: [
        [0.835, 1.655, 0.04],
        [0.865, 1.645, 0.075],
        [0.885, 1.64, 0.1],
      ],
      index: [
        [0.9, 1.67, 0.035],
        [0.955, 1.665, 0.04],
        [1.0, 1.66, 0.043],
      ],
      middle: [
        [0.9, 1.67, -0.025],
        [0.955, 1.665, -0.03],
        [1.0, 1.66, -0.033],
      ],
    },
    leg: [
      [0.13, 0.99, 0.01],
      [0.145, 0.66, 0.13],
      [0.15, 0.36, -0.1],
      [0.155, 0.1, -0.005],
    ],
    ball: [0.165, 0.035, 0.12],
    toeTip: [0.17, 0.03, 0.22],
    more: TAIL.map((at, i) => ({ part: `tail${i + 1}`, parent: i === 0 ? 'hips' : `tail${i}`, at })),
    tips: { tail6: TAIL_TIP },
  });
}

export async function tideKing(): Promise<Uint8Array> {
  const p = tideKingPlan();
  const { mesh: m } = p;
  m.tube(
    'hide',
    [
      p.ring(0.93, 0.12, 0.12, p.w(['hips', 1])),
      p.ring(0.96, 0.19, 0.165, p.w(['hips', 1])),
      p.ring(1.06, 0.2, 0.175),
      p.ring(1.16, 0.175, 0.15),
      p.ring(1.3, 0.19, 0.155),
      p.ring(1.45, 0.24, 0.175),
      p.ring(1.58, 0.265, 0.17),
      p.ring(1.67, 0.23, 0.14),
      p.ring(1.73, 0.12, 0.105),
    ],
    [0, 0, 1],
    28,
  );
  const plate = (y: number, across: number, z: number): ReturnType<Human['ring']> => p.ring(y, across, 0.02, p.trunk(y), z);
  m.tube(
    'belly',
    [plate(1.02, 0.1, 0.165), plate(1.16, 0.105, 0.142), plate(1.3, 0.115, 0.143), plate(1.45, 0.14, 0.162), plate(1.57, 0.13, 0.165)],
    [0, 0, 1],
    14,
  );
  m.tube('mantle', [p.ring(1.6, 0.29, 0.195), p.ring(1.64, 0.285, 0.19), p.ring(1.7, 0.22, 0.15), p.ring(1.74, 0.14, 0.12)], [0, 0, 1], 28);
  m.tube('gold', [p.ring(1.09, 0.203, 0.178), p.ring(1.105, 0.207, 0.182), p.ring(1.135, 0.192, 0.168)], [0, 0, 1], 28);
  // Tail: tapering, each ring carried by its two nearest joints.
  const way = [add(p.at('hips'), [0, -0.02, -0.05]), ...TAIL, TAIL_TIP];
  const joint = (i: number): string => (i === 0 ? 'hips' : `tail${Math.min(i, TAIL.length)}`);
  m.tube(
    'hide',
    way.flatMap((at, i) => {
      const size = 0.125 * (1 - i / (way.length - 0.2));
      const own = { at, across: size, deep: size * 1.1, weights: p.w([joint(Math.max(0, i - 1)), 0.5], [joint(i), 0.501]) };
      if (i + 1 === way.length) return [own];
      const next = way[i + 1];
      const half: V3 = [(at[0] + next[0]) / 2, (at[1] + next[1]) / 2, (at[2] + next[2]) / 2];
      const small = 0.125 * (1 - (i + 0.5) / (way.length - 0.2));
      return [own, { at: half, across: small, deep: small * 1.1, weights: p.w([joint(i), 1]) }];
    }),
    [0, 1, 0],
    16,
  );
  for (const side of [-1, 1]) {
    const fluke: V3 = [side * 0.12, 0.52, -1.26];
    m.ball('mantle', fluke, [0.13, 0.018, 0.07], p.w(['tail6', 1]), 8);
  }
  const centre: V3 = [0, 1.945, 0.075];
  p.face('hide', 'eyes', centre, 0.13);
  const head = p.w(['head', 1]);
  m.ball('belly', [0, 1.875, 0.16], [0.06, 0.045, 0.05], head, 8);
  m.tube(
    'gold',
    [p.ring(2.015, 0.112, 0.122, head, 0.07), p.ring(2.05, 0.116, 0.126, head, 0.07), p.ring(2.06, 0.105, 0.115, head, 0.07)],
    [0, 0, 1],
    24,
  );
  for (let i = 0; i < 7; i++) {
    const a = ((i - 3) / 7) * Math.PI * 1.7;
    const at: V3 = [Math.sin(a) * 0.105, 2.05, 0.07 + Math.cos(a) * 0.115];
    m.limb('gold', at, add(at, [0, i % 2 === 1 ? 0.11 : 0.07, 0]), [0.016, 0.012, 0.003], p.plan.name('head'));
  }
  for (const x of [-1, 1]) m.limb('horn', [x * 0.09, 1.99, 0.03], [x * 0.21, 2.13, -0.05], [0.03, 0.022, 0.005], p.plan.name('head'));
  for (const side of ['L', 'R'] as const) {
    p.limbs(side, { sleeve: 'hide', cuff: 'gold', leg: 'hide', shank: 'hide' }, [0.09, 0.072, 0.058], [0.115, 0.08, 0.055]);
    p.hand(side, 'belly', 0.048, 0.02);
    p.shoe(side, 'horn', 1.12, 0.95);
  }
  return writePuppet('Tide-King', ...zUpCentimetres(p.rig, m), COLOURS);
}
