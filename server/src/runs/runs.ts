import { and, asc, desc, eq, inArray, isNull, lt, sql } from 'drizzle-orm';
import {
  DEFAULT_DECISIONS,
  DEFAULT_PAIRING,
  DEFAULT_TAKE,
  lengthOf,
  namesBy,
  REQUIRED_ROLES,
  trueFrameTime,
  type TakeChoices,
} from '@hollow-stride/core';
import {
  type ChangeRunItem,
  type CountPairs,
  type FactsJson,
  type PairCount,
  type ReportJson,
  type RunAct,
  type RunItemJson,
  type RunItemsJson,
  type RunJson,
  type RunOutput,
  type SolveChoices,
  type StartRun,
} from '@hollow-stride/contract';
import type { Database, Reader } from '../db/open';
import { characters, files, pairings, runItems, runs, takes, type RunDecisions } from '../db/schema';
import { Conflict, refuse } from '../errors';
import { recordingsById } from '../recordings';
import { skeletonRows } from '../skeletons';

const MOST_RUNS = 200;
const DEFAULT_CHOICES: SolveChoices = { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS, touchUps: [], layers: [] };

/** Starts a run: what is decided now is kept with it. @throws Refusal 404 when a take or character is not on the rack */
export async function startRun(db: Database, { name, takes: takeIds, characters: characterIds, output }: StartRun): Promise<RunJson> {
  const id = await db.transaction(async (tx) => {
    const decisions = await decisionsFor(tx, [...new Set(takeIds)], [...new Set(characterIds)]);
    const [{ id: run }] = await tx.insert(runs).values({ name, output, decisions }).returning({ id: runs.id });
    const pairs = pairsOf(decisions);
    if (pairs.length === 0)
      refuse(409, 'none of the takes goes with one of the characters: pair rigs that are no bodies joint by joint on Match');
    const { names } = namesBy(
      output.pattern,
      pairs.map(({ take, character }, i) => ({
        take: decisions.takes[take].name,
        character: decisions.characters[character].name,
        ...lengthOfItem(decisions, output, take, character),
        number: i + 1,
      })),
    );
    for (let at = 0; at < pairs.length; at += 500) {
      await tx
        .insert(runItems)
        .values(pairs.slice(at, at + 500).map((pair, i) => ({ ...pair, run, position: at + i, fileName: names[at + i] })));
    }
    return run;
  });
  return (await runRows(db, [id]))[0];
}

/** How many transfers a run would have, and how many pairs it would leave out. @throws Refusal 404 */
export async function countPairs(db: Database, { takes: takeIds, characters: characterIds }: CountPairs): Promise<PairCount> {
  const decisions = await decisionsFor(db, [...new Set(takeIds)], [...new Set(characterIds)]);
  const transfers = pairsOf(decisions).length;
  return { transfers, left: Object.keys(decisions.takes).length * Object.keys(decisions.characters).length - transfers };
}

/** Pairs that go together: two bodies, or two rigs that are paired joint by joint. */
function pairsOf({
  takes: takeList,
  characters: characterList,
  pairings: pairingList,
}: RunDecisions): { take: string; character: string }[] {
  return Object.entries(takeList).flatMap(([take, { skeleton, isBody }]) =>
    Object.entries(characterList)
      .filter(([id, character]) => Boolean(pairingList[`${skeleton} ${id}`].byJoint) || (isBody !== false && character.isBody !== false))
      .map(([character]) => ({ take, character })),
  );
}

/** Rate and frames of an item's file. A take whose range is empty has none: it fails when it is its turn, and says why. */
function lengthOfItem(decisions: RunDecisions, output: RunOutput, take: string, character: string): { fps: number; frames: number } {
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

/** Removes runs that were removed from the rack before some time, with their items. @returns how many */
export async function forgetRuns(db: Database, before: Date): Promise<number> {
  const rows = await db.delete(runs).where(lt(runs.removedAt, before)).returning({ id: runs.id });
  return rows.length;
}

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

/** Runs on the rack, the newest first. @param ids those alone */
export async function runRows(db: Database, ids?: readonly string[]): Promise<RunJson[]> {
  const count = (state: string) => sql<number>`count(*) filter (where ${runItems.state} = ${state})::int`;
  const rows = await db
    .select({
      id: runs.id,
      version: runs.version,
      name: runs.name,
      state: runs.state,
      output: runs.output,
      startedAt: runs.startedAt,
      waiting: count('waiting'),
      working: count('working'),
      done: count('done'),
      failed: count('failed'),
      cancelled: count('cancelled'),
      spent: sql<number>`coalesce(sum(${runItems.seconds}), 0)::float8`,
    })
    .from(runs)
    .leftJoin(runItems, eq(runItems.run, runs.id))
    .where(ids ? inArray(runs.id, [...ids]) : isNull(runs.removedAt))
    .groupBy(runs.id)
    .orderBy(desc(runs.startedAt))
    .limit(MOST_RUNS);
  return rows.map(({ startedAt, ...row }) => ({ ...row, startedAt: startedAt.toISOString() }));
}

export async function runOf(db: Database, id: string): Promise<RunJson> {
  const [row] = await runRows(db, [id]);
  return (row as RunJson | undefined) ?? refuse(404, 'there is no such run');
}

/** Columns of an item that lists need: not its whole report. */
const LISTED = {
  id: runItems.id,
  version: runItems.version,
  run: runItems.run,
  take: runItems.take,
  character: runItems.character,
  takeName: takes.name,
  characterName: characters.name,
  tags: takes.tags,
  state: runItems.state,
  fault: runItems.fault,
  summary: runItems.summary,
  fileName: runItems.fileName,
  format: runItems.format,
  bytes: runItems.bytes,
  reduced: runItems.reduced,
  seconds: runItems.seconds,
  review: runItems.review,
  note: runItems.note,
};

function listed(db: Database) {
  return db
    .select(LISTED)
    .from(runItems)
    .innerJoin(takes, eq(runItems.take, takes.id))
    .innerJoin(characters, eq(runItems.character, characters.id));
}

export async function itemsOf(db: Database, run: string, from: number, most: number): Promise<RunItemsJson> {
  const [whole, items, total] = await Promise.all([
    runOf(db, run),
    listed(db).where(eq(runItems.run, run)).orderBy(asc(runItems.position)).limit(most).offset(from),
    db.$count(runItems, eq(runItems.run, run)),
  ]);
  return { run: whole, items, total };
}

export async function itemOf(db: Database, id: string): Promise<RunItemJson> {
  const [item] = await listed(db).where(eq(runItems.id, id));
  return (item as RunItemJson | undefined) ?? refuse(404, 'there is no such item');
}

/** Report of an item, the content of its file, and its inputs. */
export async function itemWhole(
  db: Database,
  id: string,
): Promise<{ item: RunItemJson; report: ReportJson | null; file: string | null; output: RunOutput; decisions: RunDecisions }> {
  const [row] = await db
    .select({ report: runItems.report, file: runItems.file, output: runs.output, decisions: runs.decisions })
    .from(runItems)
    .innerJoin(runs, eq(runItems.run, runs.id))
    .where(eq(runItems.id, id));
  if (!row) refuse(404, 'there is no such item');
  return { item: await itemOf(db, id), ...row };
}

/** Reviews an item or notes something of it. @throws Refusal 404, Conflict */
export async function changeItem(db: Database, id: string, { base, ...change }: ChangeRunItem): Promise<RunItemJson> {
  const rows = await db
    .update(runItems)
    .set({ ...change, version: base + 1 })
    .where(and(eq(runItems.id, id), eq(runItems.version, base)))
    .returning({ id: runItems.id });
  const item = await itemOf(db, id);
  if (rows.length === 0) throw new Conflict('the item', item);
  return item;
}

/** Pauses, resumes or cancels a run, or puts what failed or was cancelled back into the queue. */
export async function actOn(db: Database, id: string, act: RunAct): Promise<void> {
  await runOf(db, id);
  await db.transaction(async (tx) => {
    if (act === 'pause')
      await tx
        .update(runs)
        .set({ state: 'paused' })
        .where(and(eq(runs.id, id), eq(runs.state, 'going')));
    if (act === 'resume' || act === 'retry') await tx.update(runs).set({ state: 'going' }).where(eq(runs.id, id));
    if (act === 'cancel') {
      await tx.update(runs).set({ state: 'cancelled' }).where(eq(runs.id, id));
      await tx
        .update(runItems)
        .set({ state: 'cancelled', claimedBy: null })
        .where(and(eq(runItems.run, id), inArray(runItems.state, ['waiting', 'working'])));
    }
    if (act === 'retry') {
      await tx
        .update(runItems)
        .set({ state: 'waiting', fault: null, claimedBy: null })
        .where(and(eq(runItems.run, id), inArray(runItems.state, ['failed', 'cancelled'])));
    }
  });
}

/** Puts items first: those that are on screen. */
export async function putFirst(db: Database, run: string, items: readonly string[]): Promise<void> {
  await db
    .update(runItems)
    .set({ priority: 0 })
    .where(and(eq(runItems.run, run), eq(runItems.state, 'waiting'), sql`${runItems.priority} > 0`));
  if (items.length > 0)
    await db
      .update(runItems)
      .set({ priority: 1 })
      .where(and(eq(runItems.run, run), inArray(runItems.id, [...items])));
}
