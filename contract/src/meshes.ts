import { DEFAULT_FIT, fitSchema } from '@hollow-stride/core';
import * as v from 'valibot';
import { count, finite, hashSchema, idSchema, nameSchema, text, versionNumber } from './base';

/** Facts about a mesh that a skeleton is to be fitted to. */
export const meshFactsSchema = v.object({
  points: count,
  triangles: count,
  parts: v.pipe(v.array(v.object({ name: text(200), points: count })), v.maxLength(200)),
  /** Pieces that hang together. */
  shells: count,
  /** Edges at the rim of a hole. */
  rims: count,
  height: finite,
  /** For people: how it stands, and what that was told from. */
  stand: text(400),
  /** Joints that it has already. */
  joints: count,
});
export type MeshFactsJson = v.InferOutput<typeof meshFactsSchema>;

/** A mesh on the rack, and what was decided about its skeleton. */
export const meshSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  file: hashSchema,
  fileName: text(400),
  bytes: count,
  facts: meshFactsSchema,
  choices: v.optional(fitSchema, DEFAULT_FIT),
  isDemo: v.boolean(),
  addedAt: v.string(),
});
export type MeshJson = v.InferOutput<typeof meshSchema>;

export const changeMeshSchema = v.object({ base: versionNumber, choices: fitSchema });
export type ChangeMesh = v.InferOutput<typeof changeMeshSchema>;

/** A character whose mesh is to get another skeleton, or other weights. */
export const addMeshSchema = v.object({ character: idSchema });
