/** A pairing that goes joint by joint instead of by parts of the body: for rigs that are no bodies, and for rigs of one kind. */
import * as v from 'valibot';

const finite = v.pipe(v.number(), v.finite());
const within = (low: number, high: number) => v.pipe(finite, v.minValue(low), v.maxValue(high));
/** A joint by its key: its name without prefix, told apart where several have it. */
const jointKey = v.pipe(v.string(), v.minLength(1), v.maxLength(400));

/** How a value comes over: as its change from the rest of each, as it was recorded, or not at all. */
export const CARRIED_AS = ['rest', 'recorded', 'none'] as const;
/** In whose axes a change is told: those of the world at rest, of the joint above, or the joint's own. */
export const CARRY_AXES = ['world', 'parent', 'own'] as const;
const factor = v.optional(within(-10, 10), 1);

/** What is carried over for one joint, or for all. */
export const carrySchema = v.object({
  turns: v.optional(v.picklist(CARRIED_AS), 'rest'),
  places: v.optional(v.picklist(CARRIED_AS), 'rest'),
  /** Of joints that grow and shrink: their size over that at rest, or nothing. */
  sizes: v.optional(v.picklist(['rest', 'none']), 'rest'),
  axes: v.optional(v.picklist(CARRY_AXES), 'world'),
  /** The change from rest is taken so many times; of places beside the size of the character over the performer. */
  turnsTimes: factor,
  placesTimes: factor,
  sizesTimes: factor,
});
export type Carry = v.InferOutput<typeof carrySchema>;
export const DEFAULT_CARRY: Carry = v.parse(carrySchema, {});

/** How joints are paired that nobody paired by hand. */
export const PAIR_WAYS = ['names', 'order', 'shape'] as const;
export type PairWay = (typeof PAIR_WAYS)[number];

/** A name of the performer, and what it is called on the character; `*` stands for any letters. */
export const nameRuleSchema = v.object({
  from: v.pipe(v.string(), v.trim(), v.minLength(1, 'a rule needs a name to look for'), v.maxLength(200)),
  to: v.pipe(v.string(), v.trim(), v.minLength(1, 'a rule says what the name becomes'), v.maxLength(200)),
});
export type NameRule = v.InferOutput<typeof nameRuleSchema>;

/** What drives a joint: joints of the performer with their shares; none leaves it at rest. */
const sourcesSchema = v.pipe(v.array(v.object({ joint: jointKey, weight: v.optional(within(-10, 10), 1) })), v.maxLength(8));

/** A motion of the character's own file, and how the take is laid into it. */
export const intoSchema = v.object({
  /** Which of the file's motions, from 1. */
  clip: v.pipe(finite, v.integer(), v.minValue(1), v.maxValue(1000)),
  /** What follows moves on; what is there goes; or both are mixed. */
  way: v.picklist(['insert', 'replace', 'merge']),
  /** Second of that motion. */
  at: v.optional(within(0, 1e6), 0),
  /** Seconds over which the take comes in and goes out. */
  ease: v.optional(within(0, 60), 0),
  /** Of a mix: the take's share. */
  weight: v.optional(within(0, 1), 1),
});
export type Into = v.InferOutput<typeof intoSchema>;

export const byJointSchema = v.object({
  by: v.optional(v.picklist(PAIR_WAYS), 'names'),
  /** Names that are read as others, the first that fits. */
  rules: v.optional(v.pipe(v.array(nameRuleSchema), v.maxLength(100)), []),
  /** Pairs made by hand: by joint of the character. */
  pairs: v.optional(v.record(jointKey, sourcesSchema), {}),
  carry: v.optional(carrySchema, DEFAULT_CARRY),
  /** Joints of the character for which other things are carried than for all. */
  own: v.optional(v.record(jointKey, carrySchema), {}),
  /** Only this joint of the character and what hangs on it; null is the whole. */
  branch: v.optional(v.nullable(jointKey), null),
  /** Degrees about the vertical from the performer's axes to the character's; null is as the two rests say. */
  heading: v.optional(v.nullable(within(-360, 360)), null),
  /** Size of the character over the performer; null is as the two rests say. */
  size: v.optional(v.nullable(within(1e-4, 1e4)), null),
  into: v.optional(v.nullable(intoSchema), null),
});
export type ByJoint = v.InferOutput<typeof byJointSchema>;
export const DEFAULT_BY_JOINT: ByJoint = v.parse(byJointSchema, {});
