import {
  FaultError,
  makePairing,
  prepareBody,
  prepareTake,
  readMotionFile,
  solveSettings,
  type Body,
  type Clip,
  type MotionFile,
  type Pairing,
  type SolveSettings,
} from '@hollow-stride/core';
import type { BodySource, PairRequest, TakeSource } from './messages';

/** Files, bodies and takes made ready so far, the latest few: a changed setting does not read them again. */
const files = new Map<string, Promise<MotionFile>>();
const bodies = new Map<string, Promise<Body>>();
const takes = new Map<string, Promise<Clip>>();
const KEPT = 6;

function cached<T>(map: Map<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  const found = map.get(key);
  if (found) {
    map.delete(key);
    map.set(key, found);
    return found;
  }
  const made = make();
  made.catch(() => map.delete(key));
  map.set(key, made);
  for (const old of map.keys()) if (map.size > KEPT) map.delete(old);
  return made;
}

export function fileOf({ file, name }: Pick<BodySource, 'file' | 'name'>): Promise<MotionFile> {
  return cached(files, file, async () => {
    const response = await fetch(file.startsWith('/') ? file : `/api/files/${file}`);
    if (!response.ok) {
      throw new FaultError({
        code: 'option',
        message: `the file cannot be fetched: the server answered ${response.status}`,
        where: { file: name },
      });
    }
    return readMotionFile(new Uint8Array(await response.arrayBuffer()), name);
  });
}

const keyOf = ({ file, clip, skeleton }: BodySource): string => JSON.stringify([file, clip, skeleton]);

/** @throws FaultError when the skeleton cannot be labelled whole */
export function bodyOf(source: BodySource): Promise<Body> {
  return cached(bodies, keyOf(source), async () => prepareBody(await fileOf(source), source.clip, source.skeleton));
}

/** The take as it was set: trimmed, cleaned, on its floor. */
export function takeOf(source: TakeSource): Promise<Clip> {
  return cached(takes, keyOf(source) + JSON.stringify(source.choices), async () =>
    prepareTake(await bodyOf(source), source.clip, source.choices),
  );
}

export interface Pair {
  readonly pairing: Pairing;
  readonly clip: Clip;
  readonly settings: SolveSettings;
}

export async function pairOf({ take, character, choices }: PairRequest): Promise<Pair> {
  const [performer, target, clip] = await Promise.all([bodyOf(take), bodyOf(character), takeOf(take)]);
  return { pairing: makePairing(performer, target, choices), clip, settings: solveSettings(choices) };
}
