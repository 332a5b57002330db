import { arc, weaving } from '../footwork';
import { hold, smooth } from '../takes/moods';
import { BODILY } from './bodily';
import { DARING } from './daring';
import { PAIR } from './pair';
import { CARTWHEEL } from './wheel';
import { going, standing, to, wave, stairs, type Motion } from './making';

/** All motions of the depot, by title. */
export const MOTIONS: readonly Motion[] = [
  going('walk-calm', 'Walk, calm', 'ten unhurried steps', ['walk', 'cycle'], { walk: { count: 11, pace: 0.58 } }),
  going('walk-brisk', 'Walk, brisk', 'late for the procession, arms at work', ['walk'], {
    walk: { count: 13, pace: 0.44, length: 0.76 },
    mood: { swing: 34, elbow: 40, tilt: 6, bend: 4 },
  }),
  going('walk-tired', 'Walk, tired', 'at the end of the day: short steps, head down', ['walk', 'mood'], {
    walk: { count: 9, pace: 0.74, length: 0.46 },
    mood: { swing: 10, hang: 80, tilt: 8, bend: 18, nod: 16, list: 5 },
    low: 0.03,
  }),
  going('walk-proud', 'Procession march', 'knees high, chest out, measured', ['walk', 'pageant'], {
    walk: { count: 12, pace: 0.62, length: 0.6, lift: 0.16 },
    mood: { swing: 40, elbow: 12, tilt: -1, bend: -7, nod: -6 },
  }),
  going('walk-creep', 'Creep', 'low and slow, each foot set down with care', ['walk', 'mood'], {
    walk: { count: 8, pace: 0.92, length: 0.5, lift: 0.09, rolls: false },
    mood: { swing: 8, elbow: 74, hang: 58, tilt: 16, bend: 18, nod: -18 },
    low: 0.16,
  }),
  going('walk-swagger', 'Swagger', 'wide, rolling, thumbs in the belt', ['walk', 'mood'], {
    walk: { count: 10, pace: 0.66, length: 0.6, width: 0.26, toeOut: 18 },
    mood: { yaw: 12, list: 6, tilt: 0, bend: -5 },
    over: (t, _, end) => {
      const k = hold(t, 0.2, 0.8, end - 0.4, end + 0.3);
      return {
        l: { down: 70 - 8 * k, forward: -10 * k, elbow: 20 + 62 * k, roll: 20 },
        r: { down: 70 - 8 * k, forward: -10 * k, elbow: 20 + 62 * k, roll: 20 },
      };
    },
  }),
  going('walk-stagger', 'Stagger', 'from the tavern: the steps go where they like', ['walk', 'mood'], {
    walk: {
      count: 11,
      pace: 0.6,
      length: 0.5,
      way: weaving(1.9, 0.24),
      width: 0.22,
      uneven: (i) => ({ time: [1, 1.25, 0.8, 1.1, 0.9][i % 5], length: [1, 0.7, 1.3, 0.9][i % 4] }),
    },
    mood: { swing: 14, list: 8, bend: 8 },
    over: (t) => ({ side: 9 * Math.sin(t * 1.7), turn: 12 * Math.sin(t * 1.1), nod: 8 * Math.sin(t * 2.3) }),
  }),
  going('walk-backward', 'Walk backwards', 'away from the edge, looking over the shoulder', ['walk'], {
    walk: { count: 8, pace: 0.66, length: -0.42, rolls: false, lift: 0.05 },
    mood: { swing: 9, tilt: 5 },
    over: (t, _, end) => ({ look: 48 * hold(t, 0.4, 1.2, end - 0.8, end), turn: 14 * hold(t, 0.4, 1.2, end - 0.8, end) }),
  }),
  going('walk-arc-left', 'Walk, bend to the left', 'a quarter round the capstan', ['walk', 'turn'], {
    walk: { count: 12, way: arc(2.6), length: 0.6 },
  }),
  going('walk-arc-right', 'Walk, bend to the right', 'the same the other way about', ['walk', 'turn'], {
    walk: { count: 12, way: arc(-2.6), length: 0.6 },
  }),
  going('walk-circle', 'Walk in a circle', 'once round the well', ['walk', 'turn'], { walk: { count: 18, way: arc(1.5), length: 0.56 } }),
  going('walk-weave', 'Weave', 'in and out between the bollards', ['walk', 'turn'], {
    walk: { count: 14, way: weaving(3.4, 0.5), length: 0.6 },
  }),
  going('walk-load', 'Carry a sack', 'bent under a sack on the left shoulder', ['walk', 'prop', 'hands'], {
    walk: { count: 10, pace: 0.64, length: 0.5, width: 0.2 },
    mood: { swing: 12, tilt: 12, bend: 16, nod: 4, list: 4 },
    over: () => ({ side: -7, l: { down: 18, forward: 36, elbow: 128, roll: 10 } }),
    low: 0.04,
  }),
  going('walk-barrow', 'Push a barrow', 'both hands on the shafts, the weight ahead', ['walk', 'prop', 'hands'], {
    walk: { count: 11, pace: 0.6, length: 0.54, width: 0.18 },
    mood: { tilt: 12, bend: 8, nod: -12 },
    over: () => ({ l: { down: 66, forward: 34, elbow: 30, roll: 10 }, r: { down: 66, forward: 34, elbow: 30, roll: 10 } }),
    ahead: 0.08,
  }),
  going('walk-tiptoe', 'Tiptoe past', 'light, quick and high on the toes', ['walk', 'mood'], {
    walk: { count: 14, pace: 0.38, length: 0.36, lift: 0.08, width: 0.1 },
    mood: { swing: 10, elbow: 88, hang: 44, bend: 6, nod: -6 },
  }),
  going('steps-up', 'Up the steps', 'seven steps of the sea wall', ['walk', 'climb'], {
    walk: { count: 9, pace: 0.66, length: 0.3, way: stairs, rolls: false, lift: 0.07 },
    mood: { swing: 16, tilt: 9, bend: 6, nod: -6 },
    low: 0.03,
  }),
  going('jog', 'Jog', 'easy, with a moment in the air', ['run'], {
    walk: { count: 14, pace: 0.35, length: 0.86, stands: 0.42, width: 0.1, lift: 0.1 },
    mood: { swing: 30, elbow: 82, tilt: 7, bend: 5 },
    low: 0.04,
    sway: 0.1,
  }),
  going('dash', 'Dash', 'a short sprint to catch the rope', ['run'], {
    walk: { count: 13, pace: 0.25, length: 1.15, stands: 0.33, width: 0.08, lift: 0.16 },
    mood: { swing: 48, elbow: 92, tilt: 14, bend: 8, nod: -14 },
    low: 0.05,
    ahead: 0.08,
    sway: 0.06,
  }),
  going('run-arc', 'Run, bend to the left', 'round the corner of the customs house', ['run', 'turn'], {
    walk: { count: 15, pace: 0.33, length: 0.9, stands: 0.4, width: 0.1, way: arc(4), lift: 0.1 },
    mood: { swing: 32, elbow: 84, tilt: 8, bend: 5 },
    over: (t, _, end) => ({ side: 6 * hold(t, 0.6, 1.4, end - 1, end) }),
    low: 0.04,
    sway: 0.1,
  }),
  going('skip', 'Skip', 'a child on a feast day', ['run', 'mood'], {
    walk: {
      count: 14,
      pace: 0.37,
      length: 0.66,
      stands: 0.45,
      lift: 0.2,
      width: 0.12,
      uneven: (i) => ({ time: i % 2 === 0 ? 1.25 : 0.75 }),
    },
    mood: { swing: 44, elbow: 40, bend: -2, nod: -6 },
  }),
  going('limp-right', 'Limp, right', 'a stone in the right boot', ['walk', 'mood'], {
    walk: {
      count: 10,
      pace: 0.62,
      length: 0.46,
      uneven: (_, side) => (side === 'r' ? { time: 1.28, length: 0.8 } : { time: 0.72, length: 1.2 }),
    },
    mood: { swing: 12, tilt: 5, bend: 6 },
    over: (_, { r }) => ({ side: 7 * r.weight }),
  }),
  going('turn-left', 'Quarter turn, left', 'on the spot, four steps', ['turn'], {
    walk: { count: 4, length: 1 / 8, way: (s) => ({ x: 0, z: 0, heading: s * 360 }), first: 'l', rolls: false, lift: 0.05 },
  }),
  going('turn-right', 'Quarter turn, right', 'on the spot, four steps', ['turn'], {
    walk: { count: 4, length: 1 / 8, way: (s) => ({ x: 0, z: 0, heading: -s * 360 }), first: 'r', rolls: false, lift: 0.05 },
  }),
  going('about-turn', 'About turn', 'half a turn in five steps', ['turn'], {
    walk: { count: 6, length: 1 / 9, way: (s) => ({ x: 0, z: 0, heading: s * 360 }), first: 'l', rolls: false, lift: 0.05, pace: 0.46 },
  }),
  standing('idle', 'Stand at ease', 'shifting the weight from leg to leg', ['idle', 'cycle'], 7, {
    lean: (t) => [0.045 * Math.sin(t * 0.9), -0.006, 0.004],
    over: (t) => ({ side: 3 * Math.sin(t * 0.9), look: 10 * Math.sin(t * 0.6) }),
  }),
  standing('look-out', 'Look out to sea', 'a hand over the eyes, from left to right', ['hands', 'idle'], 6.4, {
    over: (t) => {
      const k = hold(t, 0.4, 1.2, 5.2, 6);
      return {
        r: to('r', [0.13, 1.69, 0.13], k, [0.9, -0.2, -0.1]),
        look: 40 * Math.sin(Math.max(0, t - 1) * 1.1) * k,
        turn: 14 * Math.sin(Math.max(0, t - 1) * 1.1) * k,
      };
    },
  }),
  standing('wave', 'Wave', 'the right arm high, four times', ['hands'], 4.6, {
    over: (t) => {
      const k = hold(t, 0.3, 1, 3.5, 4.3);
      return { r: to('r', [0.42 + 0.14 * wave(t, 1, 3.6, 9), 1.86, 0.16], k, [0.9, -0.5, 0.1]), side: 3 * k, nod: -6 * k };
    },
  }),
  standing('point', 'Point to the bell', 'the left arm out, then the eyes follow', ['hands'], 4.4, {
    over: (t) => ({
      l: to('l', [0.5, 1.62, 0.5], hold(t, 0.6, 1.1, 3, 3.9), [0.5, -0.8, -0.1]),
      look: 34 * hold(t, 0.4, 0.9, 3, 3.8),
      turn: 10 * hold(t, 0.4, 0.9, 3, 3.8),
    }),
  }),
  standing('clap', 'Clap', 'eight claps before the chest', ['hands', 'touch'], 4.8, {
    over: (t) => {
      const k = hold(t, 0.3, 0.9, 4, 4.6);
      const apart = 0.045 + 0.09 * (0.5 + 0.5 * Math.cos(Math.max(0, t - 0.9) * 2 * Math.PI * 2.5)) * hold(t, 0.9, 1, 4, 4.1);
      return { l: to('l', [apart, 1.25, 0.36], k, [0.9, -0.6, -0.2]), r: to('r', [apart, 1.25, 0.36], k, [0.9, -0.6, -0.2]) };
    },
  }),
  standing('shrug', 'Shrug', 'both hands out, head to the side', ['hands', 'mood'], 3.4, {
    over: (t) => {
      const k = hold(t, 0.4, 0.8, 1.7, 2.5);
      return {
        l: { down: 70 - 10 * k, forward: 20 * k, elbow: 18 + 70 * k, roll: 10 + 60 * k },
        r: { down: 70 - 10 * k, forward: 20 * k, elbow: 18 + 70 * k, roll: 10 + 60 * k },
        side: 4 * k,
        nod: 5 * k,
      };
    },
  }),
  standing('stretch', 'Yawn and stretch', 'both arms over the head, back bent', ['hands', 'mood'], 5.6, {
    over: (t) => {
      const k = hold(t, 0.5, 2, 3, 4.8);
      return {
        l: to('l', [0.24, 2.0, 0.02], k, [1, 0.2, 0.3]),
        r: to('r', [0.28, 1.94, -0.02], k, [1, 0.2, 0.3]),
        bend: -12 * k,
        nod: -14 * k,
      };
    },
  }),
  standing('bow-short', 'Bow, short', 'from the hips, hands at the sides', ['bow', 'pageant'], 3.6, {
    over: (t) => ({
      tilt: 24 * hold(t, 0.4, 1.3, 1.7, 2.8),
      bend: 24 * hold(t, 0.4, 1.3, 1.7, 2.8),
      nod: 12 * hold(t, 0.4, 1.3, 1.7, 2.8),
    }),
    lean: (t) => [0, -0.01 * hold(t, 0.4, 1.3, 1.7, 2.8), -0.09 * hold(t, 0.4, 1.3, 1.7, 2.8)],
  }),
  standing('curtsey', 'Curtsey', 'one foot behind, knees deep, skirts held', ['bow', 'pageant'], 4.2, {
    feet: (f) =>
      f
        .move('l', { x: -0.02, z: -0.24, heading: 20 }, 0.5, 1, { rolls: false, lift: 0.04 })
        .move('l', { x: 0.09, z: 0, heading: 9 }, 3, 3.5, { rolls: false, lift: 0.04 }),
    lean: (t) => [0, -0.2 * hold(t, 0.9, 1.7, 2, 3), 0],
    over: (t) => ({
      l: { down: 58, forward: 4, elbow: 26, roll: 10 },
      r: { down: 58, forward: 4, elbow: 26, roll: 10 },
      nod: 10 * hold(t, 0.9, 1.7, 2, 3),
      bend: 8 * hold(t, 0.9, 1.7, 2, 3),
    }),
  }),
  standing('squat', 'Squat', 'down on the heels and up, three times', ['knees'], 6.6, {
    width: 0.3,
    lean: (t) => [
      0,
      -0.34 * (0.5 - 0.5 * Math.cos(Math.min(3, Math.max(0, (t - 0.5) / 1.8)) * 2 * Math.PI)),
      -0.06 * (0.5 - 0.5 * Math.cos(Math.min(3, Math.max(0, (t - 0.5) / 1.8)) * 2 * Math.PI)),
    ],
    over: (t) => {
      const k = 0.5 - 0.5 * Math.cos(Math.min(3, Math.max(0, (t - 0.5) / 1.8)) * 2 * Math.PI);
      return {
        tilt: 24 * k,
        bend: 8 * k,
        nod: -16 * k,
        l: { down: 74, forward: 66 * k, elbow: 16, roll: 8 },
        r: { down: 74, forward: 66 * k, elbow: 16, roll: 8 },
      };
    },
  }),
  standing('pick-up', 'Pick up a coin', 'one hand to the floor beside the foot', ['knees', 'hands'], 4.4, {
    width: 0.26,
    lean: (t) => [0, -0.32 * hold(t, 0.4, 1.6, 2, 3.4), -0.1 * hold(t, 0.4, 1.6, 2, 3.4)],
    over: (t) => {
      const k = hold(t, 0.4, 1.6, 2, 3.4);
      return {
        tilt: 34 * k,
        bend: 34 * k,
        nod: -4 * k,
        r: to('r', [0.14, 0.14, 0.34], k),
        l: { down: 74, forward: 26 * k, elbow: 30, roll: 10 },
      };
    },
  }),
  standing('lunge', 'Parry and lunge', 'stick in the right hand, a long step and back', ['hands', 'prop', 'pageant'], 4.6, {
    width: 0.2,
    feet: (f) =>
      f
        .move('r', { x: -0.09, z: 0.72, heading: -4 }, 1, 1.4, { lift: 0.06 })
        .move('r', { x: -0.09, z: 0, heading: -9 }, 2.6, 3.2, { lift: 0.06 }),
    lean: (t) => [0, -0.16 * hold(t, 1, 1.4, 2.2, 3), 0],
    over: (t) => {
      const k = hold(t, 0.9, 1.4, 2.3, 3.1);
      return {
        tilt: 8 * k,
        turn: 22 * k,
        r: to('r', [0.2, 1.3, 0.3 + 0.36 * k], smooth(t, 0.2, 0.8) * (1 - smooth(t, 3.6, 4.3)), [0.7, -0.8, -0.2]),
        l: { down: 62, forward: -34 * k, elbow: 30, roll: 10 },
      };
    },
  }),
  standing('kick', 'Kick the bollard', 'right foot, once, and a hop of pain', ['legs', 'mood'], 4.4, {
    feet: (f) =>
      f
        .move('r', { x: -0.09, z: 0.04, heading: -9 }, 0.8, 1.7, { rolls: false, lift: 0.3 })
        .move('r', { x: -0.1, z: 0, heading: -9 }, 2.1, 2.8, { rolls: false, lift: 0.18 }),
    lean: (t) => [0.05 * hold(t, 0.5, 0.8, 2.8, 3.2), 0, -0.02],
    over: (t) => ({
      bend: 14 * hold(t, 1.8, 2.2, 3, 3.6),
      nod: 12 * hold(t, 1.8, 2.2, 3, 3.6),
      l: { down: 46, forward: 10, elbow: 40, roll: 10 },
    }),
  }),
  standing('jump', 'Jump', 'knees, arms, up and down on both feet', ['jump'], 3.2, {
    feet: (f) => f.jump(1.15, 1.65, 0, 0, 0.22),
    lean: (t) => [
      0,
      -0.17 * hold(t, 0.5, 0.95, 0.98, 1.2) + 0.24 * Math.max(0, 1 - ((t - 1.4) / 0.27) ** 2) - 0.15 * hold(t, 1.6, 1.8, 1.85, 2.5),
      0,
    ],
    over: (t) => ({
      tilt: 14 * (hold(t, 0.5, 0.95, 1, 1.3) + hold(t, 1.6, 1.8, 1.9, 2.4)),
      l: {
        down: 74 - 60 * hold(t, 0.9, 1.2, 1.5, 2),
        forward: -34 * hold(t, 0.5, 0.9, 0.92, 1.1) + 120 * hold(t, 1, 1.3, 1.4, 1.9),
        elbow: 16,
        roll: 8,
      },
      r: {
        down: 74 - 60 * hold(t, 0.9, 1.2, 1.5, 2),
        forward: -34 * hold(t, 0.5, 0.9, 0.92, 1.1) + 120 * hold(t, 1, 1.3, 1.4, 1.9),
        elbow: 16,
        roll: 8,
      },
    }),
  }),
  standing('haul-net', 'Haul a net', 'hand over hand, leaning back', ['hands', 'prop'], 6.6, {
    ahead: 0.16,
    width: 0.26,
    lean: (t) => [0, -0.08, -0.07 + 0.05 * Math.sin(t * 4)],
    over: (t) => {
      const k = hold(t, 0.3, 0.9, 5.8, 6.4);
      const a = Math.sin(t * 4);
      return {
        tilt: -2,
        bend: 8,
        turn: 8 * a,
        l: to('l', [0.08, 1.1, 0.36 + 0.16 * a], k, [0.8, -0.6, -0.3]),
        r: to('r', [0.08, 1.1, 0.36 - 0.16 * a], k, [0.8, -0.6, -0.3]),
      };
    },
  }),
  standing('scrub', 'Scrub the deck', 'bent over a long brush', ['hands', 'prop'], 6, {
    ahead: 0.14,
    width: 0.28,
    lean: (t) => [0, -0.1, -0.08 + 0.03 * Math.sin(t * 5)],
    over: (t) => {
      const k = hold(t, 0.3, 1, 5.2, 5.8);
      const a = 0.14 * Math.sin(t * 5);
      return { tilt: 22, bend: 26, nod: 6, l: to('l', [0.04, 0.92, 0.62 + a], k), r: to('r', [0.02, 1.1, 0.44 + a], k) };
    },
  }),
  standing('scull', 'Scull', 'one long oar over the stern', ['hands', 'prop', 'cycle'], 7, {
    ahead: 0.12,
    width: 0.3,
    lean: (t) => [0.07 * Math.sin(t * 2.6), -0.04, 0],
    over: (t) => {
      const a = Math.sin(t * 2.6);
      const k = hold(t, 0.2, 0.9, 6.2, 6.8);
      return {
        side: -6 * a,
        turn: 12 * a,
        l: to('l', [0.12 + 0.2 * a, 1.18, 0.46], k, [0.9, -0.5, -0.2]),
        r: to('r', [0.0 - 0.2 * a, 1.22, 0.5], k, [0.9, -0.5, -0.2]),
      };
    },
  }),
  standing('toll', 'Toll the bell', 'both hands on the rope, down and let up', ['hands', 'prop', 'touch', 'pageant'], 7.2, {
    width: 0.24,
    lean: (t) => [0, -0.12 * (0.5 - 0.5 * Math.cos(t * 2.6)) * hold(t, 0.4, 1.2, 6, 6.8), 0],
    over: (t) => {
      const k = hold(t, 0.3, 1, 6.3, 7);
      const down = 0.5 - 0.5 * Math.cos(t * 2.6);
      return {
        tilt: 12 * down * k,
        bend: 10 * down * k,
        nod: -16 * (1 - down) * k,
        l: to('l', [0.04, 1.86 - 0.7 * down, 0.3], k, [0.9, -0.2, 0.1]),
        r: to('r', [0.04, 1.76 - 0.7 * down, 0.3], k, [0.9, -0.2, 0.1]),
      };
    },
  }),
  ...BODILY,
  ...DARING,
  ...PAIR,
  CARTWHEEL,
];
