/** The reel: clips of characters in time; plain data with limits. */
import * as v from 'valibot';
import { fail } from '../errors';
import { poseSchema } from './layers';

const finite = v.pipe(v.number(), v.finite());
const within = (low: number, high: number) => v.pipe(finite, v.minValue(low), v.maxValue(high));
const text = (most: number) => v.pipe(v.string(), v.trim(), v.minLength(1, 'a name is needed'), v.maxLength(most));
/** Of a take or a character: what the place that the reel is kept at calls it; a file's name in a reel that is a file. */
const source = v.pipe(v.string(), v.minLength(1), v.maxLength(400));

export const REEL_FORMAT = 'hollow-stride/reel';
export const REEL_VERSION = 1;

/** Cycles mixed by a value, as stand, walk and run are by a speed; their steps are kept together. */
export const reelMixSchema = v.object({
  cycles: v.pipe(
    v.array(v.object({ take: source, from: within(0, 1e6), to: within(0, 1e6), value: within(-1000, 1000) })),
    v.minLength(2, 'a mix needs two cycles'),
    v.maxLength(3, 'a mix has at most three cycles'),
    v.check((cycles) => cycles.every(({ from, to }) => from < to), 'a cycle must begin before it ends'),
    v.check((cycles) => new Set(cycles.map(({ value }) => value)).size === cycles.length, 'each cycle of a mix needs a value of its own'),
  ),
  /** The value over the seconds of the clip; straight from key to key, and level outside. */
  keys: v.pipe(
    v.array(v.object({ at: within(0, 36_000), value: within(-1000, 1000) })),
    v.minLength(1, 'a mix needs a value'),
    v.maxLength(500),
  ),
  /** How long it goes on. */
  seconds: within(0.1, 3600),
});
export type ReelMix = v.InferOutput<typeof reelMixSchema>;

/** A piece of a take on a lane's character. */
export const reelClipSchema = v.pipe(
  v.object({
    name: text(80),
    take: source,
    /** The piece, in seconds of the result; null is its own start or end. */
    from: v.optional(v.nullable(within(0, 1e6)), null),
    to: v.optional(v.nullable(within(0, 1e6)), null),
    /** Second of the reel at which it begins. */
    start: within(0, 36_000),
    /** How fast it plays: 2 is twice as fast. */
    rate: v.optional(within(0.05, 20), 1),
    reverse: v.optional(v.boolean(), false),
    /** How often it plays on end, each time from where it had come to. */
    repeats: v.optional(v.pipe(finite, v.integer(), v.minValue(1), v.maxValue(200)), 1),
    /** Both ends are made one pose, the difference spread over the piece. */
    closed: v.optional(v.boolean(), false),
    /** Seconds for which its last pose is held. */
    hold: v.optional(within(0, 600), 0),
    /** Goes on from the place and heading of what is before it on the lane. */
    joined: v.optional(v.boolean(), true),
    /** Goes over the floor, or stays over one place with what it sways about it. */
    travel: v.optional(v.boolean(), true),
    /** In place of a piece: a pose that is held, as degrees by which joints are turned from their rest. */
    pose: v.optional(v.nullable(poseSchema), null),
    /** In place of a piece: cycles mixed by a value. */
    mix: v.optional(v.nullable(reelMixSchema), null),
  }),
  v.check(({ from, to }) => from === null || to === null || from <= to, 'a clip must begin before it ends'),
);
export type ReelClip = v.InferOutput<typeof reelClipSchema>;

/** The takes that a clip plays. */
export const takesOfClip = ({ take, mix }: ReelClip): readonly string[] => (mix ? mix.cycles.map((cycle) => cycle.take) : [take]);

/** A character with its clips. Where two overlap one goes over into the other. */
export const reelLaneSchema = v.object({
  name: text(80),
  character: source,
  on: v.optional(v.boolean(), true),
  /** All clips begin later by so many seconds, and play so much faster. */
  shift: v.optional(within(-600, 600), 0),
  pace: v.optional(within(0.1, 10), 1),
  /** Metres on the stage, and degrees from +Z towards +X, that all of it is moved and turned by. */
  place: v.optional(v.tuple([within(-1000, 1000), within(-1000, 1000)]), [0, 0]),
  heading: v.optional(within(-360, 360), 0),
  clips: v.pipe(v.array(reelClipSchema), v.maxLength(200)),
});
export type ReelLane = v.InferOutput<typeof reelLaneSchema>;

/** Ends of limbs that two figures touch with. */
export const REEL_ENDS = ['left.hand', 'right.hand', 'left.foot', 'right.foot'] as const;
export type ReelEnd = (typeof REEL_ENDS)[number];

/** Two figures that touch, as in a hand-over or at one rope: an end of each is at one place meanwhile. */
export const reelTouchSchema = v.pipe(
  v.object({
    /** Lanes by their place in the list, from 0, and the end of each. */
    a: v.object({ lane: v.pipe(finite, v.integer(), v.minValue(0), v.maxValue(49)), end: v.picklist(REEL_ENDS) }),
    b: v.object({ lane: v.pipe(finite, v.integer(), v.minValue(0), v.maxValue(49)), end: v.picklist(REEL_ENDS) }),
    /** Seconds of the reel. */
    from: within(0, 36_000),
    to: within(0, 36_000),
    /** Seconds over which the ends come and go. */
    ease: v.optional(within(0, 10), 0.4),
    /** Share of the way between them that the first goes. */
    share: v.optional(within(0, 1), 0.5),
  }),
  v.check(({ from, to }) => from <= to, 'a touch must begin before it ends'),
);
export type ReelTouch = v.InferOutput<typeof reelTouchSchema>;

/** The content of a reel. */
export const reelContentSchema = v.object({
  /** Frames a second of all that comes of it. */
  fps: v.optional(within(1, 240), 60),
  lanes: v.pipe(v.array(reelLaneSchema), v.maxLength(50, 'a reel has at most 50 lanes')),
  touches: v.optional(v.pipe(v.array(reelTouchSchema), v.maxLength(500)), []),
});
export type ReelContent = v.InferOutput<typeof reelContentSchema>;

/** A reel as a file: takes and characters by the names of their files. */
export const reelSchema = v.object({
  format: v.literal(REEL_FORMAT, `must be "${REEL_FORMAT}"`),
  version: v.literal(REEL_VERSION, `must be ${REEL_VERSION}`),
  name: text(120),
  ...reelContentSchema.entries,
});
export type Reel = v.InferOutput<typeof reelSchema>;

/** A lane, or a clip, with what is not said as it usually is. @throws ValiError when it is none */
export const makeLane = (of: v.InferInput<typeof reelLaneSchema>): ReelLane => v.parse(reelLaneSchema, of);
export const makeReelTouch = (of: v.InferInput<typeof reelTouchSchema>): ReelTouch => v.parse(reelTouchSchema, of);
export const makeReelClip = (of: v.InferInput<typeof reelClipSchema>): ReelClip => v.parse(reelClipSchema, of);

/** Reads a reel from a file's text. @throws FaultError recipe/schema, saying which part is wrong and how */
export function parseReel(json: string, file?: string): Reel {
  let read: unknown;
  try {
    read = JSON.parse(json);
  } catch (error) {
    return fail('recipe/schema', `this is no reel: it is not valid JSON (${(error as Error).message})`, { file });
  }
  const result = v.safeParse(reelSchema, read);
  if (result.success) return result.output;
  const problems = result.issues.slice(0, 3).map((issue) => `${v.getDotPath(issue) ?? 'the file'}: ${issue.message}`);
  return fail('recipe/schema', `the reel cannot be used: ${problems.join('; ')}`, { file });
}
