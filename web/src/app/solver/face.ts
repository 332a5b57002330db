/** Sounds and claps, in the solver's worker. */
import {
  clapsHeard,
  clapsSeen,
  FaultError,
  matchClaps,
  prepare,
  readFace,
  readWav,
  soundPeaks,
  type FaceTrack,
  type Ready,
  type Sound,
} from '@hollow-stride/core';
import { memory, jobOf } from './jobs';
import type { ClapsFound, FaceShown, PairRequest, RecordingSource, SoundShown } from './messages';

/** Parts of a sound that are drawn: no page is wider. */
const PARTS = 2000;

/** Recordings read last, by content. */
const faces = new Map<string, Promise<FaceTrack>>();
const sounds = new Map<string, Promise<Sound>>();
const KEPT = 4;

export const faceOf = (source: RecordingSource): Promise<FaceTrack> => kept(faces, source, readFace);
const soundOf = (source: RecordingSource): Promise<Sound> => kept(sounds, source, (bytes, name) => Promise.resolve(readWav(bytes, name)));

function kept<T>(
  of: Map<string, Promise<T>>,
  { file, name }: RecordingSource,
  read: (bytes: Uint8Array, name: string) => Promise<T>,
): Promise<T> {
  const found = of.get(file);
  if (found) return found;
  const made = fetched(file, name).then((bytes) => read(bytes, name));
  made.catch(() => of.delete(file));
  of.set(file, made);
  for (const old of of.keys()) if (of.size > KEPT) of.delete(old);
  return made;
}

async function fetched(file: string, name: string): Promise<Uint8Array> {
  const response = await fetch(`/api/files/${file}`);
  if (response.ok) return new Uint8Array(await response.arrayBuffer());
  const message = `the recording cannot be fetched: the server answered ${response.status}`;
  throw new FaultError({ code: 'option', message, where: { file: name } });
}

export async function showSound(source: RecordingSource): Promise<SoundShown> {
  const sound = await soundOf(source);
  return { seconds: sound.samples.length / sound.rate, peaks: soundPeaks(sound, PARTS), claps: clapsHeard(sound) };
}

/** Where a sound must begin for the claps that are heard and seen to agree. */
export async function findClaps(pair: PairRequest, source: RecordingSource): Promise<ClapsFound> {
  const [sound, job] = await Promise.all([soundOf(source), jobOf(pair)]);
  const { performer, take, own } = prepare(job, memory);
  const seen = clapsSeen(performer, take).map((clap) => ({ ...clap, at: own.start + clap.at / own.pace }));
  return { seen, found: matchClaps(clapsHeard(sound), seen) };
}

/** A face as the page shows it; what the worker made of the recording stays here. */
export function faceShown({ face, job }: Pick<Ready, 'face' | 'job'>): FaceShown | undefined {
  const set = job.recipe.take.face;
  return face && set ? { track: face.track, offset: set.offset, table: face.table, weights: face.weights } : undefined;
}
