/** Runs are started: what goes into one, and what is decided about it then. */
import { and, eq, inArray, isNull } from 'drizzle-orm';
import {
  DEFAULT_DECISIONS,
  DEFAULT_PAIRING,
  DEFAULT_TAKE,
  laneFrames,
  lengthOf,
  namesBy,
  plays,
  REQUIRED_ROLES,
  takesOfClip,
  trueFrameTime,
  type Length,
  type ReelContent,
  type TakeChoices,
} from '@hollow-stride/core';
import {
  MOST_ITEMS,
  type CountPairs,
  type FactsJson,
  type PairCount,
  type RunJson,
  type RunOutput,
  type SolveChoices,
  type StartRun,
} from '@hollow-stride/contract';
import type { Database, Reader } from '../db/open';
import { characters, files, pairings, reels, runItems, runs, takes, type LaneItem, type RunDecisions } from '../db/schema';
import { refuse } from '../errors';
import { recordingsById } from '../recordings';
import { skeletonRows } from '../skeletons';

import { runRows } from './runs';

const DEFAULT_CHOICES: SolveChoices = { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS, touchUps: [], layers: [] };

/** Starts a run: what is decided now is kept with it. @throws Refusal 404 when a take or character is not on the rack */
export async function startRun(
  db: Database,
  { name, takes: takeIds, characters: characterIds, reels: reelIds, output }: StartRun,
): Promise<RunJson> {
  const id = await db.transaction(async (tx) => {
    const reelList = await reelsFor(tx, [...new Set(reelIds)]);
    const played = Object.values(reelList).flatMap(({ content }) => content.lanes.filter(plays));
    const decisions = {
      ...(await decisionsFor(
        tx,
        [...new Set([...takeIds, ...played.flatMap(({ clips }) => clips.flatMap(takesOfClip))])],
        [...new Set([...characterIds, ...played.map(({ character }) => character)])],
      )),
      reels: reelList,
    };
    const [{ id: run }] = await tx.insert(runs).values({ name, output, decisions }).returning({ id: runs.id });
    const items = [...pairsOf(decisions, takeIds, characterIds).map((pair) => ({ ...pair, lane: null })), ...lanesOf(reelList)];
    if (items.length === 0)
      refuse(
        409,
        takeIds.length > 0
          ? 'none of the takes goes with one of the characters: pair rigs that are no bodies joint by joint on Match'
          : 'no lane of the reels is on and has a clip',
      );
    if (items.length > MOST_ITEMS) refuse(409, `at most ${MOST_ITEMS} files in one run; these would be ${items.length}`);
    const { names } = namesBy(
      output.pattern,
      items.map((item, i) => ({
        take: item.lane?.name ?? decisions.takes[item.take].name,
        character: decisions.characters[item.character].name,
        ...lengthOfItem(decisions, output, item),
        number: i + 1,
      })),
    );
    for (let at = 0; at < items.length; at += 500) {
      await tx
        .insert(runItems)
        .values(items.slice(at, at + 500).map((item, i) => ({ ...item, run, position: at + i, fileName: names[at + i] })));
    }
    return run;
  });
  return (await runRows(db, [id]))[0];
}

/** Reels as they are now. @throws Refusal 404 */
async function reelsFor(db: Reader, ids: readonly string[]): Promise<NonNullable<RunDecisions['reels']>> {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select()
          .from(reels)
          .where(and(inArray(reels.id, [...ids]), isNull(reels.removedAt)));
  if (rows.length < ids.length) refuse(404, 'a reel of the run is not on the rack any more');
  // Only lanes that play: what the others hold is nothing to the run, and may be gone.
  const ready = (content: ReelContent): ReelContent => ({
    ...content,
    lanes: content.lanes.map((lane) => (plays(lane) ? lane : { ...lane, on: false, clips: [] })),
  });
  const byId = new Map(rows.map((row) => [row.id, row]));
  return Object.fromEntries(ids.map((id) => [id, { name: byId.get(id)!.name, content: ready(byId.get(id)!.content) }]));
}

/** The lanes of reels that play, as items. */
function lanesOf(reelList: NonNullable<RunDecisions['reels']>): { take: string; character: string; lane: LaneItem }[] {
  return Object.entries(reelList).flatMap(([reel, { name, content }]) =>
    content.lanes.flatMap((lane, index) =>
      plays(lane)
        ? [{ take: takesOfClip(lane.clips[0])[0], character: lane.character, lane: { reel, index, name: `${name}: ${lane.name}` } }]
        : [],
    ),
  );
}

/** How many transfers a run would have, and how many pairs it would leave out. @throws Refusal 404 */
export async function countPairs(db: Database, { takes: takeIds, characters: characterIds }: CountPairs): Promise<PairCount> {
  const decisions = await decisionsFor(db, [...new Set(takeIds)], [...new Set(characterIds)]);
  const transfers = pairsOf(decisions, takeIds, characterIds).length;
  return { transfers, left: Object.keys(decisions.takes).length * Object.keys(decisions.characters).length - transfers };
}

/** Pairs that go together: two bodies, or two rigs that are paired joint by joint. */
function pairsOf(
  decisions: RunDecisions,
  takeIds: readonly string[],
  characterIds: readonly string[],
): { take: string; character: string }[] {
  const goes = (take: string, character: string): boolean => {
    const { skeleton, isBody } = decisions.takes[take];
    const bodies = isBody !== false && decisions.characters[character].isBody !== false;
    return bodies || Boolean(decisions.pairings[`${skeleton} ${character}`].byJoint);
  };
  return [...new Set(takeIds)].flatMap((take) =>
    [...new Set(characterIds)].filter((character) => goes(take, character)).map((character) => ({ take, character })),
  );
}

/** Rate and frames of an item's file. A take whose range is empty has none: it fails when it is its turn, and says why. */
function lengthOfItem(
  decisions: RunDecisions,
  output: RunOutput,
  { take, character, lane }: { take: string; character: string; lane: LaneItem | null },
): { fps: number; frames: number } {
  if (lane) {
    const { content } = decisions.reels![lane.reel];
    const fps = output.fps ?? content.fps;
    const result = (of: string): Length => {
      const { fps: own, frames } = lengthOfItem(decisions, { ...output, fps: null }, { take: of, character, lane: null });
      return { frames, frameTime: 1 / own };
    };
    return { fps, frames: laneFrames(content.lanes[lane.index], fps, result) };
  }
  const { skeleton, choices, length } = decisions.takes[take];
  const { fps } = decisions.pairings[`${skeleton} ${character}`];
  try {
    return lengthOf(
      { ...length, frameTime: trueFrameTime(1 / length.fps, RATE_ROUNDED / length.fps ** 2), name: '' },
      choices,
      output.fps ?? fps,
    );
  } catch {
    return { fps: length.fps, frames: 0 };
  }
}

/** Facts have rates to the thousandth. */
const RATE_ROUNDED = 0.0005;

/** All that the items of a run depend on, as it is decided now. */
async function decisionsFor(db: Reader, takeIds: readonly string[], characterIds: readonly string[]): Promise<RunDecisions> {
  const takeRows = await db
    .select()
    .from(takes)
    .innerJoin(files, eq(takes.file, files.hash))
    .where(and(inArray(takes.id, [...takeIds]), isNull(takes.removedAt)));
  const characterRows = await db
    .select()
    .from(characters)
    .innerJoin(files, eq(characters.file, files.hash))
    .where(and(inArray(characters.id, [...characterIds]), isNull(characters.removedAt)));
  if (takeRows.length < takeIds.length || characterRows.length < characterIds.length) {
    refuse(404, 'a take or a character of the run is not on the rack any more');
  }
  const skeletonList = await skeletonRows(db as Database);
  const needed = new Set([...takeRows, ...characterRows].map(({ files: file }) => file.skeleton!));
  const pairingList = await db
    .select()
    .from(pairings)
    .where(inArray(pairings.character, [...characterIds]));
  const choicesOf = (performer: string, character: string): SolveChoices => {
    const row = pairingList.find((one) => one.performer === performer && one.character === character && one.removedAt === null);
    return row?.choices ?? DEFAULT_CHOICES;
  };
  /** Labels by hand count before those that were found. */
  const isBody = (skeleton: string, { labels }: FactsJson): boolean => {
    const byHand = skeletonList.find(({ id }) => id === skeleton)?.choices.labels;
    return byHand ? REQUIRED_ROLES.every((role) => role in byHand) : labels?.missing.length === 0;
  };
  const faces = await recordingsById(
    db,
    takeRows.flatMap(({ takes: { choices } }) => choices?.face?.recording ?? []),
  );
  const faceOf = (choices: TakeChoices | null): { face?: { file: string; name: string } } => {
    const found = faces.get(choices?.face?.recording ?? '');
    return found ? { face: { file: found.file, name: found.fileName } } : {};
  };
  const performers = new Set(takeRows.map(({ files: file }) => file.skeleton!));
  return {
    skeletons: Object.fromEntries(
      skeletonList.filter(({ id }) => needed.has(id)).map(({ id, choices, reference }) => [id, { choices, reference }]),
    ),
    pairings: Object.fromEntries(
      [...performers].flatMap((performer) => characterIds.map((one) => [`${performer} ${one}`, choicesOf(performer, one)])),
    ),
    takes: Object.fromEntries(
      takeRows.map(({ takes: take, files: file }) => [
        take.id,
        {
          name: take.name,
          file: take.file,
          fileName: file.name,
          clip: take.clip,
          skeleton: file.skeleton!,
          choices: take.choices ?? DEFAULT_TAKE,
          ...faceOf(take.choices),
          length: { frames: file.facts.clips[take.clip].frames, fps: file.facts.clips[take.clip].fps },
          isBody: isBody(file.skeleton!, file.facts),
        },
      ]),
    ),
    characters: Object.fromEntries(
      characterRows.map(({ characters: character, files: file }) => [
        character.id,
        {
          name: character.name,
          file: character.file,
          fileName: file.name,
          skeleton: file.skeleton!,
          isBody: isBody(file.skeleton!, file.facts),
        },
      ]),
    ),
  };
}
