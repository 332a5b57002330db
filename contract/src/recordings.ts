import * as v from 'valibot';
import { count, finite, hashSchema, idSchema, nameSchema, text, versionNumber } from './base';

/** Facts about a recording that belongs beside a body take; frames count from 0. */
export const recordingFactsSchema = v.variant('kind', [
  v.object({
    kind: v.literal('face'),
    frames: count,
    fps: finite,
    seconds: finite,
    start: finite,
    channels: v.pipe(v.array(v.object({ name: text(400), low: v.nullable(finite), high: v.nullable(finite) })), v.maxLength(400)),
    faults: v.pipe(
      v.array(
        v.object({
          kind: v.picklist(['gap', 'spike', 'flat', 'range', 'repeat']),
          from: count,
          to: count,
          channel: v.nullable(text(400)),
          message: text(600),
        }),
      ),
      v.maxLength(200),
    ),
  }),
  v.object({ kind: v.literal('sound'), seconds: finite, rate: finite }),
]);
export type RecordingFactsJson = v.InferOutput<typeof recordingFactsSchema>;

/** A recording on the rack: a face, or a sound. */
export const recordingSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  file: hashSchema,
  fileName: text(400),
  bytes: count,
  facts: recordingFactsSchema,
  isDemo: v.boolean(),
  addedAt: v.string(),
});
export type RecordingJson = v.InferOutput<typeof recordingSchema>;
