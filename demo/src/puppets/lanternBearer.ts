import { writePuppet, type Material, type Morph } from '../glb';
import type { V3 } from '../vectors';
import { Human } from './human';

/**
 * The Lantern Bearer: the plain case. A T-pose, axes along the world, three spine joints, hands of four fingers with two
 * joints each; a lantern joint in the right hand that is not part of the body; face shapes for mouth, lids and brows.
 */
const WORDS: Readonly<Record<string, string>> = {
  hips: 'Hips',
  head: 'Head',
  clavicle: 'Shoulder',
  upperArm: 'Arm',
  lowerArm: 'ForeArm',
  hand: 'Hand',
  upperLeg: 'UpperLeg',
  lowerLeg: 'LowerLeg',
  foot: 'Foot',
  toes: 'Toes',
  lantern: 'LanternProp',
};

function name(part: string): string {
  const [side, own] = part.includes('.') ? part.split('.') : ['', part];
  const [, word, number] = /^([A-Za-z]+?)(\d*)$/.exec(own)!;
  const base = WORDS[word] ?? word[0].toUpperCase() + word.slice(1);
  return `${side === 'L' ? 'left' : side === 'R' ? 'right' : ''}${base}${number}`;
}

const COLOURS: Readonly<Record<string, Material>> = {
  coat: { colour: [0.17, 0.33, 0.2], rough: 0.88 },
  scarf: { colour: [0.76, 0.31, 0.12], rough: 0.9 },
  skin: { colour: [0.56, 0.38, 0.27], rough: 0.7 },
  hair: { colour: [0.08, 0.06, 0.05], rough: 0.9 },
  hose: { colour: [0.24, 0.2, 0.17], rough: 0.9 },
  shoes: { colour: [0.16, 0.1, 0.07], rough: 0.6 },
  iron: { colour: [0.15, 0.15, 0.16], rough: 0.4 },
  glow: { colour: [0.95, 0.76, 0.34], rough: 0.3 },
  lips: { colour: [0.45, 0.2, 0.17], rough: 0.6 },
  eyes: { colour: [0.03, 0.03, 0.035], rough: 0.3 },
};

/** Where the eyes and the mouth are. */
const EYE = { y: 1.598, z: 0.1026 };
const MOUTH = 1.5205;
const side = (x: number, of: 'left' | 'right'): boolean => (of === 'left' ? x > 0 : x < 0);
const isBrow = ([x, y, z]: V3, of: 'left' | 'right'): boolean => y < 1.63 && z > 0.09 && side(x, of);

/** Shapes of one side of the face. */
const ofSide = (of: 'left' | 'right'): Morph[] => [
  { name: `${of}Lid`, parts: { eyes: ([x, y]) => [0, side(x, of) ? (EYE.y - y) * 0.85 : 0, 0] } },
  { name: `${of}BrowDown`, parts: { hair: (p) => (isBrow(p, of) ? [0, -0.008, 0.001] : [0, 0, 0]) } },
  { name: `${of}Smile`, parts: { lips: ([x]) => (side(x, of) ? [x * 0.3, Math.abs(x) * 0.45, -0.003] : [0, 0, 0]) } },
];

/** Moves of the face's parts, metres: what each channel does at its full. */
const MORPHS: readonly Morph[] = [
  { name: 'mouthOpen', parts: { lips: ([, y]) => [0, y < MOUTH ? -0.022 : 0.006, 0] } },
  { name: 'mouthWide', parts: { lips: ([x]) => [x * 0.45, 0.002, -0.003] } },
  { name: 'kiss', parts: { lips: ([x, y]) => [-x * 0.4, (y - MOUTH) * 0.5, 0.008] } },
  { name: 'browsUp', parts: { hair: (p) => (isBrow(p, 'left') || isBrow(p, 'right') ? [0, 0.014, 0.002] : [0, 0, 0]) } },
  ...ofSide('left'),
  ...ofSide('right'),
];

function lanternBearerPlan(): Human {
  return new Human({
    name,
    axes: 'world',
    hips: [0, 0.95, 0],
    spine: [
      [0, 1.04, -0.005],
      [0, 1.15, -0.01],
      [0, 1.27, -0.01],
    ],
    neck: [[0, 1.42, 0]],
    head: [0, 1.5, 0.015],
    crown: [0, 1.7, 0.02],
    clavicle: [0.03, 1.36, 0.005],
    arm: [
      [0.17, 1.37, -0.01],
      [0.435, 1.37, -0.015],
      [0.68, 1.37, -0.005],
    ],
    fingers: {
      thumb: [
        [0.705, 1.36, 0.03],
        [0.735, 1.352, 0.055],
        [0.755, 1.348, 0.072],
      ],
      index: [
        [0.765, 1.37, 0.022],
        [0.805, 1.368, 0.025],
        [0.835, 1.366, 0.027],
      ],
      middle: [
        [0.768, 1.37, 0.0],
        [0.81, 1.368, 0],
        [0.842, 1.366, 0],
      ],
      ring: [
        [0.764, 1.37, -0.022],
        [0.803, 1.368, -0.025],
        [0.832, 1.366, -0.027],
      ],
    },
    leg: [
      [0.092, 0.905, 0],
      [0.096, 0.495, 0.01],
      [0.099, 0.088, -0.014],
    ],
    ball: [0.108, 0.024, 0.122],
    toeTip: [0.112, 0.02, 0.192],
    more: [{ part: 'lantern', parent: 'R.hand', at: [-0.76, 1.31, 0.01] }],
    tips: { lantern: [-0.76, 1.06, 0.01] },
  });
}

export async function lanternBearer(): Promise<Uint8Array> {
  const p = lanternBearerPlan();
  const { mesh: m } = p;
  const hem = p.w(['hips', 0.4], ['L.upperLeg', 0.3], ['R.upperLeg', 0.3]);
  m.tube(
    'coat',
    [
      p.ring(0.66, 0.195, 0.165, hem),
      p.ring(0.68, 0.21, 0.18, hem),
      p.ring(0.82, 0.185, 0.155, p.w(['hips', 0.7], ['L.upperLeg', 0.15], ['R.upperLeg', 0.15])),
      p.ring(0.95, 0.165, 0.135),
      p.ring(1.05, 0.148, 0.12),
      p.ring(1.16, 0.16, 0.127),
      p.ring(1.28, 0.178, 0.13),
      p.ring(1.36, 0.172, 0.115),
      p.ring(1.405, 0.1, 0.085),
    ],
    [0, 0, 1],
    28,
  );
  m.tube('scarf', [p.ring(1.385, 0.1, 0.095), p.ring(1.41, 0.105, 0.1), p.ring(1.445, 0.085, 0.085, p.w(['neck1', 1]))], [0, 0, 1], 24);
  const end = (y: number, k: number): ReturnType<Human['ring']> => ({ ...p.ring(y, 0.035 * k, 0.012, p.trunk(y)), at: [0.05, y, 0.132] });
  m.tube('scarf', [end(1.4, 0.9), end(1.3, 1), end(1.15, 1.05), end(1.13, 0.9)], [0, 0, 1], 12);
  const centre: V3 = [0, 1.575, 0.022];
  p.face('skin', 'eyes', centre, 0.106);
  const head = p.w(['head', 1]);
  m.ball('hair', [0, 1.615, -0.008], [0.096, 0.086, 0.098], head, 12);
  m.ball('hair', [0, 1.69, -0.02], [0.04, 0.035, 0.04], head, 8);
  m.ball('lips', [0, 1.5205, 0.108], [0.026, 0.009, 0.012], head, 8);
  for (const x of [-0.036, 0.036]) m.ball('hair', [x, 1.616, 0.108], [0.02, 0.005, 0.008], head, 6);
  // The lantern: ring, roof, glass, base.
  const hang = p.w(['lantern', 1]);
  const lantern = (dy: number, r: number): ReturnType<Human['ring']> => ({
    at: [-0.76, 1.31 - dy, 0.01],
    across: r,
    deep: r,
    weights: hang,
  });
  m.tube(
    'iron',
    [lantern(0, 0.008), lantern(0.07, 0.008), lantern(0.075, 0.02), lantern(0.115, 0.062), lantern(0.12, 0.062)],
    [0, 0, 1],
    12,
  );
  m.tube('glow', [lantern(0.12, 0.046), lantern(0.15, 0.05), lantern(0.2, 0.05), lantern(0.222, 0.046)], [0, 0, 1], 12);
  m.tube('iron', [lantern(0.222, 0.058), lantern(0.24, 0.062), lantern(0.25, 0.058)], [0, 0, 1], 12);
  for (const side of ['L', 'R'] as const) {
    p.limbs(side, { sleeve: 'coat', cuff: 'scarf', leg: 'hose', shank: 'hose' }, [0.066, 0.056, 0.048], [0.086, 0.066, 0.05]);
    p.hand(side, 'skin', 0.038, 0.0125);
    p.shoe(side, 'shoes', 0.98);
  }
  return writePuppet('Lantern Bearer', p.rig, m, COLOURS, MORPHS);
}
