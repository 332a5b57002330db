import { Footwork } from '../footwork';
import type { Performance } from '../performer';
import type { V3 } from '../vectors';
import { capture, perform } from './body';
import { carried, hold, smooth } from './moods';

/** When what happens in the Town crier's call, seconds of the performance: for the body, the face and the voice alike. */
export const CRIER = {
  seconds: 9.7,
  /** Frames of rest that the body's recorder has in front. */
  leadIn: 0.2,
  /** Hands meet, for the recorders to be brought together by. */
  clap: 1,
  calls: [3.1, 5, 6.9],
  /** Degrees to the left. */
  look: (t: number): number => 34 * hold(t, 2.7, 3.2, 4.4, 5) - 34 * hold(t, 4.7, 5.2, 6.3, 6.9),
} as const;
const FPS = 50;

/** Town crier's call: a clap, hands to the mouth, a call to the left, to the right and ahead; the face was recorded apart. */
export function townCriersCall(): Performance {
  const feet = new Footwork(CRIER.seconds, { width: 0.18, toeOut: 10 });
  feet.move('l', { x: 0.12, z: 0.22, heading: 12 }, 2.1, 2.6);
  const call = (t: number): number => CRIER.calls.reduce((sum, at) => sum + hold(t, at, at + 0.4, at + 1.1, at + 1.7), 0);
  const clean = perform({
    fps: FPS,
    seconds: CRIER.seconds,
    steps: feet.steps(),
    sway: 0.2,
    moment: carried({ swing: 0 }, (t) => {
      const look = CRIER.look(t);
      const up = smooth(t, 2.5, 3.2) * (1 - smooth(t, 8.5, 9.3));
      const ready = hold(t, 0.2, 0.75, 1.2, 1.9);
      // Apart, together in an eighth of a second, and apart at once.
      const together = hold(t, CRIER.clap - 0.13, CRIER.clap, CRIER.clap + 0.02, CRIER.clap + 0.3);
      const a = (look * 0.9 * Math.PI) / 180;
      const mouth: V3 = [0.15 * Math.sin(a), 1.6, 0.16 + 0.12 * Math.cos(a)];
      const wrist = (s: number): V3 => {
        const hanging: V3 = [s * 0.27, 0.85, 0.1];
        const clapping: V3 = [s * (0.21 - 0.165 * together), 1.25, 0.36];
        const low = hanging.map((x, c) => x + (clapping[c] - x) * ready);
        const there: V3 = [mouth[0] + s * 0.1 * Math.cos(a), mouth[1], mouth[2] - s * 0.1 * Math.sin(a)];
        // Out ahead on the way, as a hand does not pass through the shoulder.
        const ahead = 1.5 * up * (1 - up);
        return [0, 1, 2].map((c) => low[c] + (there[c] - low[c]) * up + (c === 2 ? ahead : 0)) as unknown as V3;
      };
      return {
        bend: -7 * call(t),
        nod: -9 * call(t),
        turn: look * 0.35,
        look: look * 0.6,
        l: { wrist: wrist(1), elbow: [0.8, -0.8, -0.1] },
        r: { wrist: wrist(-1), elbow: [-0.8, -0.8, -0.1] },
      };
    }),
  });
  return capture(clean, { seed: 71, jitter: 0.06, shake: 0.0004, leadIn: CRIER.leadIn * FPS, floor: 0, drift: 0 });
}
