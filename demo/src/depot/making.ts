import { Footwork, straight, type Walk, type Way } from '../footwork';
import type { V3 } from '../vectors';
import type { Performance } from '../performer';
import { perform, type ArmReach } from '../takes/body';
import { carried, hold, type Feet, type Mood, type Over } from '../takes/moods';

/** A thing beside the body that is captured with it: where it stands on the stage, and how far it is turned to the left, degrees. */
export interface Thing {
  readonly name: string;
  readonly at: (t: number) => { readonly place: V3; readonly turn: number };
}

/** A motion of the depot before it is played at some rate. */
export interface Motion {
  readonly id: string;
  readonly title: string;
  readonly what: string;
  readonly tags: readonly string[];
  readonly seconds: number;
  readonly travels: boolean;
  readonly thing?: Thing;
  /** Plays it at some rate, clean. */
  readonly play: (fps: number) => Performance;
}

export interface Going {
  readonly walk: Partial<Walk> & { readonly count: number };
  readonly mood?: Partial<Mood>;
  readonly over?: (t: number, feet: Feet, end: number) => Over;
  readonly low?: number;
  readonly ahead?: number;
  readonly sway?: number;
  readonly stand?: { width?: number; toeOut?: number; heading?: number };
}

const DEFAULT_PACE = 0.54;
const START = 0.5;

/** A motion that goes somewhere and comes to a stand. */
export function going(id: string, title: string, what: string, tags: readonly string[], go: Going): Motion {
  const pace = go.walk.pace ?? DEFAULT_PACE;
  const seconds = Math.round((START + pace * go.walk.count * 1.02 + 0.9) * 10) / 10;
  const end = seconds - 0.8;
  return {
    id,
    title,
    what,
    tags,
    seconds,
    travels: true,
    play: (fps) => {
      const feet = new Footwork(seconds, { width: go.walk.width ?? 0.15, toeOut: go.walk.toeOut ?? 7, ...go.stand });
      feet.walk({ from: START, pace, length: 0.64, way: straight(), ...go.walk });
      return perform({
        fps,
        seconds,
        steps: feet.steps(),
        sway: go.sway ?? 0.24,
        lean: (t) => [
          0,
          -(go.low ?? 0) * hold(t, 0.1, START + 0.3, end - 0.3, end + 0.5),
          (go.ahead ?? 0) * hold(t, 0.1, START + 0.3, end - 0.3, end + 0.5),
        ],
        moment: carried({ stride: go.walk.length ?? 0.64, ...go.mood }, go.over && ((t, feet_) => go.over!(t, feet_, end))),
      });
    },
  };
}

/** A motion on the spot: the feet stand, unless they are moved. */
export function standing(
  id: string,
  title: string,
  what: string,
  tags: readonly string[],
  seconds: number,
  s: {
    over?: (t: number) => Over;
    lean?: (t: number) => V3;
    feet?: (f: Footwork) => void;
    mood?: Partial<Mood>;
    width?: number;
    ahead?: number;
    sway?: number;
  },
): Motion {
  return {
    id,
    title,
    what,
    tags: ['stand', ...tags],
    seconds,
    travels: false,
    play: (fps) => {
      const feet = new Footwork(seconds, { width: s.width ?? 0.18, toeOut: 9, ahead: s.ahead ?? 0 });
      s.feet?.(feet);
      const sway: (t: number) => V3 = (t) => [0.008 * Math.sin(t * 1.1), 0, 0.005 * Math.sin(t * 0.8)];
      const lean = s.lean;
      return perform({
        fps,
        seconds,
        steps: feet.steps(),
        sway: s.sway ?? 0.2,
        lean: (t) => {
          const [a, b] = [sway(t), lean?.(t) ?? [0, 0, 0]];
          return [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
        },
        moment: carried({ swing: 0, ...s.mood }, s.over),
      });
    },
  };
}

/** A motion on the spot that ends elsewhere. */
export const farther = (motion: Motion): Motion => ({ ...motion, travels: true });

export const wave = (t: number, from: number, until: number, rate: number): number =>
  hold(t, from, from + 0.3, until - 0.3, until) * Math.sin((t - from) * rate);

/** Hand to a place and back to hanging: 0 hangs. @param along where its fingers point there; on along the fore arm by default */
export function to(side: 'l' | 'r', place: V3, k: number, elbow: V3 = [0.7, -0.6, -0.3], along?: V3): ArmReach {
  const s = side === 'l' ? 1 : -1;
  const hanging: V3 = [s * 0.26, 0.85, 0.08];
  const there: V3 = [s * place[0], place[1], place[2]];
  // Out ahead on the way, as a hand does not pass through the shoulder.
  const ahead = (place[1] > 1.7 ? 1.5 : 0.6) * k * (1 - k);
  return {
    wrist: [0, 1, 2].map((c) => hanging[c] + (there[c] - hanging[c]) * k + (c === 2 ? ahead : 0)) as unknown as V3,
    elbow: [s * elbow[0], elbow[1], elbow[2]],
    ...(along && { hand: { along: [s * along[0], along[1], along[2]] as const, share: k } }),
  };
}

export const stairs: Way = (s) => ({ x: 0, z: s, heading: 0, y: Math.max(0, Math.round((s - 0.2) / 0.3)) * 0.16 });
