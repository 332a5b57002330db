import { hold, smooth, type Over } from '../takes/moods';
import type { V3 } from '../vectors';
import { farther, standing, to, type Motion, type Thing } from './making';

/** Hand over knee: when each limb on all fours goes ahead, from when on, and how far in the end. */
const CRAWL = { from: 4.2, each: 0.75, moves: 6, length: 0.3 } as const;

/** How far ahead a hand has gone on all fours, metres, and how high it is lifted. */
function crawls(side: 'l' | 'r', t: number): { readonly z: number; readonly y: number } {
  const { from, each, moves, length } = CRAWL;
  let [z, y] = [0, 0];
  for (let i = side === 'r' ? 0 : 1; i < moves; i += 2) {
    const at = from + i * each;
    z += (i === 0 || i === moves - 1 ? length / 2 : length) * smooth(t, at, at + 0.6);
    y += 0.07 * hold(t, at, at + 0.3, at + 0.3, at + 0.6);
  }
  return { z, y };
}

/** A crate from a pallet to the chest, and down again a little to the left. */
const CRATE: Thing = {
  name: 'crate',
  at: (t) => {
    const up = smooth(t, 2.7, 4.2) * (1 - smooth(t, 5.6, 7.2));
    return { place: [0.1 * smooth(t, 4, 5.6), 0.43 + 0.65 * up, 0.42 - 0.05 * up], turn: 12 * smooth(t, 4, 5.6) };
  },
};
/** From the middle of the crate to either side, where the palms lie. */
const HALF = 0.2;

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
        // Arms ahead, for balance.
        l: { down: 74, forward: 40 * k + 70 * reach, elbow: 16 + 30 * k, roll: 8 },
        r: { down: 74, forward: 40 * k + 70 * reach, elbow: 16 + 30 * k, roll: 8 },
      };
    },
  }),
  standing('sit-crossed', 'Splice a rope', 'cross-legged on the planks, hands at work, and up again', ['knees', 'legs', 'floor'], 9.4, {
    width: 0.2,
    feet: (f) =>
      f
        .move('r', { x: 0.11, z: 0.26, heading: 16 }, 0.4, 1.1, { rolls: false, lift: 0.06 })
        .move('l', { x: -0.11, z: 0.06, heading: -16 }, 1.2, 1.8, { rolls: false, lift: 0.05 })
        .move('l', { x: 0.1, z: 0.1, heading: 9 }, 7.7, 8.3, { rolls: false, lift: 0.05 })
        .move('r', { x: -0.1, z: 0.1, heading: -9 }, 8.4, 9, { rolls: false, lift: 0.06 }),
    lean: (t) => {
      const k = hold(t, 1.6, 3.4, 5.8, 7.6);
      return [0, -0.81 * k, -0.3 * k];
    },
    over: (t) => {
      const k = hold(t, 1.6, 3.4, 5.8, 7.6);
      const reach = hold(t, 1.6, 2.4, 2.6, 3.3) + hold(t, 5.9, 6.6, 6.9, 7.6);
      const work = 12 * Math.sin(t * 3.3) * hold(t, 3.2, 3.8, 5.2, 5.8);
      return {
        tilt: -10 * k + 46 * reach,
        bend: 22 * k + 12 * reach,
        nod: 10 * k - 10 * reach,
        splay: 62 * k,
        l: { down: 74, forward: 30 * k + 36 * reach, elbow: 20 + 80 * k - 40 * k * reach + work, roll: 8 },
        r: { down: 74, forward: 30 * k + 36 * reach, elbow: 20 + 80 * k - 40 * k * reach - work, roll: 8 },
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
  farther(
    standing('crawl', 'Crawl under the nets', 'down on hands and knees, and three paces so', ['knees', 'hands', 'floor'], 9.6, {
      width: 0.22,
      feet: (f) => {
        f.move('r', { x: -0.11, z: -0.44, heading: -3 }, 0.5, 1.2, { rolls: false, lift: 0.06, tip: -20 });
        f.move('l', { x: 0.11, z: -0.44, heading: 3 }, 2.1, 2.8, { rolls: false, lift: 0.04, tip: -20 });
        const { from, each, moves, length } = CRAWL;
        let z = { l: -0.44, r: -0.44 };
        for (let i = 0; i < moves; i++) {
          // The knee goes with the other side's hand.
          const side = i % 2 === 0 ? 'l' : 'r';
          z = { ...z, [side]: z[side] + (i === 0 || i === moves - 1 ? length / 2 : length) };
          f.move(
            side,
            { x: side === 'l' ? 0.11 : -0.11, z: z[side], heading: side === 'l' ? 3 : -3 },
            from + i * each,
            from + i * each + 0.6,
            {
              rolls: false,
              lift: 0.03,
              tip: -20,
            },
          );
        }
      },
      lean: (t) => {
        const one = smooth(t, 0.9, 2.2);
        const both = smooth(t, 2.1, 2.9);
        const down = smooth(t, 2.8, 3.8);
        return [0, -0.463 * one + 0.012 * down, 0.05 * one + 0.16 * both + 0.2 * down];
      },
      over: (t) => {
        const down = smooth(t, 2.8, 3.8);
        const hand = (side: 'l' | 'r'): Over['l'] => {
          const { z, y } = crawls(side, t);
          return to(side, [0.18, 0.06 + y, 0.5 + z], down, [0.9, 0.2, -0.4], [0, -0.1, 1]);
        };
        return { tilt: 74 * down, bend: 8 * down, nod: -34 * down, l: hand('l'), r: hand('r') };
      },
    }),
  ),
  {
    ...standing('stack-crate', 'Stack a crate', 'deep in the knees, up to the chest, and down beside', ['knees', 'hands', 'prop'], 8.6, {
      width: 0.34,
      lean: (t) => {
        const down = hold(t, 0.8, 2.3, 2.7, 4.2) + hold(t, 5.6, 7.1, 7.3, 8.3);
        return [0.03 * smooth(t, 4, 5.4), -0.37 * down, -0.13 * down];
      },
      over: (t) => {
        const down = hold(t, 0.8, 2.3, 2.7, 4.2) + hold(t, 5.6, 7.1, 7.3, 8.3);
        const hands = smooth(t, 0.8, 2.2) * (1 - smooth(t, 7.5, 8.4));
        const { place, turn } = CRATE.at(t);
        const palm = (side: 'l' | 'r'): Over['l'] => {
          const s = side === 'l' ? 1 : -1;
          const a = (turn * Math.PI) / 180;
          // The wrist a little behind the side's middle, and out of it, so that the palm lies on it.
          const [x, z] = [s * (HALF + 0.02), -0.09];
          const wrist: V3 = [place[0] + x * Math.cos(a) + z * Math.sin(a), place[1], place[2] - x * Math.sin(a) + z * Math.cos(a)];
          return to(side, [s * wrist[0], wrist[1], wrist[2]], hands, [0.6, -0.6, -0.5], [s * Math.sin(a), 0, Math.cos(a)]);
        };
        return { tilt: 26 * down, bend: 22 * down, nod: -10 * down + 10 * hands, l: palm('l'), r: palm('r') };
      },
    }),
    thing: CRATE,
  },
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
