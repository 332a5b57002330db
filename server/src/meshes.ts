import { and, asc, eq, isNull, sql } from 'drizzle-orm';
import { DEFAULT_FIT, openMesh } from '@hollow-stride/core';
import { asName, LIMITS, meshFactsSchema, type ChangeMesh, type MeshFactsJson, type MeshJson } from '@hollow-stride/contract';
import * as v from 'valibot';
import { describeIssue, tidied } from './border';
import type { Database, Reader, Transaction } from './db/open';
import { meshes } from './db/schema';
import { Conflict, refuse } from './errors';

/** Files that hold a mesh and nothing else. */
export const MESH = /\.obj$/i;

/** Meshes that are on the rack, oldest first. */
export async function meshRows(db: Reader): Promise<MeshJson[]> {
  const rows = await db.select().from(meshes).where(isNull(meshes.removedAt)).orderBy(asc(meshes.addedAt)).limit(LIMITS.rackItems);
  return rows.map(meshJson);
}

/** Facts about a mesh in the form of the contract. @throws FaultError of the readers; Refusal 422 */
export async function readMesh(bytes: Uint8Array, name: string): Promise<MeshFactsJson> {
  const result = v.safeParse(meshFactsSchema, tidied((await openMesh(bytes, name)).facts));
  if (result.success) return result.output;
  return refuse(422, `what is in the file cannot be kept: ${describeIssue(result.issues[0])}`, 'mesh/limit', { file: name });
}

/** A mesh that was read, to be put on the rack. */
export interface NewMesh {
  readonly file: string;
  readonly fileName: string;
  readonly bytes: number;
  readonly facts: MeshFactsJson;
}

/** Puts a mesh on the rack; one whose content is there already comes back onto it as it was. */
export async function addMesh(
  db: Database | Transaction,
  mesh: NewMesh,
  { title, isDemo = false, choices }: { readonly title?: string; readonly isDemo?: boolean; readonly choices?: MeshJson['choices'] } = {},
): Promise<MeshJson> {
  const name = asName(title ?? mesh.fileName.replace(/\.[^.]*$/, ''), 'untitled');
  const [row] = await db
    .insert(meshes)
    .values({ ...mesh, name, isDemo, choices: choices ?? null })
    .onConflictDoUpdate({ target: meshes.file, set: { removedAt: null, version: sql`${meshes.version} + 1` } })
    .returning();
  return meshJson(row);
}

/** The mesh of a content, on the rack or not. */
export async function meshOfContent(db: Reader, file: string): Promise<MeshJson | undefined> {
  const [row] = await db.select().from(meshes).where(eq(meshes.file, file));
  return (row as typeof row | undefined) && meshJson(row);
}

/** @throws Refusal 404, Conflict */
export async function changeMesh(db: Database, id: string, { base, choices }: ChangeMesh): Promise<MeshJson> {
  const rows = await db
    .update(meshes)
    .set({ choices, version: base + 1 })
    .where(and(eq(meshes.id, id), eq(meshes.version, base)))
    .returning();
  if (rows.length > 0) return meshJson(rows[0]);
  const [now] = await db.select().from(meshes).where(eq(meshes.id, id));
  if ((now as typeof now | undefined) === undefined) refuse(404, 'the mesh is not known');
  throw new Conflict('the mesh', meshJson(now));
}

function meshJson({ addedAt, removedAt: _, choices, ...row }: typeof meshes.$inferSelect): MeshJson {
  return { ...row, choices: choices ?? DEFAULT_FIT, addedAt: addedAt.toISOString() };
}
