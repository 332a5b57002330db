/** Recordings of faces and sounds, fetched for the solver's worker. */
import { FaultError, readFace, readWav, type FaceTrack, type Sound } from '@hollow-stride/core';
import type { RecordingSource } from './messages';

/** Recordings read last, by content. */
const faces = new Map<string, Promise<FaceTrack>>();
const sounds = new Map<string, Promise<Sound>>();
const KEPT = 4;

export const faceOf = (source: RecordingSource): Promise<FaceTrack> => kept(faces, source, readFace);
export const soundOf = (source: RecordingSource): Promise<Sound> =>
  kept(sounds, source, (bytes, name) => Promise.resolve(readWav(bytes, name)));

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
