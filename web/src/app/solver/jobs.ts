import {
  DEFAULT_RECIPE,
  FaultError,
  JobMemory,
  measuredOn,
  prepare,
  prepareAny,
  prepareTake,
  readMotionFile,
  type Clip,
  type Job,
  type MotionFile,
  type Ready,
  type Recipe,
  type Rig,
  type SkeletonChoices,
  useDraco,
  decisionsOf,
  pairingOf,
} from '@hollow-stride/core';
import type { BodySource, FileSource, PairRequest, TakeSource } from './messages';
import { faceOf } from './recordings';

// The decoder of Draco meshes comes from the server, when the first packed mesh is read.
useDraco(async () => {
  const [{ default: draco }, response] = await Promise.all([
    import('draco3dgltf/draco_decoder_gltf_nodejs.js'),
    fetch('/draco/draco_decoder_gltf.wasm'),
  ]);
  if (!response.ok) throw new Error(`the server answered ${response.status}`);
  return draco({ wasmBinary: await response.arrayBuffer() });
});

/** Files read so far, the latest few, and what the core made of them: a changed setting makes again only what depends on it. */
const files = new Map<string, Promise<MotionFile>>();
const KEPT = 8;
export const memory = new JobMemory();

export function fileOf({ file, name }: Pick<FileSource, 'file' | 'name'>): Promise<MotionFile> {
  const found = files.get(file);
  if (found) {
    files.delete(file);
    files.set(file, found);
    return found;
  }
  const read = fetchFile(file, name);
  read.catch(() => files.delete(file));
  files.set(file, read);
  for (const old of files.keys()) if (files.size > KEPT) files.delete(old);
  return read;
}

async function fetchFile(file: string, name: string): Promise<MotionFile> {
  return readMotionFile(await contentOf(file, name), name);
}

/** The content of a file on the rack. @throws FaultError option */
export async function contentOf(file: string, name: string): Promise<Uint8Array> {
  const response = await fetch(file.startsWith('/') ? file : `/api/files/${file}`);
  if (!response.ok) {
    throw new FaultError({
      code: 'option',
      message: `the file cannot be fetched: the server answered ${response.status}`,
      where: { file: name },
    });
  }
  return new Uint8Array(await response.arrayBuffer());
}

/** Decisions about a skeleton with the measure of the file that speaks for it, unless they bring one of their own. */
export async function choicesOf({ skeleton, reference, file, clip }: BodySource): Promise<SkeletonChoices> {
  if (skeleton.reference || !reference || (reference.file === file && reference.clip === clip)) return skeleton;
  const source = await fileOf(reference);
  return memory.of('reference', [source, reference.clip, skeleton], () => measuredOn(skeleton, source, reference.clip));
}

/** A labelled body, or a rig that is none as it stands. */
export async function rigOf(source: BodySource): Promise<Rig> {
  const [file, choices] = await Promise.all([fileOf(source), choicesOf(source)]);
  return memory.of('rig', [file, source.clip, choices], () => prepareAny(file, source.clip, choices));
}

/** The take as it was set: trimmed, cleaned, on its floor. */
export async function takeOf(source: TakeSource): Promise<{ file: MotionFile; rig: Rig; clip: Clip }> {
  const [file, rig] = await Promise.all([fileOf(source), rigOf(source)]);
  return {
    file,
    rig,
    clip: memory.of('looked at', [rig, source.clip, source.choices], () => prepareTake(file, rig, source.clip, source.choices)),
  };
}

/** Every decision about a pair as a recipe: what is solved here, and what is exported, are the same. */
export async function recipeOf(
  { take, character, choices, touchUps, layers }: PairRequest,
  name: string,
  delivery?: Recipe['delivery'],
): Promise<Recipe> {
  const [performer, target] = await Promise.all([choicesOf(take), choicesOf(character)]);
  return {
    ...DEFAULT_RECIPE,
    name,
    performer,
    character: target,
    take: take.choices,
    pairing: pairingOf(choices),
    touchUps: [...touchUps],
    layers: [...layers],
    solve: decisionsOf(choices),
    ...(delivery ? { delivery } : {}),
  };
}

/** A pair as the core's own job. @param delivery how it is delivered, where it is */
export async function jobOf(pair: PairRequest, delivery?: Recipe['delivery']): Promise<Job> {
  const [take, character, recipe, face] = await Promise.all([
    fileOf(pair.take),
    fileOf(pair.character),
    recipeOf(pair, 'as on the page', delivery),
    pair.face && faceOf(pair.face),
  ]);
  return { take, clip: pair.take.clip, character, recipe, face };
}

/** A take on a character that nothing is decided about yet. @param fps frames a second of the result */
export async function decidedJob(take: TakeSource, character: MotionFile, fps: number): Promise<Job> {
  const [file, performer] = await Promise.all([fileOf(take), choicesOf(take)]);
  return {
    take: file,
    clip: take.clip,
    character,
    recipe: { ...DEFAULT_RECIPE, performer, take: take.choices, solve: { ...DEFAULT_RECIPE.solve, fps } },
  };
}

export async function readyOf(pair: PairRequest): Promise<Ready> {
  return prepare(await jobOf(pair), memory);
}
