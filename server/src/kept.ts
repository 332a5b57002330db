import { and, asc, eq, isNull } from 'drizzle-orm';
import {
  LIMITS,
  productionLimitsSchema,
  type LimitsJson,
  type NameTableJson,
  type JointSchemeJson,
  type PoseJson,
  type PresetJson,
  type ProductionLimits,
  type SaveJointScheme,
  type SaveNameTable,
  type SavePose,
  type SavePreset,
  type SaveTouchUpSet,
  type SaveVersion,
  type SetLimits,
  type TouchUpSetJson,
  type VersionJson,
} from '@hollow-stride/contract';
import * as v from 'valibot';
import type { Database, Reader } from './db/open';
import { characters, jointSchemes, nameTables, poses, presets, sets, settings, versions } from './db/schema';
import { Conflict, refuse } from './errors';
import { hasSkeleton } from './skeletons';

/** @param most of a kind that is kept by name @throws Refusal 409 where there are as many already */
export function hasRoom(count: number, what: string, most: number = LIMITS.sets): void {
  if (count >= most) refuse(409, `there are ${count} ${what} already; remove some first`);
}

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
  hasRoom(await db.$count(versions, isNull(versions.removedAt)), 'versions', LIMITS.versions);
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
  hasRoom(await db.$count(sets, isNull(sets.removedAt)), 'sets of touch-ups');
  const [row] = await db.insert(sets).values(set).returning();
  return setJson(row);
}

/** A row as the page has it. */
export function versionJson({ id, version, name, performer, character, choices, addedAt }: typeof versions.$inferSelect): VersionJson {
  return { id, version, name, performer, character, choices, addedAt: addedAt.toISOString() };
}

function setJson({ id, version, name, touchUps, addedAt }: typeof sets.$inferSelect): TouchUpSetJson {
  return { id, version, name, touchUps, addedAt: addedAt.toISOString() };
}

/** Poses that are on the rack, oldest first. */
export async function poseRows(db: Reader): Promise<PoseJson[]> {
  const rows = await db.select().from(poses).where(isNull(poses.removedAt)).orderBy(asc(poses.addedAt)).limit(LIMITS.sets);
  return rows.map(poseJson);
}

/** Keeps a pose under a name. @throws Refusal 409 */
export async function addPose(db: Database, pose: SavePose): Promise<PoseJson> {
  hasRoom(await db.$count(poses, isNull(poses.removedAt)), 'poses');
  const [row] = await db.insert(poses).values(pose).returning();
  return poseJson(row);
}

function poseJson({ id, version, name, pose, addedAt }: typeof poses.$inferSelect): PoseJson {
  return { id, version, name, pose, addedAt: addedAt.toISOString() };
}

/** Pairings joint by joint that are on the rack, oldest first. */
export async function jointSchemeRows(db: Reader): Promise<JointSchemeJson[]> {
  const rows = await db
    .select()
    .from(jointSchemes)
    .where(isNull(jointSchemes.removedAt))
    .orderBy(asc(jointSchemes.addedAt))
    .limit(LIMITS.sets);
  return rows.map(jointSchemeJson);
}

/** Keeps a pairing joint by joint under a name. @throws Refusal 409 */
export async function addJointScheme(db: Database, scheme: SaveJointScheme): Promise<JointSchemeJson> {
  hasRoom(await db.$count(jointSchemes, isNull(jointSchemes.removedAt)), 'joint schemes');
  const [row] = await db.insert(jointSchemes).values(scheme).returning();
  return jointSchemeJson(row);
}

function jointSchemeJson({ id, version, name, byJoint, addedAt }: typeof jointSchemes.$inferSelect): JointSchemeJson {
  return { id, version, name, byJoint, addedAt: addedAt.toISOString() };
}

/** Name tables that are on the rack, oldest first. */
export async function nameTableRows(db: Reader): Promise<NameTableJson[]> {
  const rows = await db.select().from(nameTables).where(isNull(nameTables.removedAt)).orderBy(asc(nameTables.addedAt)).limit(LIMITS.sets);
  return rows.map(nameTableJson);
}

/** Keeps a name table under a name. @throws Refusal 409 */
export async function addNameTable(db: Database, table: SaveNameTable): Promise<NameTableJson> {
  hasRoom(await db.$count(nameTables, isNull(nameTables.removedAt)), 'name tables');
  const [row] = await db.insert(nameTables).values(table).returning();
  return nameTableJson(row);
}

function nameTableJson({ id, version, name, table, addedAt }: typeof nameTables.$inferSelect): NameTableJson {
  return { id, version, name, table, addedAt: addedAt.toISOString() };
}

/** Ways of writing files that are on the rack, oldest first. */
export async function presetRows(db: Reader): Promise<PresetJson[]> {
  const rows = await db.select().from(presets).where(isNull(presets.removedAt)).orderBy(asc(presets.addedAt)).limit(LIMITS.sets);
  return rows.map(presetJson);
}

/** Keeps a way of writing files under a name. @throws Refusal 409 */
export async function addPreset(db: Database, preset: SavePreset): Promise<PresetJson> {
  hasRoom(await db.$count(presets, isNull(presets.removedAt)), 'presets');
  const [row] = await db.insert(presets).values(preset).returning();
  return presetJson(row);
}

function presetJson({ id, version, name, output, addedAt }: typeof presets.$inferSelect): PresetJson {
  return { id, version, name, output, addedAt: addedAt.toISOString() };
}

/** Limits that were set for the production. */
export async function limitsRow(db: Reader): Promise<LimitsJson> {
  const [row] = await db.select().from(settings).where(eq(settings.name, LIMITS_ROW));
  return row ? { version: row.version, limits: checkedLimits(row.value) } : { version: 0, limits: {} };
}

/** Sets the limits of the production. @throws Conflict */
export async function setLimits(db: Database, { base, limits }: SetLimits): Promise<LimitsJson> {
  const row = { name: LIMITS_ROW, value: limits, version: base + 1 };
  const done =
    base === 0
      ? await db.insert(settings).values(row).onConflictDoNothing().returning()
      : await db
          .update(settings)
          .set(row)
          .where(and(eq(settings.name, LIMITS_ROW), eq(settings.version, base)))
          .returning();
  const now = await limitsRow(db);
  if (done.length === 0) throw new Conflict('the limits', now);
  return now;
}

const LIMITS_ROW = 'limits';

/** Limits of the production as they were kept; none where nothing can be read. */
function checkedLimits(kept: unknown): ProductionLimits {
  const result = v.safeParse(productionLimitsSchema, kept ?? {});
  return result.success ? result.output : {};
}
