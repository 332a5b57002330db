import { readFileSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { asFault, fitScheme, namesOfRoles, readMotionFile, type Fault, type NamingScheme } from '@hollow-stride/core';
import { LIMITS, type FactsJson, type MeshFactsJson, type RecordingFactsJson } from '@hollow-stride/contract';
import '@hollow-stride/core/formats/glb/dracoOnNode';
import { outward } from './errors';
import { readFacts } from './facts';
import type { Entry } from './intake/archive';
import { demoFiles, demoMeshes, demoRecordings } from './makeDemo';
import { readMesh } from './meshes';
import { readRecording } from './recordings';
import { assemble, madeOf } from './intake/assemble';
import { pack, type Packed, type PackJob } from './runs/pack';

/** Tasks of the pool's threads, by kind. */
export type Job =
  | { readonly kind: 'analyse'; readonly path: string; readonly name: string }
  | { readonly kind: 'record'; readonly path: string; readonly name: string }
  | { readonly kind: 'mesh'; readonly path: string; readonly name: string }
  | { readonly kind: 'assemble'; readonly entries: readonly Entry[]; readonly strict: boolean; readonly into: string }
  | { readonly kind: 'demo'; readonly into: string }
  | ({ readonly kind: 'pack' } & PackJob)
  | { readonly kind: 'label'; readonly path: string; readonly name: string; readonly scheme: NamingScheme };

export type AnalyseResult = { readonly facts: FactsJson } | { readonly fault: Fault };
export type MeshResult = { readonly facts: MeshFactsJson } | { readonly fault: Fault };
export type RecordResult = { readonly facts: RecordingFactsJson } | { readonly fault: Fault };
export type LabelResult = { readonly labels: Record<string, string>; readonly score: number } | { readonly fault: Fault };

/** A file of the demo production. */
export interface DemoPart {
  readonly name: string;
  readonly title: string;
  readonly tags: string[];
  readonly note: string;
  readonly location: string;
}

/** A recording of the demo production, and the take that it belongs to. */
export interface DemoRecordingPart {
  readonly name: string;
  readonly title: string;
  readonly take: string;
  readonly location: string;
}
export interface DemoParts {
  readonly files: readonly DemoPart[];
  readonly recordings: readonly DemoRecordingPart[];
  readonly meshes: readonly Omit<DemoRecordingPart, 'take'>[];
}

/** Files ready to be read, each whole at its place. */
export interface AssembleResult {
  readonly files: readonly { readonly name: string; readonly location: string }[];
  readonly faults: readonly { readonly name: string; readonly fault: Fault }[];
  readonly ignored: readonly string[];
}

/** A job of the worker pool. Faults come back as values. */
export default function work(
  job: Job,
): Promise<AnalyseResult | LabelResult | RecordResult | MeshResult | DemoParts | readonly Packed[] | void> | AssembleResult {
  switch (job.kind) {
    case 'analyse':
      return analyse(job);
    case 'record':
      return record(job);
    case 'mesh':
      return mesh(job);
    case 'label':
      return label(job);
    case 'demo':
      return demo(job);
    case 'pack':
      return pack(job);
    case 'assemble':
      return put(job);
  }
}

/** Makes the demo production's files in a folder. */
async function demo({ into }: { into: string }): Promise<DemoParts> {
  const put = (name: string, bytes: Uint8Array): string => {
    const location = join(into, name);
    writeFileSync(location, bytes);
    return location;
  };
  return {
    files: (await demoFiles()).map(({ bytes, tags, ...about }, i) => ({ ...about, tags: [...tags], location: put(`demo-${i}`, bytes) })),
    recordings: demoRecordings().map(({ bytes, ...about }, i) => ({ ...about, location: put(`recording-${i}`, bytes) })),
    meshes: demoMeshes().map(({ bytes, ...about }, i) => ({ ...about, location: put(`mesh-${i}`, bytes) })),
  };
}

/** Reads a recording and says what it holds. */
async function record({ path, name }: { path: string; name: string }): Promise<RecordResult> {
  try {
    return { facts: await readRecording(await readFile(path), name) };
  } catch (error) {
    return { fault: outward(asFault(error, name)) };
  }
}

/** Reads a mesh and says what it holds. */
async function mesh({ path, name }: { path: string; name: string }): Promise<MeshResult> {
  try {
    return { facts: await readMesh(await readFile(path), name) };
  } catch (error) {
    return { fault: outward(asFault(error, name)) };
  }
}

/** Reads a file and says what it holds. */
async function analyse({ path, name }: { path: string; name: string }): Promise<AnalyseResult> {
  try {
    return { facts: await readFacts(await readFile(path), name) };
  } catch (error) {
    return { fault: outward(asFault(error, name)) };
  }
}

/** Labels a file's skeleton by a naming scheme. */
async function label({ path, name, scheme }: { path: string; name: string; scheme: NamingScheme }): Promise<LabelResult> {
  try {
    const { skeleton } = await readMotionFile(await readFile(path), name);
    const { roles, score } = fitScheme(scheme, skeleton);
    return { labels: { ...namesOfRoles(skeleton, roles) }, score };
  } catch (error) {
    return { fault: outward(asFault(error, name)) };
  }
}

/** Limit on the parts of one request or archive together, bytes. */
const MOST_TOGETHER = 2 * LIMITS.fileBytes;

/** Puts together what belongs together; each result is written before the next is begun. */
function put({ entries, strict, into }: { entries: readonly Entry[]; strict: boolean; into: string }): AssembleResult {
  const { files, faults, ignored } = assemble(entries, strict, ({ location }) => readFileSync(location), MOST_TOGETHER);
  const bad = [...faults];
  const out = files.flatMap((file, i) => {
    if ('whole' in file) return [{ name: file.name, location: file.whole.location }];
    const made = madeOf(file.name, file.make);
    if (!(made instanceof Uint8Array)) {
      bad.push({ name: file.name, fault: made });
      return [];
    }
    const location = join(into, `made-${i}`);
    writeFileSync(location, made);
    return [{ name: file.name, location }];
  });
  return { files: out, faults: bad.map(({ name, fault }) => ({ name, fault: outward(fault) })), ignored };
}
