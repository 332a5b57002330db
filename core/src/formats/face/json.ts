import * as v from 'valibot';
import { fail } from '../../errors';
import { evenTrack } from './even';
import { MAX_CHANNELS, MAX_FACE_SAMPLES, type FaceTrack } from './track';

export const FACE_FORMAT = 'hollow-stride/face';

const value = v.nullable(v.number());
const name = v.pipe(v.string(), v.maxLength(400));
const rate = v.pipe(v.number(), v.minValue(1), v.maxValue(1000));
const named = v.pipe(
  v.record(name, v.pipe(v.array(value), v.maxLength(MAX_FACE_SAMPLES))),
  v.check((channels) => Object.keys(channels).length <= MAX_CHANNELS, `more than ${MAX_CHANNELS} channels`),
);

/** A face recording as a file of ours: values of each channel at an even rate, null where nothing was recorded. */
export const faceTableSchema = v.object({
  format: v.literal(FACE_FORMAT),
  version: v.literal(1),
  /** Frames a second. */
  rate,
  /** Second of the recorder's clock at the first frame. */
  start: v.optional(v.pipe(v.number(), v.finite()), 0),
  channels: named,
});

/** Ways that face tables are written as JSON: by channel, by frame beside a list of names, or a record for each frame. */
const looseSchema = v.union([
  v.object({ rate: v.optional(rate), fps: v.optional(rate), frameRate: v.optional(rate), start: v.optional(v.number()), channels: named }),
  v.object({
    rate: v.optional(rate),
    fps: v.optional(rate),
    frameRate: v.optional(rate),
    start: v.optional(v.number()),
    channels: v.pipe(v.array(name), v.maxLength(MAX_CHANNELS)),
    frames: v.array(v.array(value)),
  }),
  v.array(v.object({ time: v.number(), channels: v.record(name, value) })),
]);

/** Reads a face recording written as JSON. @throws FaultError face/table */
export function readFaceJson(text: string, title: string): FaceTrack {
  let json: unknown;
  try {
    json = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    fail('face/table', `this is no face table: it is not valid JSON (${(error as Error).message.slice(0, 200)})`);
  }
  const isOurs = typeof json === 'object' && json !== null && 'format' in json;
  const result = v.safeParse(isOurs ? faceTableSchema : looseSchema, json);
  if (!result.success) {
    const [issue] = v.flatten(result.issues).root ?? [];
    const [nested] = Object.entries(v.flatten(result.issues).nested ?? {});
    const what = isOurs && nested ? `${nested[0]}: ${String(nested[1])}` : (issue ?? 'channels with their values and a rate are read');
    fail('face/table', `this JSON is no face table: ${what.slice(0, 300)}`);
  }
  const table = result.output;
  if (Array.isArray(table)) {
    const channels = [...new Set(table.flatMap(({ channels: own }) => Object.keys(own)))];
    if (channels.length * table.length > MAX_FACE_SAMPLES) fail('face/table', 'the recording holds more samples than are read; split it');
    const values = table.flatMap(({ channels: own }) => channels.map((channel) => own[channel] ?? NaN));
    return evenTrack(title, { channels, times: table.map(({ time }) => time), values });
  }
  const fps = table.rate ?? ('fps' in table ? table.fps : undefined) ?? ('frameRate' in table ? table.frameRate : undefined);
  if (fps === undefined) fail('face/table', 'the table says no rate; add "rate", the frames a second');
  const [channels, columns] = Array.isArray(table.channels)
    ? [
        table.channels,
        table.channels.map((_, c) => ('frames' in table ? table.frames.map((row) => (row[c] as number | null | undefined) ?? NaN) : [])),
      ]
    : [Object.keys(table.channels), Object.values(table.channels).map((list) => list.map((one) => one ?? NaN))];
  const rows = columns.reduce((most, list) => Math.max(most, list.length), 0);
  if (rows * channels.length > MAX_FACE_SAMPLES) fail('face/table', 'the recording holds more samples than are read; split it');
  const values = new Float64Array(rows * channels.length).fill(NaN);
  columns.forEach((list, c) => list.forEach((one, r) => (values[r * channels.length + c] = one)));
  const start = table.start ?? 0;
  return evenTrack(title, { channels, times: Float64Array.from({ length: rows }, (_, r) => start + r / fps), values });
}
