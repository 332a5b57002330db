import { FOOT, type FootState } from '../gait';
import { Performance } from '../performer';
import { pose, RIG, type ArmReach } from '../takes/body';
import { smooth } from '../takes/moods';
import { apply, turn } from '../turns';
import { add, mix, sub, type V3 } from '../vectors';
import type { Motion } from './making';

type Side = 'l' | 'r';

const SECONDS = 5.5;
/** The body goes over between these moments, seconds. */
const [LEAVES, LANDS] = [1.1, 3.5];
/** Where it ends, metres to the left of where it began. */
const WAY = 2.34;
/** The wrist of a palm that lies on the floor, metres. */
const PALM = 0.06;

/** What a limb is put down on, metres to the left, and over which degrees of the wheel it comes down and goes up again. */
interface Print {
  readonly x: number;
  readonly down: readonly [number, number];
  readonly up: readonly [number, number];
}

const ALWAYS = [-2, -1] as const;
const NEVER = [400, 401] as const;
const FEET: Readonly<Record<Side, readonly Print[]>> = {
  l: [
    { x: 0.12, down: ALWAYS, up: [104, 160] },
    { x: WAY + 0.12, down: [276, 330], up: NEVER },
  ],
  r: [
    { x: -0.12, down: ALWAYS, up: [24, 80] },
    { x: WAY - 0.12, down: [200, 256], up: NEVER },
  ],
};
const HANDS: Readonly<Record<Side, Print>> = {
  l: { x: WAY / 2 - 0.3, down: [56, 112], up: [216, 272] },
  r: { x: WAY / 2 + 0.3, down: [88, 144], up: [248, 304] },
};

/** Degrees of the wheel, how far to the left the hips are, and how high, metres. */
const HIPS: readonly (readonly [number, number, number])[] = [
  [0, 0, 0.955],
  [50, 0.2, 0.9],
  [104, 0.64, 0.83],
  [180, WAY / 2, 1.05],
  [256, WAY - 0.64, 0.83],
  [310, WAY - 0.2, 0.9],
  [360, WAY, 0.955],
];

/** A cartwheel to the left, facing ahead: hands and feet come down one after the other, the body is upside down over its hands. */
export const CARTWHEEL: Motion = {
  id: 'cartwheel',
  title: 'Cartwheel',
  what: 'along the quay, over both hands, and to a stand',
  tags: ['hands', 'floor', 'pageant'],
  seconds: SECONDS,
  travels: true,
  play: (fps) => {
    const performance = new Performance(RIG, fps);
    for (let f = 0; f < Math.round(SECONDS * fps); f++) {
      const { place, moment, feet } = at(f / fps);
      performance.add(place, pose(place, moment, feet));
    }
    return performance;
  },
};

function at(t: number): { place: V3; moment: Parameters<typeof pose>[1]; feet: Record<Side, FootState> } {
  const wheel = 360 * smooth(t, LEAVES, LANDS);
  const [x, y] = hipsAt(wheel);
  const place: V3 = [x, y - 0.02 * smooth(t, 0.3, 1) * (1 - smooth(t, 3.9, 4.7)), 0.03];
  // The hips go over behind the trunk on the way down, and before it on the way up.
  const bow = Math.sin((wheel * Math.PI) / 180);
  const pelvis = wheel - 20 * bow;
  const raised = smooth(t, 0.3, 1) * (1 - smooth(t, 3.9, 4.9));
  const arm = (side: Side): ArmReach => armAt(side, place, wheel + 8 * bow, raised, wheel);
  return {
    place,
    moment: {
      pelvisYaw: 0,
      pelvisList: -pelvis,
      pelvisTilt: 2,
      spine: { bend: 2, side: -30 * bow, turn: 0 },
      // It looks at its hands.
      head: { nod: -24 * Math.max(0, -Math.cos((wheel * Math.PI) / 180)), turn: 0 },
      arms: { l: arm('l'), r: arm('r') },
    },
    feet: { l: footAt('l', place, pelvis, wheel), r: footAt('r', place, pelvis, wheel) },
  };
}

/** The hips along their way: cubic between its places, with the slopes of their neighbours (Catmull and Rom 1974). */
function hipsAt(wheel: number): readonly [number, number] {
  const i = Math.max(0, HIPS.findIndex(([to]) => to >= wheel) - 1);
  const [a, b] = [HIPS[i], HIPS[i + 1]];
  const u = (wheel - a[0]) / (b[0] - a[0]);
  const slope = (n: number, c: 1 | 2): number => {
    const [before, after] = [HIPS[Math.max(0, n - 1)], HIPS[Math.min(HIPS.length - 1, n + 1)]];
    return n === 0 || n === HIPS.length - 1 ? 0 : ((after[c] - before[c]) / (after[0] - before[0])) * (b[0] - a[0]);
  };
  const along = (c: 1 | 2): number =>
    a[c] * (1 - u) ** 2 * (1 + 2 * u) + slope(i, c) * u * (1 - u) ** 2 + b[c] * u * u * (3 - 2 * u) - slope(i + 1, c) * u * u * (1 - u);
  return [along(1), along(2)];
}

/** How far a limb is down on a print, from 0 to 1. */
const pressed = ({ down, up }: Print, wheel: number): number => smooth(wheel, ...down) * (1 - smooth(wheel, ...up));

function armAt(side: Side, place: V3, trunk: number, raised: number, wheel: number): ArmReach {
  const s = side === 'l' ? 1 : -1;
  const print = HANDS[side];
  const share = pressed(print, wheel);
  // About the shoulder, from hanging over the side to over the head.
  const angle = ((14 + 152 * raised) * Math.PI) / 180;
  const length = 0.5;
  const free: V3 = [s * (0.175 + length * Math.sin(angle)), 0.455 - length * Math.cos(angle), 0.05];
  const wrist = mix(add(place, apply(turn('z', -trunk), free)), [print.x, PALM, 0.05], share);
  return { wrist, elbow: [0, 0, -1], hand: { along: [0, -0.1, -1], share } };
}

function footAt(side: Side, place: V3, pelvis: number, wheel: number): FootState {
  const s = side === 'l' ? 1 : -1;
  const joint = (name: string): V3 => RIG.joints[RIG.index.get(name)!].at;
  const hip = add(place, apply(turn('z', -pelvis), sub(joint(`femur_${side}`), joint('pelvis'))));
  const spread = 56 * Math.sin((wheel * Math.PI) / 360);
  const air = add(hip, apply(turn('z', s * spread - pelvis), [0, -0.82, 0]));
  const print = FEET[side].reduce((a, b) => (pressed(b, wheel) > pressed(a, wheel) ? b : a));
  const weight = pressed(print, wheel);
  // About the hip from one to the other, or the knee would bend on the way.
  const [swung, put] = [sub(air, hip), sub([print.x, FOOT.ankle, 0], hip)];
  const at = (a: number, b: number): number => a + (b - a) * weight;
  const size = at(Math.hypot(swung[0], swung[1]), Math.hypot(put[0], put[1]));
  const [from, to] = [swung, put].map(([dx, dy]) => Math.atan2(dx, -dy));
  const angle = at(from, to + 2 * Math.PI * Math.round((from - to) / (2 * Math.PI)));
  const ankle = add(hip, [size * Math.sin(angle), -size * Math.cos(angle), at(swung[2], put[2])]);
  const over = (Math.atan2(Math.sin(angle), Math.cos(angle)) * 180) / Math.PI;
  return { ankle, pitch: -32 * (1 - weight), heading: 9 * s, toes: 0, weight, ground: 0, over };
}
