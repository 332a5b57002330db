import { Footwork, straight, type Way } from '../footwork';
import type { Performance } from '../performer';
import type { V3 } from '../vectors';
import { capture, perform } from './body';
import { carried, hold, smooth } from './moods';

/** Gangplank run: up a narrow plank at a run, with a moment in the air in each stride. 100 frames a second. */
export function gangplankRun(): Performance {
  const seconds = 4.6;
  const rise = 0.11;
  const plank: Way = (s) => ({ ...straight()(s), y: Math.max(0, s - 0.9) * rise });
  const feet = new Footwork(seconds);
  feet.walk({ from: 0.8, pace: 0.3, length: 0.92, count: 10, way: plank, width: 0.07, toeOut: 4, stands: 0.38, lift: 0.09 });
  const clean = perform({
    fps: 100,
    seconds,
    steps: feet.steps(),
    sway: 0.1,
    lean: (t) => [0, -0.045 * hold(t, 0.6, 1, 3.4, 4), 0.05 * hold(t, 0.7, 1.1, 3.3, 3.9)],
    moment: carried({ stride: 0.9, swing: 34, elbow: 78, hang: 72, yaw: 9, tilt: 9, bend: 6, nod: -10 }, (t) => ({
      bend: 3 * hold(t, 0.6, 1, 3.4, 4),
    })),
  });
  return capture(clean, {
    seed: 31,
    jitter: 0.06,
    shake: 0.0005,
    leadIn: 24,
    floor: 0,
    drift: 0,
    spikes: [{ at: 190, joint: 'radius_l', degrees: 38 }],
  });
}

/** Limp home: the left leg bears little, its steps are short and quick, the body drops over it. */
export function limpHome(): Performance {
  const seconds = 9.2;
  const feet = new Footwork(seconds);
  feet.walk({
    from: 0.9,
    pace: 0.62,
    length: 0.44,
    count: 11,
    way: straight(),
    stands: 0.63,
    width: 0.17,
    uneven: (_, side) => (side === 'l' ? { time: 1.28, length: 0.8 } : { time: 0.72, length: 1.2 }),
  });
  const clean = perform({
    fps: 120,
    seconds,
    steps: feet.steps(),
    sway: 0.3,
    moment: carried({ stride: 0.45, swing: 12, elbow: 24, yaw: 4, tilt: 6, bend: 8, nod: 4 }, (t, { l }) => ({
      side: -7 * l.weight * hold(t, 0.8, 1.4, 7.4, 8.4),
      r: { down: 70, forward: 18, elbow: 70, roll: 10 },
    })),
  });
  return capture(clean, { seed: 37, jitter: 0.06, shake: 0.0005, leadIn: 18, floor: -0.02, drift: 1.5, dropout: { at: 610, frames: 5 } });
}

/** Side shuffle: five steps to the left and back again along the quay's edge, the feet never crossing. */
export function sideShuffle(): Performance {
  const seconds = 8;
  const feet = new Footwork(seconds, { toeOut: 4, width: 0.2 });
  let t = 0.9;
  const place = (side: 'l' | 'r', x: number) => ({ x: x + (side === 'l' ? 0.1 : -0.1), z: 0, heading: side === 'l' ? 4 : -4 });
  for (const way of [1, -1]) {
    const [leads, follows] = way > 0 ? (['l', 'r'] as const) : (['r', 'l'] as const);
    for (let i = 1; i <= 5; i++) {
      const x = way > 0 ? i * 0.32 : (5 - i) * 0.32;
      feet.move(leads, place(leads, x), t, t + 0.3, { rolls: false, lift: 0.04 });
      feet.move(follows, place(follows, x), t + 0.32, t + 0.6, { rolls: false, lift: 0.035 });
      t += 0.64;
    }
    t += 0.1;
  }
  const clean = perform({
    fps: 60,
    seconds,
    steps: feet.steps(),
    sway: 0.3,
    lean: (at) => [0, -0.05 * hold(at, 0.5, 1, 7, 7.6), 0],
    moment: carried({ swing: 4, hang: 58, elbow: 42, tilt: 8, bend: 6, roll: 20 }, (at) => ({
      look: 30 * hold(at, 0.6, 1.2, 3.7, 4.3) - 30 * hold(at, 4.3, 4.8, 7, 7.6),
    })),
  });
  return capture(clean, { seed: 41, jitter: 0.07, shake: 0.0004, leadIn: 12, floor: 0.02, drift: 0 });
}

/** Turn on the spot: a whole turn to the left in eight steps. */
export function turnOnTheSpot(): Performance {
  const seconds = 6.6;
  const spot: Way = (s) => ({ x: 0, z: 0, heading: s * 360 });
  const feet = new Footwork(seconds);
  feet.walk({ from: 0.9, pace: 0.5, length: 1 / 8, count: 10, way: spot, first: 'l', rolls: false, lift: 0.05 });
  const clean = perform({
    fps: 60,
    seconds,
    steps: feet.steps(),
    sway: 0.28,
    moment: carried({ swing: 6, hang: 74 }, (t) => ({ look: 24 * hold(t, 0.5, 1, 5, 5.8) })),
  });
  return capture(clean, { seed: 43, jitter: 0.06, shake: 0.0004, leadIn: 14, floor: 0, drift: 4 });
}

/** Coil step-over: up to a coil of rope, over it with one long stand on each leg, and on. */
export function coilStepOver(): Performance {
  const seconds = 9;
  const way = straight();
  const feet = new Footwork(seconds);
  feet.walk({ from: 0.9, pace: 0.58, length: 0.58, count: 4, way });
  const z = 0.58 * 2.5;
  feet.move('r', { x: -0.08, z: z + 0.62, heading: -7 }, 3.7, 5.0, { lift: 0.34 });
  feet.move('l', { x: 0.08, z: z + 0.66, heading: 7 }, 5.5, 6.7, { lift: 0.36 });
  feet.move('r', { x: -0.08, z: z + 1.1, heading: -7 }, 7.0, 7.6);
  feet.move('l', { x: 0.08, z: z + 1.1, heading: 7 }, 7.5, 8.1);
  const clean = perform({
    fps: 120,
    seconds,
    steps: feet.steps(),
    sway: 0.36,
    moment: carried({ stride: 0.6, swing: 14 }, (t) => {
      const over = hold(t, 3.4, 4, 6.6, 7.2);
      return {
        bend: 12 * over,
        nod: 16 * over,
        l: { down: 76 - 34 * over, forward: 10, elbow: 24, roll: 10 },
        r: { down: 76 - 30 * over, forward: 6, elbow: 24, roll: 10 },
      };
    }),
  });
  return capture(clean, { seed: 47, jitter: 0.05, shake: 0.0004, leadIn: 20, floor: 0, drift: 0, dropout: { at: 520, frames: 4 } });
}

/** Both wrists on a thing of a width: its middle in the world. */
const both = (middle: V3, half: number, elbow = 0.5): { l: { wrist: V3; elbow: V3 }; r: { wrist: V3; elbow: V3 } } => ({
  l: { wrist: [middle[0] + half, middle[1], middle[2]], elbow: [elbow, -0.6, -0.5] },
  r: { wrist: [middle[0] - half, middle[1], middle[2]], elbow: [-elbow, -0.6, -0.5] },
});

/** Crate lift: deep into the knees, both hands on one crate, up to the chest and down again. */
export function crateLift(): Performance {
  const seconds = 9;
  const feet = new Footwork(seconds, { width: 0.34, toeOut: 14 });
  const clean = perform({
    fps: 60,
    seconds,
    steps: feet.steps(),
    sway: 0.1,
    lean: (t) => {
      const down = hold(t, 0.9, 2.5, 2.9, 4.4) + hold(t, 5.4, 6.9, 7.2, 8.4);
      return [0, -0.36 * down, -0.13 * down];
    },
    moment: carried({ tilt: 4 }, (t) => {
      const down = hold(t, 0.9, 2.5, 2.9, 4.4) + hold(t, 5.4, 6.9, 7.2, 8.4);
      const hands = smooth(t, 0.8, 2.3) * (1 - smooth(t, 7.6, 8.7));
      // The crate: on the floor, up to the chest, down again.
      const up = smooth(t, 2.9, 4.6) * (1 - smooth(t, 5.2, 7));
      const crate: V3 = [0, 0.34 + 0.72 * up, 0.43 - 0.08 * up];
      const hanging: V3 = [0, 0.8, 0.05];
      const at: V3 = [0, hanging[1] + (crate[1] - hanging[1]) * hands, hanging[2] + (crate[2] - hanging[2]) * hands];
      return { tilt: 26 * down, bend: 22 * down, nod: -10 * down + 10 * hands, ...both(at, 0.36 - 0.14 * hands) };
    }),
  });
  return capture(clean, {
    seed: 53,
    jitter: 0.06,
    shake: 0.0004,
    leadIn: 12,
    floor: 0,
    drift: 0,
    spikes: [{ at: 300, joint: 'tibia_r', degrees: 30 }],
  });
}

/** Rope haul: feet braced one before the other, both hands together on the rope, the weight thrown back three times. */
export function ropeHaul(): Performance {
  const seconds = 9.4;
  const feet = new Footwork(seconds, { width: 0.26, toeOut: 22, ahead: 0.17 });
  const pull = (t: number): number => [1.8, 4.1, 6.4].reduce((sum, at) => sum + hold(t, at, at + 0.9, at + 1.2, at + 2.1), 0);
  const clean = perform({
    fps: 60,
    seconds,
    steps: feet.steps(),
    sway: 0.12,
    // Back over the hind foot while it pulls, the fore leg nearly straight.
    lean: (t) => [0, -0.03 - 0.05 * pull(t), -0.03 - 0.15 * pull(t)],
    moment: carried({ tilt: 4 }, (t) => {
      const grip = smooth(t, 0.7, 1.6) * (1 - smooth(t, 8.6, 9.2));
      const rope: V3 = [0.02, 1.12 - 0.08 * pull(t), 0.52 - 0.34 * pull(t)];
      const at: V3 = [rope[0] * grip, 0.86 + (rope[1] - 0.86) * grip, 0.12 + (rope[2] - 0.12) * grip];
      const hands = both(at, 0.3 - 0.255 * grip, 0.8);
      return {
        tilt: 12 - 22 * pull(t),
        bend: 10 - 8 * pull(t),
        turn: 14 * grip,
        l: hands.l,
        r: { ...hands.r, wrist: [hands.r.wrist[0], hands.r.wrist[1], hands.r.wrist[2] - 0.08 * grip] },
      };
    }),
  });
  return capture(clean, { seed: 59, jitter: 0.06, shake: 0.0005, leadIn: 15, floor: 0.02, drift: 0 });
}

/** Lantern reach: the right arm at full stretch, up to a hook, on the balls of the feet, twice. */
export function lanternReach(): Performance {
  const seconds = 7.6;
  const feet = new Footwork(seconds, { width: 0.16 });
  const up = (t: number): number => hold(t, 0.9, 2.2, 2.9, 3.9) + 0.9 * hold(t, 4.3, 5.4, 6, 7);
  const clean = perform({
    fps: 60,
    seconds,
    steps: feet.steps(),
    sway: 0.1,
    lean: (t) => [-0.03 * up(t), 0, 0.02 * up(t)],
    moment: carried({ swing: 0 }, (t) => {
      const k = up(t);
      const hook: V3 = [-0.28 - 0.12 * smooth(t, 3.9, 4.6), 2.02, 0.3];
      const hanging: V3 = [-0.26, 0.84, 0.08];
      return {
        side: -9 * k,
        nod: -26 * k,
        look: -14 * k,
        r: {
          wrist: [
            hanging[0] + (hook[0] - hanging[0]) * k,
            hanging[1] + (hook[1] - hanging[1]) * k,
            hanging[2] + (hook[2] - hanging[2]) * k,
          ],
          elbow: [-0.7, -0.4, -0.3],
        },
        l: { down: 70 - 10 * k, forward: -8 * k, elbow: 20, roll: 8 },
      };
    }),
  });
  return capture(clean, { seed: 61, jitter: 0.05, shake: 0.0004, leadIn: 12, floor: 0, drift: 0, dropout: { at: 170, frames: 4 } });
}

/** Bell-ringer's climb: up a ladder of eight rungs, hands and feet off the floor, one of each at a time. */
export function bellRingersClimb(): Performance {
  const seconds = 10.4;
  const rung = 0.28;
  const feet = new Footwork(seconds, { width: 0.2, toeOut: 3 });
  const LADDER = 0.34;
  let t = 1;
  const time = 0.86;
  for (let i = 1; i <= 9; i++) {
    const side = i % 2 === 1 ? 'r' : 'l';
    const height = (side === 'r' && i === 9 ? 8 : i) * rung;
    feet.move(side, { x: side === 'l' ? 0.1 : -0.1, z: LADDER - 0.137, y: height, heading: 0 }, t, t + 0.62, { rolls: false, lift: 0.05 });
    t += time;
  }
  /** Rung of a hand, counted from the floor: it goes up by two while the foot of the other side does. */
  const hand = (side: 'l' | 'r', at: number): number => {
    const first = side === 'l' ? 1 : 1 + time;
    let n = side === 'l' ? 4.6 : 4.1;
    for (let k = 0; k < 4; k++) n += 2 * smooth(at, first + k * 2 * time, first + k * 2 * time + 0.7);
    return n;
  };
  const clean = perform({
    fps: 60,
    seconds,
    steps: feet.steps(),
    sway: 0.12,
    lean: (at) => [0, -0.1 * smooth(at, 0.6, 1.4), -0.2 * smooth(at, 0.4, 1.3)],
    moment: carried({ swing: 0, yaw: 2 }, (at) => {
      const grip = smooth(at, 0.2, 0.9);
      const wrist = (side: 'l' | 'r'): { wrist: V3; elbow: V3 } => {
        const s = side === 'l' ? 1 : -1;
        const height = hand(side, at) * rung;
        return { wrist: [s * 0.22, 0.85 + (height - 0.85) * grip, 0.1 + (LADDER - 0.1) * grip], elbow: [s * 0.8, -0.7, -0.2] };
      };
      return { tilt: 8, nod: -22 * grip, l: wrist('l'), r: wrist('r') };
    }),
  });
  return capture(clean, { seed: 67, jitter: 0.06, shake: 0.0005, leadIn: 12, floor: 0, drift: 0 });
}
