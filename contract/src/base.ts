/** Limits, and the schemas that all others are made of. */
import { shortened, wellFormed } from '@hollow-stride/core';
import * as v from 'valibot';

/** Limits that both sides hold to. */
export const LIMITS = {
  name: 120,
  fileBytes: 256 * 1024 * 1024,
  filesAtOnce: 500,
  archiveEntries: 2000,
  tags: 20,
  tag: 40,
  note: 2000,
  schemes: 500,
  versions: 2000,
  sets: 500,
  savedRests: 100,
  rackItems: 5000,
  /** Takes that one change is for. */
  takesAtOnce: 20_000,
} as const;

export const text = (max: number) => v.pipe(v.string(), v.maxLength(max));
export const idSchema = v.pipe(v.string(), v.uuid());
export const hashSchema = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/, 'must be a SHA-256 in hexadecimal'));
export const nameSchema = v.pipe(
  v.string(),
  v.transform((name) => wellFormed(name)),
  v.trim(),
  v.minLength(1, 'a name is needed'),
  v.maxLength(LIMITS.name, `at most ${LIMITS.name} characters`),
);

/** Any text as a name that a list can hold: well-formed, not empty, no longer than it may be. */
export function asName(text: string, otherwise = 'unnamed'): string {
  return shortened(wellFormed(text).trim(), LIMITS.name).trim() || otherwise;
}

export const finite = v.pipe(v.number(), v.finite());

/** A fault as it crosses the border: the same shape as in the core. */
export const faultSchema = v.object({
  code: text(60),
  message: text(2000),
  where: v.object({
    file: v.optional(text(400)),
    line: v.optional(finite),
    joint: v.optional(text(400)),
    frame: v.optional(finite),
  }),
});
export const errorSchema = v.object({ error: faultSchema });
export type ErrorBody = v.InferOutput<typeof errorSchema>;
/** The answer to an edit that was made from an older version of its row (409): what the row is now, or null where it is gone. */
export const conflictSchema = v.object({ error: faultSchema, current: v.unknown() });

export const count = v.pipe(v.number(), v.integer(), v.minValue(0));

/** Version of a row, counted up by each edit. */
export const versionNumber = v.pipe(count, v.minValue(1));
