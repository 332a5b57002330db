/** Layers laid over a solved motion: keys or a filter, for some joints and some time; plain data with limits. */
import * as v from 'valibot';
import { roleSchema } from '../label';

const finite = v.pipe(v.number(), v.finite());
const within = (low: number, high: number) => v.pipe(finite, v.minValue(low), v.maxValue(high));
const seconds = within(0, 1e6);

/** How a curve goes through a key: without a corner, level, straight to both sides, or held until the next. */
export const TANGENTS = ['smooth', 'flat', 'even', 'step'] as const;
export type Tangent = (typeof TANGENTS)[number];

/** Three amounts by the axes of the body at rest: its left, up, and ahead. */
const triple = (most: number) => v.tuple([within(-most, most), within(-most, most), within(-most, most)]);

const keyOf = (most: number) =>
  v.object({
    /** In the take's own seconds. */
    at: seconds,
    value: triple(most),
    tangent: v.optional(v.picklist(TANGENTS), 'smooth'),
    /** Slope through the key, a second; null is as its tangent says. */
    slope: v.optional(v.nullable(triple(1e4)), null),
  });
const keysOf = (most: number) => v.pipe(v.array(keyOf(most)), v.maxLength(5000));
export type LayerKey = v.InferOutput<ReturnType<typeof keyOf>>;

/** Parts of the body that a filter is kept to. */
export const LAYER_PARTS = ['way', 'trunk', 'head', 'left.arm', 'right.arm', 'left.leg', 'right.leg'] as const;
export type LayerPart = (typeof LAYER_PARTS)[number];
const parts = v.optional(v.pipe(v.array(v.picklist(LAYER_PARTS)), v.maxLength(LAYER_PARTS.length)), []);
/** Share of the filter that each of its parts takes; all of it where nothing is said. */
const shares = v.optional(v.partial(v.object(v.entriesFromList(LAYER_PARTS, within(0, 1)))));

/** Limb ends that a layer reaches with. */
export const LAYER_ENDS = ['hips', 'head', 'left.hand', 'right.hand', 'left.foot', 'right.foot'] as const;
export type LayerEnd = (typeof LAYER_ENDS)[number];
/** Limb ends that a layer can leave where they are. */
export const HELD_ENDS = ['left.hand', 'right.hand', 'left.foot', 'right.foot'] as const;
export type HeldEnd = (typeof HELD_ENDS)[number];
/** What the place of a limb end goes with. */
export const LAYER_FRAMES = ['world', 'hips', 'chest', 'left.hand', 'right.hand'] as const;
/** One of these, or a thing beside the body by its role: `extra.crate.1`. */
const frameSchema = v.union([
  v.picklist(LAYER_FRAMES),
  v.pipe(v.string(), v.regex(/^extra\.[\p{L}\p{N} '-]{1,60}\.1$/u, 'is nothing beside a body')),
]);
export type LayerFrame = v.InferOutput<typeof frameSchema>;

const way = v.optional(v.picklist(['add', 'replace']), 'add');

export const turnTrackSchema = v.object({ role: roleSchema, keys: keysOf(360) });
export type TurnTrack = v.InferOutput<typeof turnTrackSchema>;
export const reachTrackSchema = v.object({
  end: v.picklist(LAYER_ENDS),
  frame: v.optional(frameSchema, 'world'),
  keys: keysOf(10_000),
});
export type ReachTrack = v.InferOutput<typeof reachTrackSchema>;

/** What a layer does. Turns are degrees as rotation vectors, places centimetres. */
const doesSchema = v.variant('kind', [
  /** Joints are turned in their own frames (add), or to an angle from their rest (replace). */
  v.object({ kind: v.literal('turns'), way, tracks: v.pipe(v.array(turnTrackSchema), v.maxLength(400)) }),
  /** Limb ends are moved by so much (add), or to a place (replace); `trunk` is the share of the way that the trunk gives. */
  v.object({
    kind: v.literal('reach'),
    way,
    tracks: v.pipe(v.array(reachTrackSchema), v.maxLength(LAYER_ENDS.length)),
    trunk: v.optional(within(0, 1), 0),
  }),
  /** Motion quicker than some seconds is calmed. */
  v.object({ kind: v.literal('calm'), parts, shares, seconds: v.optional(within(0.01, 2), 0.08) }),
  /** Single frames that stick out, and jumps, are mended. */
  v.object({ kind: v.literal('spikes'), parts, shares }),
  /** The motion between the ends of the layer's time is drawn anew from what is before and behind it. */
  v.object({ kind: v.literal('bridge'), parts, shares }),
  /** The slow part of the motion is made larger or smaller about its mean. */
  v.object({ kind: v.literal('amount'), parts, shares, factor: v.optional(within(0, 3), 1.3) }),
  /** Left and right are exchanged. */
  v.object({ kind: v.literal('mirror') }),
]);
export type LayerDoes = v.InferOutput<typeof doesSchema>;
export type LayerKind = LayerDoes['kind'];
export const LAYER_KINDS: readonly LayerKind[] = ['turns', 'reach', 'calm', 'spikes', 'bridge', 'amount', 'mirror'];

export const layerSchema = v.pipe(
  v.object({
    name: v.pipe(v.string(), v.trim(), v.minLength(1, 'a layer needs a name'), v.maxLength(80)),
    does: doesSchema,
    on: v.optional(v.boolean(), true),
    /** While any layer is alone, those that are not do nothing. */
    alone: v.optional(v.boolean(), false),
    /** Share of the layer that is laid on. */
    strength: v.optional(within(0, 1), 1),
    /** Laid on only between two moments, in the take's own seconds, with a soft edge outside; null is always. */
    mask: v.optional(
      v.nullable(
        v.pipe(
          v.object({ from: seconds, to: seconds, fade: v.optional(within(0, 10), 0.25) }),
          v.check(({ from, to }) => from <= to, 'a mask must begin before it ends'),
        ),
      ),
      null,
    ),
    /** Limb ends that stay where they are, whatever the layer moves: knees and elbows find their place, and the chest where an arm is too short. */
    held: v.optional(v.pipe(v.array(v.picklist(HELD_ENDS)), v.maxLength(HELD_ENDS.length))),
    /** What rests is let go: the layer stands as it was posed. */
    asPosed: v.optional(v.boolean(), false),
  }),
  v.check(({ does, mask }) => does.kind !== 'bridge' || mask !== null, 'a gap is closed between two moments: the layer needs a mask'),
);
export type Layer = v.InferOutput<typeof layerSchema>;

/** A pose, as degrees by which joints are turned from their rest: it can be laid on any body that has their roles. */
export const poseSchema = v.record(roleSchema, triple(360));
export type LayerPose = v.InferOutput<typeof poseSchema>;

export const layersSchema = v.pipe(v.array(layerSchema), v.maxLength(100));

/** A layer with what is not said as it usually is. @throws ValiError when it is none */
export function makeLayer(
  of: Pick<Layer, 'name'> & { readonly does: v.InferInput<typeof doesSchema> } & Partial<Omit<Layer, 'name' | 'does'>>,
): Layer {
  return v.parse(layerSchema, of);
}
