import { hold, smooth } from '../takes/moods';
import { farther, going, standing, to, stairs, type Motion } from './making';
import type { Way } from '../footwork';
import type { V3 } from '../vectors';

/** Down as many steps as one likes. */
const down: Way = (s) => ({ x: 0, z: s, heading: 0, y: -Math.max(0, Math.round((s - 0.2) / 0.3)) * 0.16 });

/** What falls rises so far in half the time between leaving the floor and landing, metres. */
const riseOf = (seconds: number): number => (9.81 * (seconds / 2) ** 2) / 2;

/** A hand that rests on the hip: the wrist beside it, the elbow out, the fingers ahead and down along the belt. */
const AT_HIP: V3 = [0.2, 1.02, -0.02];
const ELBOW_OUT: V3 = [1, 0, -0.35];
const FINGERS: V3 = [-0.1, -0.45, 0.9];

/** Motions that leave the floor, go over steps, cross limbs, or lay hands on the own body. */
export const DARING: readonly Motion[] = [
  standing('hands-on-hips', 'Hands on the hips', 'waiting for the ferry, elbows out', ['hands', 'touch', 'idle'], 5.6, {
    over: (t) => {
      const k = hold(t, 0.4, 1.2, 4.4, 5.2);
      return {
        l: to('l', AT_HIP, k, ELBOW_OUT, FINGERS),
        r: to('r', AT_HIP, k, ELBOW_OUT, FINGERS),
        look: 14 * Math.sin(t * 1.2) * k,
        side: 3 * Math.sin(t * 0.9) * k,
      };
    },
  }),
  standing('arms-folded', 'Arms folded', 'one fore arm over the other, not amused', ['hands', 'touch', 'mood'], 5.4, {
    over: (t) => {
      const k = hold(t, 0.4, 1.4, 4, 5);
      return {
        l: to('l', [-0.1, 1.2, 0.24], k, [0.9, -0.7, 0.2]),
        r: to('r', [-0.08, 1.14, 0.3], k, [0.9, -0.7, 0.2]),
        bend: 4 * k,
        nod: 4 * k,
      };
    },
  }),
  standing('ankles-crossed', 'Ankles crossed', 'leaning on a bollard, one boot before the other', ['legs', 'idle'], 5.2, {
    feet: (f) =>
      f
        .move('r', { x: 0.17, z: 0.13, heading: 4 }, 0.6, 1.3, { rolls: false, lift: 0.07 })
        .move('r', { x: -0.09, z: 0, heading: -9 }, 3.9, 4.6, { rolls: false, lift: 0.07 }),
    lean: (t) => [0.05 * hold(t, 0.3, 0.8, 4.2, 4.8), -0.015 * hold(t, 0.5, 1.2, 4, 4.8), 0],
    over: (t) => ({ side: -6 * hold(t, 0.6, 1.4, 3.8, 4.6), look: 12 * Math.sin(t) }),
  }),
  standing('kneel', 'Kneel', 'down on both knees before the bell, and up', ['knees', 'floor', 'pageant'], 8.2, {
    width: 0.2,
    feet: (f) =>
      f
        .move('r', { x: -0.1, z: -0.44, heading: -4 }, 0.5, 1.2, { rolls: false, lift: 0.06, tip: -20 })
        .move('l', { x: 0.1, z: -0.44, heading: 4 }, 2.3, 3, { rolls: false, lift: 0.04, tip: -20 })
        .move('l', { x: 0.1, z: 0, heading: 9 }, 5, 5.7, { rolls: false, lift: 0.06 })
        .move('r', { x: -0.1, z: 0, heading: -9 }, 6.9, 7.6, { rolls: false, lift: 0.06 }),
    lean: (t) => {
      const one = hold(t, 0.9, 2.2, 5.6, 7);
      const both = hold(t, 2.2, 3, 4.9, 5.7);
      return [0, -0.463 * one, 0.05 * one + 0.16 * both];
    },
    over: (t) => {
      const k = hold(t, 2.4, 3.2, 4.6, 5.4);
      return { bend: 12 * k, nod: 18 * k, l: to('l', [0.06, 1.0, 0.42], k), r: to('r', [0.06, 1.0, 0.42], k) };
    },
  }),
  farther(
    standing('leap', 'Leap the gap', 'from the quay to the boat, both feet together', ['jump'], 3.4, {
      feet: (f) => f.jump(1.2, 1.72, 0, 0.8, 0.1),
      lean: (t) => {
        const air = riseOf(0.52);
        const flight = Math.max(0, 1 - ((t - 1.46) / 0.26) ** 2);
        return [
          0,
          -0.13 * hold(t, 0.5, 1, 1.02, 1.26) + air * flight - 0.15 * hold(t, 1.56, 1.88, 1.94, 2.7),
          -0.06 * hold(t, 1.7, 1.9, 2, 2.6),
        ];
      },
      over: (t) => {
        const swing = -40 * hold(t, 0.5, 0.95, 0.98, 1.16) + 96 * hold(t, 1.02, 1.34, 1.5, 2.1);
        const arm = { down: 72 - 30 * hold(t, 1, 1.3, 1.6, 2.2), forward: swing, elbow: 18, roll: 8 };
        return { tilt: 20 * (hold(t, 0.5, 0.95, 1, 1.26) + hold(t, 1.66, 1.86, 1.95, 2.6)), l: arm, r: arm };
      },
    }),
  ),
  standing('hops', 'Hop for warmth', 'three hops on both feet, arms about the body', ['jump', 'hands'], 4, {
    feet: (f) => f.jump(0.9, 1.2, 0, 0, 0.1).jump(1.6, 1.9, 0, 0, 0.1).jump(2.3, 2.6, 0, 0, 0.1),
    lean: (t) => {
      let up = 0;
      for (const at of [1.05, 1.75, 2.45]) {
        up += riseOf(0.3) * Math.max(0, 1 - ((t - at) / 0.15) ** 2);
        up -= 0.06 * (hold(t, at - 0.35, at - 0.2, at - 0.18, at - 0.1) + hold(t, at + 0.12, at + 0.2, at + 0.22, at + 0.34));
      }
      return [0, up, 0];
    },
    over: (t) => {
      const k = hold(t, 0.2, 0.8, 3, 3.7);
      return { l: to('l', [0.06, 1.18, 0.3], k, [0.9, -0.7, 0.1]), r: to('r', [0.06, 1.12, 0.34], k, [0.9, -0.7, 0.1]), nod: 6 * k };
    },
  }),
  going('steps-run', 'Run up the steps', 'two at a time, late for the bell', ['run', 'climb'], {
    walk: { count: 9, pace: 0.4, length: 0.6, way: stairs, stands: 0.5, rolls: false, lift: 0.11, width: 0.12 },
    mood: { swing: 30, elbow: 70, tilt: 12, bend: 8, nod: -8 },
    low: 0.04,
  }),
  going('steps-down', 'Down the steps', 'seven steps to the water, watching the feet', ['walk', 'climb'], {
    walk: { count: 9, pace: 0.64, length: 0.3, way: down, rolls: false, lift: 0.05 },
    mood: { swing: 12, tilt: 2, bend: 4, nod: 14 },
    low: 0.04,
  }),
  standing('jig', 'A jig on the quay', 'quick feet, crossing before and behind', ['legs', 'pageant'], 5.4, {
    feet: (f) => {
      const at = (side: 'l' | 'r', x: number, z: number, t: number): void => {
        f.move(side, { x, z, heading: side === 'l' ? 9 : -9 }, t, t + 0.3, { rolls: false, lift: 0.1 });
      };
      at('r', 0.12, 0.18, 0.8);
      at('r', -0.12, 0, 1.3);
      at('l', -0.12, 0.18, 1.8);
      at('l', 0.12, 0, 2.3);
      at('r', 0.11, -0.19, 2.8);
      at('r', -0.12, 0, 3.3);
      at('l', -0.11, -0.19, 3.8);
      at('l', 0.09, 0, 4.3);
    },
    lean: (t) => [0, -0.03 * hold(t, 0.4, 0.8, 4.4, 4.9) + 0.012 * Math.sin(t * 4 * Math.PI) * hold(t, 0.6, 0.9, 4.2, 4.6), 0],
    over: (t) => {
      const k = smooth(t, 0.3, 0.8) * (1 - smooth(t, 4.6, 5.2));
      const arm = { down: 74 - 26 * k, forward: 6 * k, elbow: 18 + 50 * k, roll: 10 + 20 * k };
      return { l: arm, r: arm, nod: -4 * k };
    },
  }),
];
