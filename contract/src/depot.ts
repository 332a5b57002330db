import * as v from 'valibot';
import { count, faultSchema, finite, text } from './base';
import { uploadedSchema } from './schemas';

/** One motion of the depot, as a search lists it. */
export const depotMotionSchema = v.object({
  id: text(60),
  title: text(120),
  what: text(400),
  tags: v.array(text(40)),
  seconds: finite,
  travels: v.boolean(),
});
export type DepotMotion = v.InferOutput<typeof depotMotionSchema>;

export const DEPOT_PAGE = 12;
const fromText = (schema: v.GenericSchema<number, number>) => v.pipe(v.string(), v.transform(Number), schema);
/** A search of the depot; all parts are optional. */
export const depotSearchSchema = v.object({
  text: v.optional(text(80), ''),
  tag: v.optional(text(40), ''),
  shortest: v.optional(fromText(v.pipe(finite, v.minValue(0))), '0'),
  longest: v.optional(fromText(v.pipe(finite, v.minValue(0), v.maxValue(3600))), '3600'),
  page: v.optional(fromText(v.pipe(count, v.maxValue(1000))), '0'),
});
export type DepotSearch = v.InferInput<typeof depotSearchSchema>;
export const depotPageSchema = v.object({
  motions: v.array(depotMotionSchema),
  total: count,
  page: count,
  pages: count,
  tags: v.array(v.object({ tag: text(40), count })),
});
export type DepotPage = v.InferOutput<typeof depotPageSchema>;

/** How a motion is fetched from the depot. */
export const depotFetchSchema = v.object({
  id: text(60),
  travel: v.picklist(['travelling', 'in-place']),
  fps: v.picklist([24, 25, 30, 50, 60, 120]),
  body: v.picklist(['motion', 'with-body']),
  /** How the line to the depot behaves: it can be told to fail half way, once or for good. */
  line: v.optional(v.picklist(['steady', 'drops', 'dead']), 'steady'),
});
export type DepotFetch = v.InferOutput<typeof depotFetchSchema>;

/** Progress of a fetch: one JSON object a line. */
export const depotEventSchema = v.variant('kind', [
  v.object({ kind: v.literal('progress'), received: count, total: count }),
  v.object({ kind: v.literal('resumed'), received: count, attempt: count }),
  v.object({ kind: v.literal('done'), file: uploadedSchema }),
  v.object({ kind: v.literal('failed'), fault: faultSchema }),
]);
export type DepotEvent = v.InferOutput<typeof depotEventSchema>;
