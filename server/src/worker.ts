import { readFile } from 'node:fs/promises';
import { asFault, factsOf, readMotionFile, type Fault } from '@hollow-stride/core';
import type { FactsJson } from '@hollow-stride/contract';

export type AnalyseResult = { readonly facts: FactsJson } | { readonly fault: Fault };

/** A job of the worker pool: reads a file and says what it holds. Faults come back as values. */
export default async function analyse({ path, name }: { path: string; name: string }): Promise<AnalyseResult> {
  try {
    const facts = factsOf(await readMotionFile(await readFile(path), name));
    return { facts: JSON.parse(JSON.stringify(facts)) as FactsJson };
  } catch (error) {
    return { fault: asFault(error, name) };
  }
}
