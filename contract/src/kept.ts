import { touchUpsSchema } from '@hollow-stride/core';
import * as v from 'valibot';
import { presetSchema, productionLimitsSchema } from './runs';
import {
  characterSchema,
  idSchema,
  nameSchema,
  pairingSchema,
  schemeSchema,
  skeletonSchema,
  solveChoicesSchema,
  transferSchema,
} from './schemas';

/** Settings of a pairing kept under a name, to be compared and gone back to. */
export const versionSchema = v.object({
  id: idSchema,
  name: nameSchema,
  performer: idSchema,
  character: idSchema,
  choices: solveChoicesSchema,
  addedAt: v.string(),
});
export type VersionJson = v.InferOutput<typeof versionSchema>;

export const saveVersionSchema = v.object({ name: nameSchema, performer: idSchema, character: idSchema, choices: solveChoicesSchema });
export type SaveVersion = v.InferOutput<typeof saveVersionSchema>;

/** Touch-ups kept under a name, to be laid on other takes and characters. */
export const touchUpSetSchema = v.object({ id: idSchema, name: nameSchema, touchUps: touchUpsSchema, addedAt: v.string() });
export type TouchUpSetJson = v.InferOutput<typeof touchUpSetSchema>;

export const saveTouchUpSetSchema = v.object({
  name: nameSchema,
  touchUps: v.pipe(touchUpsSchema, v.minLength(1, 'a set holds at least one touch-up')),
});
export type SaveTouchUpSet = v.InferOutput<typeof saveTouchUpSetSchema>;

/** The rack but for its takes, of which there may be thousands: those are listed by the page. */
export const rackSchema = v.object({
  characters: v.array(characterSchema),
  transfers: v.array(transferSchema),
  pairings: v.array(pairingSchema),
  skeletons: v.array(skeletonSchema),
  schemes: v.array(schemeSchema),
  versions: v.array(versionSchema),
  sets: v.array(touchUpSetSchema),
  presets: v.array(presetSchema),
  /** Limits that a person set for the production. */
  limits: productionLimitsSchema,
});
export type RackJson = v.InferOutput<typeof rackSchema>;
