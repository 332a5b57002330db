import { openingSchema } from '@hollow-stride/core';
import * as v from 'valibot';
import { count, finite, idSchema, nameSchema, text } from './base';
import { tagsSchema } from './schemas';

const within = (low: number, high: number) => v.pipe(finite, v.minValue(low), v.maxValue(high));

/** What the ring of eyes in the rope loft performs, and how badly it sees. */
export const ringSchema = v.object({
  /** A motion of the depot. */
  motion: text(60),
  rate: v.optional(v.picklist([30, 60, 120]), 60),
  /** How large the performer is, against the one whom the depot's motions are of. */
  size: v.optional(within(0.5, 1.5), 1),
  /** Deviation of each joint's turn, degrees. */
  noise: v.optional(within(0, 10), 0.2),
  /** Times a minute that nothing is seen for a moment. */
  dropouts: v.optional(within(0, 60), 2),
  /** Times a minute that left and right arm are taken for each other. */
  exchanges: v.optional(within(0, 60), 0),
  /** Degrees that the floor leans to the left. */
  tilt: v.optional(within(-20, 20), 0),
  seed: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(2 ** 31)), 1),
});
export type RingSettings = v.InferOutput<typeof ringSchema>;

/** A stream that comes in, or came in a moment ago. */
export const deskStreamSchema = v.object({
  session: text(64),
  opening: openingSchema,
  /** From the simulated device rather than from outside. */
  isDevice: v.boolean(),
  isOpen: v.boolean(),
  received: count,
  lost: count,
  doubled: count,
  refused: count,
  /** Why a frame was refused last. */
  reason: v.nullable(text(400)),
});
export type DeskStream = v.InferOutput<typeof deskStreamSchema>;

export const deskRecordingSchema = v.object({
  session: text(64),
  name: nameSchema,
  /** Number of the take under this name, from 1. */
  take: count,
  frames: count,
  /** Of them on the disk: a kill or a power cut does not lose them. */
  kept: count,
  /** Why no more of it reaches the disk; null as long as it does. */
  fault: v.nullable(text(400)),
});
export type DeskRecording = v.InferOutput<typeof deskRecordingSchema>;

export const deskStateSchema = v.object({
  streams: v.pipe(v.array(deskStreamSchema), v.maxLength(16)),
  device: v.nullable(ringSchema),
  recording: v.nullable(deskRecordingSchema),
});
export type DeskState = v.InferOutput<typeof deskStateSchema>;

/** What a recording is called, and what goes with it. */
export const recordSchema = v.object({
  session: text(64),
  name: nameSchema,
  tags: v.optional(tagsSchema, []),
  note: v.optional(text(2000), ''),
  /** Where the floor was found, metres in the stream's frame, and where the performer faced, degrees: from the pose that was held. */
  floor: v.optional(v.nullable(v.object({ height: within(-100, 100), heading: within(-360, 360) })), null),
});
export type RecordRequest = v.InferOutput<typeof recordSchema>;

/** The take that a recording became. */
export const recordedSchema = v.object({ take: idSchema, name: nameSchema, frames: count, lost: count });
export type RecordedJson = v.InferOutput<typeof recordedSchema>;
