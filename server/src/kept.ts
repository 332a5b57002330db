import { asc, eq, isNull } from 'drizzle-orm';
import {
  LIMITS,
  productionLimitsSchema,
  type PresetJson,
  type ProductionLimits,
  type SavePreset,
  type SaveTouchUpSet,
  type SaveVersion,
  type TouchUpSetJson,
  type VersionJson,
} from '@hollow-stride/contract';
import * as v from 'valibot';
import type { Database, Reader } from './db/open';
import { characters, presets, sets, settings, versions } from './db/schema';
import { refuse } from './errors';
import { hasSkeleton } from './skeletons';

/** Versions of settings that are on the rack, oldest first. */
export async function versionRows(db: Reader): Promise<VersionJson[]> {
  const rows = await db.select().from(versions).where(isNull(versions.removedAt)).orderBy(asc(versions.addedAt)).limit(LIMITS.versions);
  return rows.map(versionJson);
}

/** Keeps settings of a pairing under a name. @throws Refusal 404, 409 */
export async function addVersion(db: Database, version: SaveVersion): Promise<VersionJson> {
  const [target] = await db.select({ id: characters.id }).from(characters).where(eq(characters.id, version.character));
  if (!target) refuse(404, 'the character is not on the rack');
  if (!(await hasSkeleton(db, version.performer))) refuse(404, 'the performer is not known');
  const count = await db.$count(versions, isNull(versions.removedAt));
  if (count >= LIMITS.versions) refuse(409, `there are ${count} versions already; remove some first`);
  const [row] = await db.insert(versions).values(version).returning();
  return versionJson(row);
}

/** Sets of touch-ups that are on the rack, oldest first. */
export async function setRows(db: Reader): Promise<TouchUpSetJson[]> {
  const rows = await db.select().from(sets).where(isNull(sets.removedAt)).orderBy(asc(sets.addedAt)).limit(LIMITS.sets);
  return rows.map(setJson);
}

/** Keeps touch-ups under a name. @throws Refusal 409 */
export async function addSet(db: Database, set: SaveTouchUpSet): Promise<TouchUpSetJson> {
  const count = await db.$count(sets, isNull(sets.removedAt));
  if (count >= LIMITS.sets) refuse(409, `there are ${count} sets of touch-ups already; remove some first`);
  const [row] = await db.insert(sets).values(set).returning();
  return setJson(row);
}

/** A row as the page has it. */
export function versionJson({ id, name, performer, character, choices, addedAt }: typeof versions.$inferSelect): VersionJson {
  return { id, name, performer, character, choices, addedAt: addedAt.toISOString() };
}

function setJson({ id, name, touchUps, addedAt }: typeof sets.$inferSelect): TouchUpSetJson {
  return { id, name, touchUps, addedAt: addedAt.toISOString() };
}

/** Ways of writing files that are on the rack, oldest first. */
export async function presetRows(db: Reader): Promise<PresetJson[]> {
  const rows = await db.select().from(presets).where(isNull(presets.removedAt)).orderBy(asc(presets.addedAt)).limit(LIMITS.sets);
  return rows.map(presetJson);
}

/** Keeps a way of writing files under a name. @throws Refusal 409 */
export async function addPreset(db: Database, preset: SavePreset): Promise<PresetJson> {
  const count = await db.$count(presets, isNull(presets.removedAt));
  if (count >= LIMITS.sets) refuse(409, `there are ${count} presets already; remove some first`);
  const [row] = await db.insert(presets).values(preset).returning();
  return presetJson(row);
}

export function presetJson({ id, name, output, addedAt }: typeof presets.$inferSelect): PresetJson {
  return { id, name, output, addedAt: addedAt.toISOString() };
}

/** Limits that were set for the production. */
export async function limitsRow(db: Reader): Promise<ProductionLimits> {
  const [row] = await db.select().from(settings).where(eq(settings.name, 'limits'));
  return checkedLimits((row as { value: unknown } | undefined)?.value);
}

/** Limits of the production as they were kept; none where nothing can be read. */
function checkedLimits(kept: unknown): ProductionLimits {
  const result = v.safeParse(productionLimitsSchema, kept ?? {});
  return result.success ? result.output : {};
}
