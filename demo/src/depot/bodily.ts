import { hold } from '../takes/moods';
import { standing, to, type Motion } from './making';

/** Motions in which more than feet and hands meets something: knees, seat and back the floor, hands the own body. */
export const BODILY: readonly Motion[] = [
  standing('mend-net', 'Mend a net', 'down on one knee, hands at work before it', ['knees', 'hands', 'floor'], 8, {
    width: 0.2,
    feet: (f) =>
      f
        .move('r', { x: -0.1, z: -0.44, heading: -4 }, 0.5, 1.2, { rolls: false, lift: 0.06, tip: -20 })
        .move('r', { x: -0.1, z: 0, heading: -9 }, 6.4, 7.2, { rolls: false, lift: 0.06 }),
    lean: (t) => {
      const k = hold(t, 0.9, 2.2, 5.6, 6.8);
      return [0, -0.463 * k, 0.05 * k];
    },
    over: (t) => {
      const k = hold(t, 1.2, 2.4, 5.4, 6.6);
      const a = Math.sin(t * 3);
      return {
        bend: 22 * k,
        nod: 12 * k,
        l: to('l', [0.1 + 0.09 * a, 0.68 + 0.05 * a, 0.42], k, [0.8, -0.6, -0.3]),
        r: to('r', [0.09 - 0.08 * a, 0.64, 0.4], k, [0.8, -0.6, -0.3]),
      };
    },
  }),
  standing('sit-down', 'Sit on the planks', 'down on the seat, knees up, and to the feet again', ['knees', 'floor'], 8.4, {
    width: 0.3,
    ahead: 0,
    lean: (t) => {
      const k = hold(t, 0.6, 2.4, 5.4, 7.4);
      return [0, -0.812 * k, -0.34 * k];
    },
    over: (t) => {
      const k = hold(t, 0.6, 2.4, 5.4, 7.4);
      const reach = hold(t, 0.6, 1.4, 1.6, 2.3) + hold(t, 5.6, 6.2, 6.6, 7.4);
      return {
        tilt: -14 * k + 44 * reach,
        bend: 26 * k + 14 * reach,
        nod: -6 * k,
        l: { down: 74, forward: 40 * k + 30 * reach, elbow: 16 + 30 * k, roll: 8 },
        r: { down: 74, forward: 40 * k + 30 * reach, elbow: 16 + 30 * k, roll: 8 },
      };
    },
  }),
  standing('lie-down', 'Asleep on the planks', 'from the seat onto the back, knees up', ['floor', 'mood'], 9, {
    width: 0.3,
    lean: (t) => {
      const k = hold(t, 0.4, 2.2, 7.6, 8.8);
      const back = hold(t, 2.2, 4, 6, 7.6);
      return [0, -0.812 * k, -0.36 * k - 0.06 * back];
    },
    over: (t) => {
      const k = hold(t, 0.4, 2.2, 7.6, 8.8);
      const back = hold(t, 2.2, 4, 6, 7.6);
      const reach = hold(t, 0.4, 1.2, 1.4, 2.1) + hold(t, 7.7, 8.1, 8.3, 8.9);
      return {
        tilt: -14 * k - 74 * back + 40 * reach,
        bend: 24 * k * (1 - back) + 12 * reach,
        nod: -6 * k * (1 - back),
        l: { down: 70, forward: 34 * k + 20 * reach, elbow: 16 + 70 * k, roll: 8 },
        r: { down: 66, forward: 26 * k + 26 * reach, elbow: 18 + 62 * k, roll: 12 },
      };
    },
  }),
  standing('catch-breath', 'Catch breath', 'bent over, both hands on the thighs', ['hands', 'touch', 'mood'], 6, {
    width: 0.26,
    lean: (t) => [0, -0.1 * hold(t, 0.4, 1.6, 4.2, 5.4), -0.06 * hold(t, 0.4, 1.6, 4.2, 5.4)],
    over: (t) => {
      const k = hold(t, 0.4, 1.6, 4.2, 5.4);
      const heave = 1.6 * Math.sin(t * 7) * k;
      return {
        tilt: 30 * k,
        bend: 16 * k + heave,
        nod: -8 * k,
        l: to('l', [0.145, 0.66, 0.2], k, [0.9, -0.1, -0.5]),
        r: to('r', [0.145, 0.66, 0.2], k, [0.9, -0.1, -0.5]),
      };
    },
  }),
  standing('hold-cap', 'Hold the cap on', 'one hand on the head in the wind, leaning into it', ['hands', 'touch', 'mood'], 5.6, {
    width: 0.22,
    lean: (t) => [0, 0, 0.03 * hold(t, 0.4, 1.2, 4.2, 5)],
    over: (t) => {
      const k = hold(t, 0.4, 1.4, 4, 5.2);
      return {
        bend: 9 * k + 2 * Math.sin(t * 5) * k,
        side: 3 * Math.sin(t * 2.2) * k,
        r: to('r', [0.11, 1.69, 0.1], k, [1, 0.1, -0.2]),
        l: { down: 66, forward: 12 + 6 * Math.sin(t * 4), elbow: 30, roll: 10 },
      };
    },
  }),
];
