import { toJsonSchema } from '@valibot/to-json-schema';
import { fail, RECORD_SCHEMAS } from '@hollow-stride/core';
import type { Output } from '../output';

const KINDS = Object.keys(RECORD_SCHEMAS) as (keyof typeof RECORD_SCHEMAS)[];

/** Prints the JSON Schema of a format of ours, or of all. */
export function schema(format: string | undefined, output: Output): void {
  const named = format === undefined ? undefined : KINDS.find((kind) => kind === format || kind === `hollow-stride/${format}`);
  if (format !== undefined && named === undefined) fail('option', `there is no format "${format}"; there are ${KINDS.join(', ')}`);
  const of = (kind: (typeof KINDS)[number]): object => toJsonSchema(RECORD_SCHEMAS[kind] as never, { errorMode: 'ignore' });
  const whole = named ? of(named) : Object.fromEntries(KINDS.map((kind) => [kind, of(kind)]));
  output.out(JSON.stringify(whole, null, 2));
}
