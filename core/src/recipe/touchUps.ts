/** Adjustments laid over a transferred pose, before anything is held: plain data with limits. */
import * as v from 'valibot';
import { roleSchema } from '../label';

const finite = v.pipe(v.number(), v.finite());
const within = (low: number, high: number) => v.pipe(finite, v.minValue(low), v.maxValue(high));

/** Quantities that a touch-up moves. Degrees, but for the height of the hips and places on the floor, which are in centimetres, and the length of the way. */
export const TOUCH_UPS = {
  shoulders: { name: 'shoulders', way: 'up', most: 45, sided: true },
  shouldersAhead: { name: 'shoulders', way: 'ahead', most: 45, sided: true },
  arms: { name: 'arms', way: 'out', most: 90, sided: true },
  armsAhead: { name: 'arms', way: 'ahead', most: 90, sided: true },
  elbows: { name: 'elbows', way: 'out', most: 90, sided: true },
  thumbs: { name: 'thumbs', way: 'out', most: 60, sided: true },
  fingers: { name: 'fingers', way: 'curled', most: 90, sided: true },
  legs: { name: 'legs', way: 'apart', most: 45, sided: true },
  knees: { name: 'knees', way: 'out', most: 60, sided: true },
  feet: { name: 'feet', way: 'turned out', most: 60, sided: true },
  stepsOut: { name: 'steps', way: 'out', most: 200, sided: true },
  stepsAhead: { name: 'steps', way: 'ahead', most: 200, sided: true },
  stepsTurned: { name: 'steps', way: 'turned out', most: 90, sided: true },
  lean: { name: 'lean', way: 'ahead', most: 60, sided: false },
  leanAside: { name: 'lean', way: 'to the left', most: 45, sided: false },
  trunk: { name: 'trunk', way: 'turned left', most: 90, sided: false },
  hips: { name: 'hips', way: 'height', most: 40, sided: false },
  heading: { name: 'way', way: 'turned left', most: 180, sided: false },
  travel: { name: 'way', way: 'longer', most: 100, sided: false },
  placeLeft: { name: 'place', way: 'to the left', most: 1000, sided: false },
  placeAhead: { name: 'place', way: 'ahead', most: 1000, sided: false },
  head: { name: 'head', way: 'nod', most: 60, sided: false },
  headTurn: { name: 'head', way: 'turned left', most: 90, sided: false },
  headTilt: { name: 'head', way: 'tilted left', most: 45, sided: false },
  joint: { name: 'joint', way: 'turned', most: 180, sided: false },
} as const;
export type TouchUpKind = keyof typeof TOUCH_UPS;
export const TOUCH_UP_KINDS = Object.keys(TOUCH_UPS) as TouchUpKind[];

/** Unit of an amount. */
export const unitOf = (kind: TouchUpKind): '°' | 'cm' | '%' =>
  kind === 'travel' ? '%' : /^(hips|place|stepsOut|stepsAhead)/.test(kind) ? 'cm' : '°';

/** Which way values go over from key to key: without a corner, evenly, or in steps. */
export const EASES = ['smooth', 'even', 'step'] as const;

const seconds = within(0, 1e6);

export const touchUpSchema = v.pipe(
  v.object({
    kind: v.picklist(TOUCH_UP_KINDS),
    /** Of the body; of both sides the one is the other's mirror image. */
    side: v.optional(v.picklist(['both', 'left', 'right']), 'both'),
    /** Which joint is turned, and about which of the body's axes: its left, the vertical, the way ahead. */
    role: v.optional(v.nullable(roleSchema), null),
    axis: v.optional(v.picklist(['left', 'up', 'ahead']), 'left'),
    /** The amount where there are no keys. */
    value: within(-1000, 1000),
    /** Amounts over time, in the take's own seconds. */
    keys: v.optional(v.pipe(v.array(v.object({ at: seconds, value: within(-1000, 1000) })), v.maxLength(2000)), []),
    ease: v.optional(v.picklist(EASES), 'smooth'),
    /** Share of the amount that is laid on. */
    strength: v.optional(within(0, 1), 1),
    on: v.optional(v.boolean(), true),
    /** Laid on only between two moments, in the take's own seconds, with a soft edge; null is always. */
    mask: v.optional(
      v.nullable(
        v.pipe(
          v.object({ from: seconds, to: seconds, fade: within(0, 10) }),
          v.check(({ from, to }) => from <= to, 'a mask must begin before it ends'),
        ),
      ),
      null,
    ),
  }),
  v.check(({ kind, role }) => (kind === 'joint') === (role !== null), 'a touch-up of a joint, and no other, names its role'),
  v.check(
    ({ kind, value, keys }) => [value, ...keys.map((key) => key.value)].every((amount) => Math.abs(amount) <= TOUCH_UPS[kind].most),
    'the amount is more than a body can do',
  ),
);
export type TouchUp = v.InferOutput<typeof touchUpSchema>;

/** A touch-up with what is not said as it usually is; it does nothing yet where no amount is said. */
export function makeTouchUp(of: Partial<TouchUp> & Pick<TouchUp, 'kind'>): TouchUp {
  return v.parse(touchUpSchema, { value: 0, ...of });
}

export const touchUpsSchema = v.pipe(v.array(touchUpSchema), v.maxLength(200));
