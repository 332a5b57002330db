import { shortened, wellFormed } from '@hollow-stride/core';
import * as v from 'valibot';
import { refuse } from './errors';

/** No request of ours nests deeper. */
const DEEPEST = 40;

/** Checks a request's part against its schema, its texts made well-formed first. @throws Refusal 400 that names the place */
export function checked<S extends v.GenericSchema>(schema: S, value: unknown): v.InferOutput<S> {
  const result = v.safeParse(schema, tidied(value));
  if (result.success) return result.output;
  return refuse(400, describeIssue(result.issues[0]));
}

/** The first issue a schema finds, with its place. */
export function describeIssue(issue: v.BaseIssue<unknown>): string {
  const path = issue.path?.map((part) => String(part.key)).join('.');
  const message = issue.received === 'undefined' ? 'it is missing' : issue.message;
  return path ? `${shortened(path, 200)}: ${message}` : message;
}

/** A value as JSON gives it, with all texts in it, keys too, such that a database takes them. */
export function tidied(value: unknown, depth = 0): unknown {
  if (depth > DEEPEST) refuse(400, 'the request nests too deep');
  if (typeof value === 'string') return wellFormed(value, true);
  if (Array.isArray(value)) return value.map((item) => tidied(item, depth + 1));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, item]) => [wellFormed(key), tidied(item, depth + 1)]));
}

/** Where a list is to begin, as a query says it. */
export const fromSchema = v.pipe(v.optional(v.string(), '0'), v.transform(Number), v.integer(), v.minValue(0), v.maxValue(2 ** 31 - 1));

/** A header by which a browser saves an answer under a name of any script (RFC 6266, RFC 8187). */
export const attachment = (name: string): string =>
  `attachment; filename*=UTF-8''${encodeURIComponent(name).replace(/['()*]/g, (sign) => `%${sign.charCodeAt(0).toString(16)}`)}`;
