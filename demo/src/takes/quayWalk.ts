import { walkSteps } from '../gait';
import type { Performance } from '../performer';
import { capture, ease, perform, type ArmMoment } from './body';

/** Quay walk: from a stand, eleven steps along the quay, to a stand. 120 frames a second; a short dropout, some drift. */
export function quayWalk(): Performance {
  const cycle = 1.08;
  const seconds = 8.6;
  const steps = walkSteps({ start: 1.0, cycle, length: 0.66, width: 0.15, count: 12, toeOut: 7, end: seconds });
  const clean = perform({
    fps: 120,
    seconds,
    steps,
    sway: 0.24,
    moment: (t, feet) => {
      // The stride's phase is read off the feet themselves, so hands and hips stay with them when it starts and stops.
      const stride = feet.l.ankle[2] - feet.r.ankle[2];
      const reach = Math.max(-1, Math.min(1, stride / 0.66));
      const bears = feet.l.weight - feet.r.weight;
      const walking = ease(t, 0.9, 1.8) * (1 - ease(t, 7.2, 8.2));
      const arm = (side: 'l' | 'r'): ArmMoment => {
        const swing = (side === 'l' ? -1 : 1) * reach;
        return { down: 77 - 4 * walking, forward: 2 + swing * 24, elbow: 14 + 12 * walking + Math.max(0, swing) * 20, roll: 10 };
      };
      return {
        pelvisYaw: -6 * reach,
        pelvisList: 3.2 * bears * walking,
        pelvisTilt: 2.5 + 2 * walking,
        spine: { bend: 1 + 1.5 * walking, side: -3.4 * bears * walking, turn: 12 * reach },
        head: { nod: -3 - 2 * walking, turn: -5 * reach },
        arms: { l: arm('l'), r: arm('r') },
      };
    },
  });
  return capture(clean, { seed: 11, jitter: 0.05, shake: 0.0004, leadIn: 30, floor: 0, drift: 2.5, dropout: { at: 560, frames: 4 } });
}
