/** Sounds and claps, in the solver's worker. */
import { clapsHeard, clapsOf, prepare, soundPeaks, type ClapsFound, type Ready } from '@hollow-stride/core';
import { jobOf, memory } from './jobs';
import type { FaceShown, PairRequest, RecordingSource, SoundShown } from './messages';
import { soundOf } from './recordings';

/** Parts of a sound that are drawn: no page is wider. */
const PARTS = 2000;

export async function showSound(source: RecordingSource): Promise<SoundShown> {
  const sound = await soundOf(source);
  return { seconds: sound.samples.length / sound.rate, peaks: soundPeaks(sound, PARTS), claps: clapsHeard(sound) };
}

/** Where a sound must begin for the claps that are heard and seen to agree. */
export async function findClaps(pair: PairRequest, source: RecordingSource): Promise<ClapsFound> {
  const [sound, job] = await Promise.all([soundOf(source), jobOf(pair)]);
  return clapsOf(prepare(job, memory), sound);
}

/** A face as the page shows it; what the worker made of the recording stays here. */
export function faceShown({ face, job }: Pick<Ready, 'face' | 'job'>): FaceShown | undefined {
  const set = job.recipe.take.face;
  return face && set ? { track: face.track, offset: set.offset, table: face.table, weights: face.weights } : undefined;
}
