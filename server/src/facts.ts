import { factsOf, fail, readMotionFile, type MotionFile } from '@hollow-stride/core';
import { factsSchema, type FactsJson } from '@hollow-stride/contract';
import * as v from 'valibot';
import { describeIssue, tidied } from './border';
import { outward } from './errors';

const MOST_WARNINGS = 100;

/**
 * Facts about a file in the form of the contract: a file that could not be shown is not stored.
 * @throws FaultError of the readers, or one that says what of the file cannot be kept
 */
export async function readFacts(bytes: Uint8Array, name: string): Promise<FactsJson> {
  return storableFacts(await readMotionFile(bytes, name));
}

function storableFacts(file: MotionFile): FactsJson {
  const facts = factsOf(file);
  const whole = JSON.parse(JSON.stringify({ ...facts, warnings: facts.warnings.slice(0, MOST_WARNINGS).map(outward) })) as unknown;
  const result = v.safeParse(factsSchema, tidied(whole));
  if (result.success) return result.output;
  return fail('file/unknown-format', `what is in the file cannot be kept: ${describeIssue(result.issues[0])}`, { file: file.name });
}
