import type { FootState } from '../gait';
import type { ArmMoment, Moment } from './body';

export type Feet = Readonly<Record<'l' | 'r', FootState>>;

/** How a body carries itself while it goes; degrees, and 0…1 for shares. */
export interface Mood {
  readonly stride: number;
  readonly swing: number;
  readonly elbow: number;
  readonly hang: number;
  readonly yaw: number;
  readonly list: number;
  readonly tilt: number;
  readonly bend: number;
  readonly nod: number;
  readonly roll: number;
}

const EASY: Mood = { stride: 0.66, swing: 24, elbow: 18, hang: 76, yaw: 6, list: 3, tilt: 3, bend: 2, nod: -3, roll: 10 };

/** Offsets over a mood at a moment. */
export interface Over {
  readonly l?: Partial<ArmMoment> | Moment['arms']['l'];
  readonly r?: Partial<ArmMoment> | Moment['arms']['r'];
  readonly bend?: number;
  readonly side?: number;
  readonly turn?: number;
  readonly nod?: number;
  readonly look?: number;
  readonly yaw?: number;
  readonly tilt?: number;
  readonly splay?: number;
}

/**
 * The upper body of someone who goes or stands: hips and shoulders turn against each other with the stride, the arms swing with
 * it, all read off the feet, so that it starts and stops as they do.
 */
export function carried(mood: Partial<Mood> = {}, over: (t: number, feet: Feet) => Over = () => ({})): (t: number, feet: Feet) => Moment {
  const m = { ...EASY, ...mood };
  return (t, feet) => {
    const heading = (feet.l.heading + feet.r.heading) / 2;
    const a = (heading * Math.PI) / 180;
    const apart = (feet.l.ankle[0] - feet.r.ankle[0]) * Math.sin(a) + (feet.l.ankle[2] - feet.r.ankle[2]) * Math.cos(a);
    const reach = Math.max(-1.2, Math.min(1.2, apart / m.stride));
    const bears = feet.l.weight - feet.r.weight;
    const o = over(t, feet);
    const arm = (side: 'l' | 'r'): Moment['arms']['l'] => {
      const own = o[side];
      if (own && 'wrist' in own) return own;
      const swing = (side === 'l' ? -1 : 1) * reach;
      return { down: m.hang, forward: 2 + swing * m.swing, elbow: m.elbow + Math.max(0, swing) * 20, roll: m.roll, ...own };
    };
    return {
      pelvisYaw: heading - m.yaw * reach + (o.yaw ?? 0),
      pelvisList: m.list * bears,
      pelvisTilt: m.tilt + (o.tilt ?? 0),
      spine: {
        bend: m.bend + (o.bend ?? 0) + 0.4 * Math.sin(t * 1.9),
        side: -m.list * bears + (o.side ?? 0),
        turn: 2 * m.yaw * reach + (o.turn ?? 0),
      },
      head: { nod: m.nod + (o.nod ?? 0), turn: -m.yaw * reach * 0.8 + (o.look ?? 0) },
      arms: { l: arm('l'), r: arm('r') },
      splay: o.splay,
    };
  };
}

/** Up between two moments, there until a third, down by a fourth. */
export const hold = (t: number, from: number, up: number, until: number, down: number): number =>
  smooth(t, from, up) * (1 - smooth(t, until, down));

export const smooth = (t: number, from: number, to: number): number => {
  const u = Math.min(1, Math.max(0, (t - from) / (to - from)));
  return u * u * u * (u * (6 * u - 15) + 10);
};
