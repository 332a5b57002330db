import {
  asFault,
  fail,
  FaultError,
  findCycle,
  findJoining,
  JobMemory,
  joinMotions,
  playLane,
  plays,
  prepare,
  reelSource,
  takesOfClip,
  withTouches,
  writeLane,
  type DeliveryChoices,
  type Fault,
  type LaneMade,
  type Ready,
  type ReelLane,
  type ReelSource,
} from '@hollow-stride/core';
import { displayBody } from './display';
import { jobOf } from './jobs';
import type { FindRequest, PairRequest, ReelPlayed, ReelRequest, SolverGives } from './messages';
import { buffersOf, copyClip } from './clips';
import type { Outcome, Tell, Wanted } from './worker-host';

/** A result that a reel plays, with what made it. */
interface Result {
  readonly ready: Ready;
  readonly source: ReelSource;
}

/** Results and lanes made last; a reel of twenty clips on ten characters is held whole. */
const KEPT = 240;
const results = new Map<string, Promise<Result>>();
const made = new Map<string, LaneMade>();

function keep<T>(map: Map<string, T>, key: string, make: () => T): T {
  const found = map.get(key);
  const value = found ?? make();
  map.delete(key);
  map.set(key, value);
  for (const old of map.keys()) if (map.size > KEPT) map.delete(old);
  return value;
}

function resultOf(pair: PairRequest): Promise<Result> {
  const key = JSON.stringify(pair);
  const made = keep(results, key, async () => {
    const ready = prepare(await jobOf(pair), new JobMemory(1));
    return { ready, source: reelSource(ready) };
  });
  made.catch(() => results.delete(key));
  return made;
}

const pairOf = ({ pairs }: ReelRequest, take: string, character: string): PairRequest =>
  (pairs[`${take} ${character}`] as PairRequest | undefined) ??
  fail('option', 'a take or a character of the reel is not on the rack any more: remove its clip, or bring it back');

async function laneOf(request: ReelRequest, lane: ReelLane, solved?: () => void): Promise<{ ready: Ready; made: LaneMade }> {
  const sources = new Map<string, ReelSource>();
  let ready: Ready | undefined;
  for (const take of new Set(lane.clips.flatMap(takesOfClip))) {
    const result = await resultOf(pairOf(request, take, lane.character));
    sources.set(take, result.source);
    ready ??= result.ready;
    solved?.();
  }
  if (!ready) fail('option', `there is no clip on the lane "${lane.name}"`);
  const pairs = [...sources.keys()].map((take) => pairOf(request, take, lane.character));
  const lanePlayed = keep(made, JSON.stringify([request.content.fps, lane, pairs]), () =>
    playLane(ready.character, lane, request.content.fps, (take) => sources.get(take)!),
  );
  return { ready, made: lanePlayed };
}

type Played = { readonly ready: Ready; readonly made: LaneMade } | { readonly fault: Fault };

/**
 * All lanes of a reel, with what figures touch. A lane that cannot be played says why, and the others play.
 * @param solved told as each result is there
 * @returns undefined where the work is no longer wanted
 */
async function stageOf(request: ReelRequest, wanted: Wanted, solved?: (lane: ReelLane) => void): Promise<Played[] | undefined> {
  const { content } = request;
  const played: Played[] = [];
  for (const lane of content.lanes) {
    if (!plays(lane)) {
      played.push({ fault: { code: 'option', message: lane.on ? 'no clip' : 'off', where: {} } });
      continue;
    }
    if (!(await wanted())) return undefined;
    try {
      played.push(await laneOf(request, lane, () => solved?.(lane)));
    } catch (error) {
      played.push({ fault: asFault(error, lane.name) });
    }
  }
  if (content.touches.length === 0) return played;
  const figures = played.map((one) => ('made' in one ? { rig: one.ready.character, clip: one.made.clip } : undefined));
  const clips = withTouches(figures, content.touches, content.fps);
  return played.map((one, i) => ('made' in one ? { ...one, made: { ...one.made, clip: clips[i]! } } : one));
}

/** Plays a reel, telling how far it is. */
export async function playReel(request: ReelRequest, wanted: Wanted, tell: Tell): Promise<Outcome<SolverGives>> {
  const { content } = request;
  const on = content.lanes.filter(plays);
  const all = on.reduce((sum, lane) => sum + new Set(lane.clips.flatMap(takesOfClip)).size, 0);
  let done = 0;
  const stage = await stageOf(request, wanted, ({ name }) => tell(++done / (all + 1), `solving ${name}`));
  if (!stage) return undefined;
  const lanes = stage.map((one, i): ReelPlayed['lanes'][number] =>
    'fault' in one
      ? one
      : {
          display: displayBody(one.ready.character, one.ready.job.character, fileOf(request, content.lanes[i])),
          placed: one.made.placed,
          slide: one.made.slide,
          clip: copyClip(one.made.clip),
        },
  );
  const clips = lanes.flatMap((lane) => ('clip' in lane ? [lane.clip] : []));
  const frames = Math.max(0, ...clips.map((clip) => clip.frames));
  return { gives: { kind: 'reel', reel: { content, frames, lanes } }, buffers: buffersOf(...clips) };
}

const fileOf = (request: ReelRequest, lane: ReelLane): string =>
  pairOf(request, takesOfClip(lane.clips[0])[0], lane.character).character.file;

/** Looks for a cycle in a result, or for where one goes over into another. */
export async function find(what: FindRequest): Promise<Outcome<SolverGives>> {
  if (what.kind === 'cycle') return { gives: { kind: 'found', cycle: findCycle((await resultOf(what.pair)).source) } };
  const pieceOf = async ({ pair, from, to }: (typeof what)['a']) => {
    const { source } = await resultOf(pair);
    return { source, from: from ?? 0, to: to ?? (source.clip.frames - 1) * source.clip.frameTime };
  };
  return { gives: { kind: 'found', joining: findJoining(await pieceOf(what.a), await pieceOf(what.b)) } };
}

/** The file of a lane, or of several lanes of one character as motions by their names; each is read back before it is given. */
export async function deliverLanes(
  request: ReelRequest,
  indices: readonly number[],
  delivery: DeliveryChoices,
): Promise<Outcome<SolverGives>> {
  const files: Uint8Array<ArrayBuffer>[] = [];
  const stage = await stageOf(request, () => Promise.resolve(true));
  for (const index of indices) {
    const lane = request.content.lanes[index];
    const one = stage![index];
    if ('fault' in one) throw new FaultError(one.fault);
    const output = await writeLane(one.ready, lane, one.made.clip, delivery);
    files.push(output.bytes);
  }
  const bytes = files.length === 1 ? files[0] : joinMotions(files);
  return { gives: { kind: 'lane', bytes }, buffers: [bytes.buffer] };
}
