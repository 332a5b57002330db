import { writePuppet, type Material } from '../glb';
import type { V3 } from '../vectors';
import { Human } from './human';

/**
 * The Bellkeeper: tall and stooped, six spine joints and two neck joints, twist joints in arms and thighs, full hands of
 * five fingers with three joints each; rests in an A-pose with the stoop that is its shape.
 */
const WORDS: Readonly<Record<string, string>> = {
  hips: 'Pelvis',
  head: 'Head',
  clavicle: 'Clavicle',
  upperArm: 'UpperArm',
  lowerArm: 'Forearm',
  hand: 'Hand',
  upperLeg: 'Thigh',
  lowerLeg: 'Calf',
  foot: 'Foot',
  toes: 'Toe',
  thumb: 'Thumb',
  index: 'Index',
  middle: 'Middle',
  ring: 'Ring',
  little: 'Little',
};

function name(part: string): string {
  const [side, own] = part.includes('.') ? part.split('.') : ['', part];
  const found = /^([a-z]+(?:Arm|Leg)?)(Twist)?(\d*)$/.exec(own)!;
  const [, word, twist = '', number] = found;
  const base = WORDS[word] ?? word[0].toUpperCase() + word.slice(1);
  return `${side && `${side}_`}${base}${twist && '_Twist'}${number && `_${number.padStart(2, '0')}`}`;
}

const COLOURS: Readonly<Record<string, Material>> = {
  robe: { colour: [0.24, 0.19, 0.27], rough: 0.92 },
  sash: { colour: [0.63, 0.5, 0.2], rough: 0.55 },
  skin: { colour: [0.66, 0.5, 0.4], rough: 0.75 },
  hair: { colour: [0.74, 0.73, 0.7], rough: 0.95 },
  boots: { colour: [0.14, 0.1, 0.08], rough: 0.6 },
  bell: { colour: [0.55, 0.38, 0.14], rough: 0.35 },
  eyes: { colour: [0.03, 0.03, 0.035], rough: 0.3 },
};

/** Knuckles in a row, each finger along the hand's way, from the wrist by shares. */
function fingers(wrist: V3, way: V3, across: V3): Record<string, readonly V3[]> {
  const point = (along: number, side: number, down = 0): V3 => [
    wrist[0] + way[0] * along + across[0] * side,
    wrist[1] + way[1] * along + across[1] * side - down,
    wrist[2] + way[2] * along + across[2] * side,
  ];
  const finger = (side: number, base: number, bones: readonly number[]): V3[] => {
    let along = base;
    return [point(along, side), ...bones.map((bone, i) => point((along += bone), side, 0.004 * (i + 1)))];
  };
  return {
    thumb: [point(0.03, 0.028, 0.012), point(0.06, 0.05, 0.02), point(0.09, 0.064, 0.026), point(0.115, 0.074, 0.03)],
    index: finger(0.032, 0.1, [0.044, 0.028, 0.022]),
    middle: finger(0.008, 0.103, [0.049, 0.031, 0.024]),
    ring: finger(-0.015, 0.1, [0.045, 0.029, 0.023]),
    little: finger(-0.036, 0.093, [0.035, 0.022, 0.019]),
  };
}

function bellkeeperPlan(): Human {
  const wrist: V3 = [0.6, 1.02, 0.075];
  const down = 45 * (Math.PI / 180);
  const way: V3 = [Math.cos(down), -Math.sin(down), 0.05];
  return new Human({
    name,
    axes: 'bones',
    hips: [0, 1.08, 0],
    spine: [
      [0, 1.15, -0.012],
      [0, 1.22, -0.022],
      [0, 1.3, -0.022],
      [0, 1.38, -0.008],
      [0, 1.455, 0.02],
      [0, 1.52, 0.055],
    ],
    neck: [
      [0, 1.615, 0.115],
      [0, 1.665, 0.155],
    ],
    head: [0, 1.71, 0.19],
    crown: [0, 1.93, 0.215],
    clavicle: [0.03, 1.575, 0.085],
    arm: [[0.2, 1.57, 0.06], [0.4, 1.3, 0.05], wrist],
    fingers: fingers(wrist, way, [0, 0, 1]),
    leg: [
      [0.098, 1.03, 0],
      [0.104, 0.555, 0.014],
      [0.107, 0.098, -0.02],
    ],
    ball: [0.116, 0.028, 0.125],
    toeTip: [0.121, 0.022, 0.2],
    twists: { upperArm: [0.35, 0.7], lowerArm: [0.35, 0.7], upperLeg: [0.5] },
  });
}

export async function bellkeeper(): Promise<Uint8Array> {
  const p = bellkeeperPlan();
  const { mesh: m } = p;
  const hem = p.w(['L.upperLeg', 0.45], ['R.upperLeg', 0.45], ['hips', 0.1]);
  m.tube(
    'robe',
    [
      p.ring(0.56, 0.215, 0.195, hem, 0.01),
      p.ring(0.58, 0.23, 0.21, hem, 0.01),
      p.ring(0.78, 0.21, 0.18, p.w(['hips', 0.4], ['L.upperLeg', 0.3], ['R.upperLeg', 0.3])),
      p.ring(1.0, 0.18, 0.15),
      p.ring(1.1, 0.165, 0.135),
      p.ring(1.2, 0.168, 0.135),
      p.ring(1.32, 0.185, 0.145),
      p.ring(1.44, 0.2, 0.15),
      p.ring(1.53, 0.195, 0.135),
      p.ring(1.595, 0.13, 0.105),
      p.ring(1.63, 0.075, 0.075),
    ],
    [0, 0, 1],
    28,
  );
  // The stoop: a shawl that lies over the back.
  m.ball('sash', [0, 1.5, -0.035], [0.175, 0.1, 0.085], p.w(['spine5', 0.6], ['spine6', 0.4]));
  m.tube(
    'sash',
    [p.ring(1.085, 0.17, 0.142), p.ring(1.1, 0.176, 0.147), p.ring(1.135, 0.175, 0.146), p.ring(1.15, 0.169, 0.141)],
    [0, 0, 1],
    28,
  );
  // A hand bell at the belt.
  const hang = p.w(['hips', 1]);
  const bell: V3 = [0.165, 1.0, 0.09];
  m.tube(
    'bell',
    [0, 0.012, 0.05, 0.085, 0.1].map((dy, i) => ({
      at: [bell[0], bell[1] - dy, bell[2]] as V3,
      across: [0.008, 0.026, 0.034, 0.045, 0.058][i],
      deep: [0.008, 0.026, 0.034, 0.045, 0.058][i],
      weights: hang,
    })),
    [0, 0, 1],
    16,
  );
  const centre: V3 = [0, 1.795, 0.2];
  p.face('skin', 'eyes', centre, 0.112);
  const head = p.w(['head', 1]);
  m.ball('hair', [0, 1.7, 0.27], [0.06, 0.09, 0.05], head);
  m.ball('hair', [0, 1.83, 0.155], [0.1, 0.085, 0.09], head);
  m.tube(
    'robe',
    [
      p.ring(1.85, 0.105, 0.11, head, 0.19),
      p.ring(1.875, 0.108, 0.113, head, 0.19),
      p.ring(1.95, 0.075, 0.08, head, 0.175),
      p.ring(2.0, 0.035, 0.04, head, 0.15),
      p.ring(2.02, 0.008, 0.01, head, 0.13),
    ],
    [0, 0, 1],
    20,
  );
  for (const side of ['L', 'R'] as const) {
    p.limbs(side, { sleeve: 'robe', cuff: 'sash', leg: 'robe', shank: 'boots' }, [0.074, 0.064, 0.056], [0.095, 0.07, 0.056]);
    p.hand(side, 'skin', 0.04, 0.0115);
    p.shoe(side, 'boots', 1.02);
  }
  return writePuppet('Bellkeeper', p.rig, m, COLOURS);
}
