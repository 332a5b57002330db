import { writePuppet, type Material, type Morph } from '../glb';
import type { V3 } from '../vectors';
import { Human } from './human';

/** The Apprentice: a child of 1.1 m with a large head and short limbs; three spine joints, no fingers; rests in an A-pose; a face of few shapes. */
const SIDES: Readonly<Record<string, string>> = { L: '.L', R: '.R' };
const WORDS: Readonly<Record<string, string>> = {
  hips: 'seat',
  spine1: 'waist',
  spine2: 'ribs',
  spine3: 'breast',
  neck1: 'neck',
  head: 'head',
  clavicle: 'collar',
  upperArm: 'arm',
  lowerArm: 'forearm',
  hand: 'hand',
  upperLeg: 'thigh',
  lowerLeg: 'shin',
  foot: 'foot',
  toes: 'toe',
};

/** The spine words of the names are this puppet's own: only "waist" and "ribs" are body words that a reader may know. */
function name(part: string): string {
  const [side, own] = part.includes('.') ? part.split('.') : ['', part];
  return (WORDS[own] ?? own) + (SIDES[side] ?? '');
}

const COLOURS: Readonly<Record<string, Material>> = {
  smock: { colour: [0.55, 0.16, 0.12], rough: 0.9 },
  apron: { colour: [0.78, 0.7, 0.54], rough: 0.95 },
  skin: { colour: [0.77, 0.55, 0.41], rough: 0.7 },
  hair: { colour: [0.27, 0.14, 0.06], rough: 0.9 },
  brows: { colour: [0.22, 0.11, 0.05], rough: 0.9 },
  hose: { colour: [0.2, 0.27, 0.22], rough: 0.9 },
  clogs: { colour: [0.5, 0.33, 0.16], rough: 0.6 },
  eyes: { colour: [0.03, 0.03, 0.035], rough: 0.3 },
  lips: { colour: [0.58, 0.3, 0.27], rough: 0.6 },
};

const EYE = { y: 1.001, z: 0.11 };
const MOUTH = 0.925;
const isSide = (x: number, letter: string): boolean => (letter === 'L' ? x > 0 : x < 0);

/** Moves of the face's parts, metres, under names of the Apprentice's own maker. */
const MORPHS: readonly Morph[] = [
  { name: 'mouth_open', parts: { lips: ([, y]) => [0, y < MOUTH ? -0.024 : 0.005, 0] } },
  { name: 'mouth_pucker', parts: { lips: ([x]) => [-x * 0.45, 0, 0.008] } },
  { name: 'brow_raise', parts: { brows: () => [0, 0.013, 0.002] } },
  ...['L', 'R'].flatMap((letter): Morph[] => [
    { name: `eye_close.${letter}`, parts: { eyes: ([x, y]) => [0, isSide(x, letter) ? (EYE.y - y) * 0.85 : 0, 0] } },
    { name: `mouth_smile.${letter}`, parts: { lips: ([x]) => (isSide(x, letter) ? [x * 0.3, Math.abs(x) * 0.5, -0.003] : [0, 0, 0]) } },
    { name: `brow_lower.${letter}`, parts: { brows: ([x]) => [0, isSide(x, letter) ? -0.009 : 0, 0] } },
  ]),
];

function apprenticePlan(): Human {
  return new Human({
    name,
    axes: 'bones',
    hips: [0, 0.5, 0],
    spine: [
      [0, 0.56, -0.005],
      [0, 0.635, -0.01],
      [0, 0.715, -0.01],
    ],
    neck: [[0, 0.815, 0]],
    head: [0, 0.86, 0.015],
    crown: [0, 1.1, 0.02],
    clavicle: [0.018, 0.785, 0.005],
    arm: [
      [0.11, 0.79, -0.005],
      [0.2, 0.68, -0.008],
      [0.28, 0.575, 0.004],
    ],
    fingers: {},
    leg: [
      [0.058, 0.465, 0],
      [0.062, 0.265, 0.008],
      [0.064, 0.07, -0.012],
    ],
    ball: [0.07, 0.022, 0.07],
    toeTip: [0.073, 0.018, 0.115],
  });
}

export async function apprentice(): Promise<Uint8Array> {
  const p = apprenticePlan();
  const { mesh: m } = p;
  const hem = p.w(['hips', 0.5], ['L.upperLeg', 0.25], ['R.upperLeg', 0.25]);
  m.tube(
    'smock',
    [
      p.ring(0.33, 0.15, 0.125, hem),
      p.ring(0.35, 0.165, 0.14, hem),
      p.ring(0.46, 0.145, 0.12),
      p.ring(0.54, 0.12, 0.1),
      p.ring(0.63, 0.118, 0.098),
      p.ring(0.71, 0.126, 0.094),
      p.ring(0.77, 0.124, 0.082),
      p.ring(0.805, 0.075, 0.062),
    ],
    [0, 0, 1],
    24,
  );
  const front = (y: number, across: number, z: number): ReturnType<Human['ring']> => p.ring(y, across, 0.012, p.trunk(y), z);
  m.tube(
    'apron',
    [front(0.37, 0.1, 0.128), front(0.46, 0.094, 0.112), front(0.54, 0.08, 0.094), front(0.66, 0.062, 0.089), front(0.7, 0.058, 0.086)],
    [0, 0, 1],
    12,
  );
  m.tube('hair', [p.ring(0.545, 0.124, 0.104), p.ring(0.558, 0.124, 0.104)], [0, 0, 1], 24);
  const centre: V3 = [0, 0.975, 0.02];
  p.face('skin', 'eyes', centre, 0.118);
  const head = p.w(['head', 1]);
  m.ball('hair', [0, 1.024, -0.012], [0.106, 0.094, 0.106], head, 12);
  for (const [x, y, z] of [
    [0.06, 1.1, 0.03],
    [-0.03, 1.115, 0.0],
    [0.01, 1.1, 0.07],
    [-0.075, 1.07, 0.03],
    [0.085, 1.03, 0.0],
  ] as const)
    m.ball('hair', [x, y - 0.015, z], [0.04, 0.035, 0.04], head, 7);
  m.ball('lips', [0, MOUTH, 0.118], [0.027, 0.008, 0.012], head, 8);
  for (const x of [-0.04, 0.04]) m.ball('brows', [x, 1.024, 0.115], [0.02, 0.005, 0.008], head, 6);
  for (const side of ['L', 'R'] as const) {
    p.limbs(side, { sleeve: 'smock', cuff: 'apron', leg: 'hose', shank: 'hose' }, [0.05, 0.042, 0.036], [0.062, 0.05, 0.042]);
    p.hand(side, 'skin', 0.032, 0.011);
    p.shoe(side, 'clogs', 0.66, 1.15);
  }
  return writePuppet('Apprentice', p.rig, m, COLOURS, MORPHS);
}
