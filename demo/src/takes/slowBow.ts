import type { Step } from '../gait';
import type { Performance } from '../performer';
import { capture, ease, perform } from './body';

/** Slow bow: feet still, spine far over, one arm across the belly and one swept back. 50 frames a second; floor 2 cm off. */
export function slowBow(): Performance {
  const seconds = 9;
  const stand = (side: 'l' | 'r', x: number, heading: number): Step => ({
    side,
    x,
    z: 0,
    heading,
    strike: 0,
    off: seconds,
    rollIn: false,
    rollOut: false,
  });
  const clean = perform({
    fps: 50,
    seconds,
    steps: [stand('l', 0.11, 11), stand('r', -0.11, -11)],
    sway: 0.2,
    lean: (t) => {
      const bow = ease(t, 1.6, 4.2) * (1 - ease(t, 5.6, 8));
      return [0.006 * Math.sin(t * 1.3), -0.035 * bow + 0.0015 * Math.sin(t * 2.1), -0.13 * bow + 0.004 * Math.sin(t * 0.9)];
    },
    moment: (t) => {
      const bow = ease(t, 1.6, 4.2) * (1 - ease(t, 5.6, 8));
      const arms = ease(t, 0.9, 3.2) * (1 - ease(t, 6.2, 8.4));
      const breath = Math.sin(t * 1.7);
      return {
        pelvisYaw: 0,
        pelvisList: 0.8 * Math.sin(t * 1.3),
        pelvisTilt: 2 + 30 * bow,
        spine: { bend: 1 + 46 * bow + 0.4 * breath, side: 0, turn: 3 * bow },
        head: { nod: 18 * bow - 2, turn: 2 * Math.sin(t * 0.8) },
        arms: {
          l: { down: 78 - 22 * arms, forward: 2 - 38 * arms, elbow: 14 + 8 * arms, roll: 8 },
          r: { down: 78 - 8 * arms, forward: 3 + 26 * arms, elbow: 14 + 84 * arms, roll: 8 + 20 * arms },
        },
      };
    },
  });
  return capture(clean, { seed: 23, jitter: 0.06, shake: 0.0004, leadIn: 15, floor: 0.02, drift: 0 });
}
