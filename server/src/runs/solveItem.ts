import { readFile, writeFile } from 'node:fs/promises';
import { asFault, JobMemory, readMotionFile, shortened, type Fault, type MotionFile } from '@hollow-stride/core';
import { LIMITS, type ReportJson, type SummaryJson } from '@hollow-stride/contract';
import '@hollow-stride/core/formats/glb/dracoOnNode';
import { makeLane } from './makeLane';
import { makeTransfer } from './makeTransfer';
import { outward } from '../errors';
import { bodiesOf, isLane, nameOf, type WorkSpec } from './spec';

/** A worker thread's job: what to make, where contents lie, and where the written file goes. */
export interface ItemJob {
  readonly spec: WorkSpec;
  /** Where each content lies, by its hash. */
  readonly paths: Readonly<Record<string, string>>;
  readonly into: string;
}

export type ItemResult =
  | {
      readonly summary: SummaryJson;
      readonly report: ReportJson;
      readonly reduced: { share: number; worst: number } | null;
      readonly format: 'bvh' | 'glb';
    }
  | { readonly fault: Fault };

/** Files read last in this thread, and what was made of them: the items of a run share takes and characters. */
const files = new Map<string, { readonly file: MotionFile; readonly bytes: number }>();
const KEPT = 16;
const MOST_BYTES = 128 * 2 ** 20;
let memory = new JobMemory(KEPT);

async function fileOf(path: string, hash: string, name: string): Promise<MotionFile> {
  const key = `${hash} ${name}`;
  const found = files.get(key);
  files.delete(key);
  const read = found ?? (await readWhole(path, name));
  files.set(key, read);
  // The longest unused go first; the one that was asked for stays, however large.
  let held = [...files.values()].reduce((sum, { bytes }) => sum + bytes, 0);
  for (const [old, { bytes }] of files) {
    if (old === key || (files.size <= KEPT && held <= MOST_BYTES)) break;
    files.delete(old);
    held -= bytes;
  }
  return read.file;
}

async function readWhole(path: string, name: string): Promise<{ file: MotionFile; bytes: number }> {
  const content = await readFile(path);
  return { file: await readMotionFile(content, name), bytes: content.length };
}

/** Solves one item, writes its file, reads it back and judges what it holds. Faults come back as values. */
export async function solveItem({ spec, paths, into }: ItemJob): Promise<ItemResult> {
  try {
    const read = new Map<string, MotionFile>();
    for (const { body } of bodiesOf(spec)) read.set(body.file, await fileOf(paths[body.file], body.file, body.name));
    const { output, ...made } = isLane(spec)
      ? await makeLane(spec, read, memory)
      : await makeTransfer(spec, read, memory, (path) => readFile(paths[path]));
    await writeFile(into, output.bytes, { flush: true });
    return {
      summary: made.summary,
      report: {
        ...made.report,
        written: { motion: shortened(output.clip.name, LIMITS.name), unit: output.basis.metres, up: output.basis.up },
      },
      reduced: output.reduced ? { share: output.reduced.share, worst: output.reduced.worst * 1000 } : null,
      format: output.format,
    };
  } catch (error) {
    // A failed item may have left a partial file.
    memory = new JobMemory(KEPT);
    return { fault: outward(asFault(error, nameOf(spec))) };
  }
}
