import { and, asc, desc, eq, ilike, inArray, isNotNull, isNull, sql, type SQL } from 'drizzle-orm';
import { DEFAULT_TAKE, type TakeChoices } from '@hollow-stride/core';
import {
  LIMITS,
  TAKES_PAGE,
  type ChangeTake,
  type ChangeTakes,
  type FactsJson,
  type TakeJson,
  type TakeQuery,
  type TakesPage,
} from '@hollow-stride/contract';
import type { Database, Reader } from './db/open';
import { files, takes } from './db/schema';
import { Conflict, refuse } from './errors';

const onRack = isNull(takes.removedAt);

/** The takes that a query finds. */
function found({ text, tag, skeleton }: TakeQuery): SQL | undefined {
  // Typed text is searched for literally: % and _ are letters.
  const like = `%${text.trim().replace(/[\\%_]/g, '\\$&')}%`;
  return and(
    onRack,
    text.trim() === '' ? undefined : ilike(takes.name, like),
    skeleton === '' ? undefined : eq(files.skeleton, skeleton),
    tag === '' ? undefined : sql`${takes.tags} @> ${JSON.stringify([tag])}::jsonb`,
  );
}

/** By skeleton, in the order in which skeletons came; within each as the query wants it. */
function inOrder(order: TakeQuery['order']): SQL[] {
  const first = sql`min(${takes.addedAt}) over (partition by ${files.skeleton})`;
  const own = order === 'name' ? [asc(sql`lower(${takes.name})`)] : order === 'length' ? [desc(takes.seconds)] : [];
  return [asc(first), asc(files.skeleton), ...own, asc(takes.addedAt), asc(takes.clip), asc(takes.id)];
}

/** One page of the takes that a query finds, with what the list needs to know of the others. */
export async function listTakes(db: Database, query: TakeQuery, from: number): Promise<TakesPage> {
  const where = found(query);
  const [ids, groups, all, tags] = await Promise.all([
    idsOf(db, query).limit(TAKES_PAGE).offset(from),
    db
      .select({ skeleton: files.skeleton, count: sql<number>`count(*)::int` })
      .from(takes)
      .innerJoin(files, eq(takes.file, files.hash))
      .where(where)
      .groupBy(files.skeleton)
      .orderBy(sql`min(${takes.addedAt})`, files.skeleton),
    db.$count(takes, onRack),
    db
      .selectDistinct({ tag: sql<string>`tag` })
      .from(sql`${takes}, jsonb_array_elements_text(${takes.tags}) as tag`)
      .where(onRack)
      .orderBy(sql`tag`),
  ]);
  const rows = new Map(
    (ids.length === 0
      ? []
      : await takeRows(
          db,
          inArray(
            takes.id,
            ids.map(({ id }) => id),
          ),
        )
    ).map((row) => [row.id, row]),
  );
  return {
    takes: ids.flatMap(({ id }) => rows.get(id) ?? []),
    groups: groups.map(({ skeleton, count }) => ({ skeleton: skeleton!, count })),
    total: groups.reduce((sum, { count }) => sum + count, 0),
    all,
    tags: tags.map(({ tag }) => tag),
  };
}

/** All takes that a query finds, in the order of the list. */
export async function takeIds(db: Database, query: TakeQuery): Promise<string[]> {
  return (await idsOf(db, query)).map(({ id }) => id);
}

function idsOf(db: Database, query: TakeQuery) {
  return db
    .select({ id: takes.id })
    .from(takes)
    .innerJoin(files, eq(takes.file, files.hash))
    .where(found(query))
    .orderBy(...inOrder(query.order))
    .$dynamic();
}

export async function takeRows(db: Reader, where: SQL | undefined): Promise<TakeJson[]> {
  const rows = await db
    .select()
    .from(takes)
    .innerJoin(files, eq(takes.file, files.hash))
    .where(where)
    .orderBy(takes.addedAt, takes.clip)
    .limit(LIMITS.rackItems);
  return rows.map(({ takes: t, files: f }) => ({
    id: t.id,
    version: t.version,
    name: t.name,
    file: t.file,
    fileName: f.name,
    bytes: f.bytes,
    clip: t.clip,
    skeleton: f.skeleton!,
    tags: t.tags,
    note: t.note,
    choices: t.choices ?? DEFAULT_TAKE,
    // Faults in the file's other motions are reported on their own lines.
    facts: { ...f.facts, clips: f.facts.clips.map((clip, i) => (i === t.clip ? clip : { ...clip, faults: [] })) },
    isDemo: t.isDemo,
    addedAt: t.addedAt.toISOString(),
  }));
}

/** Changes settings, tags or note of a take. @throws Refusal 404, Conflict */
export async function changeTake(db: Database, id: string, { base, ...change }: ChangeTake): Promise<TakeJson> {
  const rows = await db
    .update(takes)
    .set({ ...change, version: base + 1 })
    .where(and(eq(takes.id, id), eq(takes.version, base)))
    .returning({ id: takes.id });
  const [now] = await takeRows(db, eq(takes.id, id));
  if (!now) refuse(404, 'the take is not on the rack');
  if (rows.length === 0) throw new Conflict('the take', now);
  return now;
}

/** Changes many takes as one. @returns those that are different now */
export async function changeTakes(db: Database, { takes: ids, change }: ChangeTakes): Promise<string[]> {
  const settled = settingOf(change);
  if (settled) return setTakes(db, ids, settled);
  const chosen = inArray(takes.id, ids);
  const has = change.kind === 'tag' || change.kind === 'untag' ? sql`${takes.tags} @> ${JSON.stringify([change.tag])}::jsonb` : sql`true`;
  const update = (set: Partial<Record<keyof typeof takes.$inferInsert, unknown>>, where: SQL | undefined) =>
    db
      .update(takes)
      .set({ ...(set as Partial<typeof takes.$inferInsert>), version: sql`${takes.version} + 1` })
      .where(and(chosen, where))
      .returning({ id: takes.id });
  const changed =
    change.kind === 'tag'
      ? update(
          { tags: sql`${takes.tags} || ${JSON.stringify([change.tag])}::jsonb` },
          and(sql`not (${has})`, sql`jsonb_array_length(${takes.tags}) < ${LIMITS.tags}`),
        )
      : change.kind === 'untag'
        ? update({ tags: sql`${takes.tags} - ${change.tag}::text` }, has)
        : change.kind === 'remove'
          ? update({ removedAt: new Date() }, onRack)
          : update({ removedAt: null }, isNotNull(takes.removedAt));
  return (await changed).map(({ id }) => id);
}

/** What a change of settings makes of one take's; undefined where it changes nothing. */
type Setting = (choices: TakeChoices, clip: FactsJson['clips'][number]) => TakeChoices | undefined;

/** A change of settings, if it is one. Each makes different only what its opposite puts back. */
function settingOf(change: ChangeTakes['change']): Setting | undefined {
  switch (change.kind) {
    case 'trim':
      return (choices, { faults, fps }) => {
        const rest = faults.find(({ kind, from }) => kind === 'rest' && from === 0);
        return rest && choices.from === null ? { ...choices, from: (rest.to + 1) / fps } : undefined;
      };
    case 'untrim':
      return (choices) => (choices.from === null ? undefined : { ...choices, from: null });
    case 'clean':
    case 'unclean': {
      const on = change.kind === 'clean';
      return ({ clean, ...choices }) =>
        clean.gaps === on || clean.spikes === on ? undefined : { ...choices, clean: { ...clean, gaps: on, spikes: on } };
    }
    case 'rate':
      return (choices) => (choices.rate === null ? { ...choices, rate: change.rate } : undefined);
    case 'unrate':
      return (choices) => (choices.rate === null ? undefined : { ...choices, rate: null });
    case 'start':
      return (choices, { frames, fps }) => {
        const end = Math.min(choices.to ?? Infinity, (frames - 1) / fps);
        return choices.from === null && change.seconds > 0 && change.seconds < end ? { ...choices, from: change.seconds } : undefined;
      };
    case 'reverse':
      return (choices) => ({ ...choices, reversed: !choices.reversed });
    case 'loop':
      return (choices) => (choices.loop ? undefined : { ...choices, loop: change.seconds });
    case 'unloop':
      return (choices) => (choices.loop ? { ...choices, loop: 0 } : undefined);
    default:
      return undefined;
  }
}

function setTakes(db: Database, ids: readonly string[], setting: Setting): Promise<string[]> {
  return db.transaction(async (tx) => {
    const rows = await tx
      .select({ id: takes.id, choices: takes.choices, clip: takes.clip, version: takes.version, facts: files.facts })
      .from(takes)
      .innerJoin(files, eq(takes.file, files.hash))
      .where(and(inArray(takes.id, [...ids]), onRack));
    const changed: string[] = [];
    for (const { id, choices, clip, version, facts } of rows) {
      const next = setting(choices ?? DEFAULT_TAKE, facts.clips[clip]);
      if (!next) continue;
      await tx
        .update(takes)
        .set({ choices: next, version: version + 1 })
        .where(eq(takes.id, id));
      changed.push(id);
    }
    return changed;
  });
}
