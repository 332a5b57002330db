import { byJointSchema, nameTableSchema, poseSchema, reelContentSchema, touchUpsSchema } from '@hollow-stride/core';
import * as v from 'valibot';
import { limitsSchema, presetSchema, runEventSchema } from './runs';
import { idSchema, nameSchema, text, versionNumber } from './base';
import { meshSchema } from './meshes';
import { recordingSchema } from './recordings';
import { characterSchema, pairingSchema, schemeSchema, skeletonSchema, solveChoicesSchema, takeSchema, transferSchema } from './schemas';

/** Settings of a pairing kept under a name, to be compared and gone back to. */
export const versionSchema = v.object({
  id: idSchema,
  version: versionNumber,
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
export const touchUpSetSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  touchUps: touchUpsSchema,
  addedAt: v.string(),
});
export type TouchUpSetJson = v.InferOutput<typeof touchUpSetSchema>;

export const saveTouchUpSetSchema = v.object({
  name: nameSchema,
  touchUps: v.pipe(touchUpsSchema, v.minLength(1, 'a set holds at least one touch-up')),
});
export type SaveTouchUpSet = v.InferOutput<typeof saveTouchUpSetSchema>;

/** A pose kept under a name, to be laid on other takes and characters. */
export const keptPoseSchema = v.object({ id: idSchema, version: versionNumber, name: nameSchema, pose: poseSchema, addedAt: v.string() });
export type PoseJson = v.InferOutput<typeof keptPoseSchema>;

export const savePoseSchema = v.object({
  name: nameSchema,
  pose: v.pipe(
    poseSchema,
    v.check((pose) => Object.keys(pose).length > 0, 'a pose turns at least one joint'),
    v.check((pose) => Object.keys(pose).length <= 400, 'a pose turns at most 400 joints'),
  ),
});
export type SavePose = v.InferOutput<typeof savePoseSchema>;

/** A pairing joint by joint kept under a name, to be used on other rigs of the same kinds. */
export const jointSchemeSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  byJoint: byJointSchema,
  addedAt: v.string(),
});
export type JointSchemeJson = v.InferOutput<typeof jointSchemeSchema>;
export const saveJointSchemeSchema = v.object({ name: nameSchema, byJoint: byJointSchema });
export type SaveJointScheme = v.InferOutput<typeof saveJointSchemeSchema>;

/** A name table of a face kept under a name, to be used for other recordings and characters of the same kinds. */
export const keptNameTableSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  table: nameTableSchema,
  addedAt: v.string(),
});
export type NameTableJson = v.InferOutput<typeof keptNameTableSchema>;
export const saveNameTableSchema = v.object({ name: nameSchema, table: nameTableSchema });
export type SaveNameTable = v.InferOutput<typeof saveNameTableSchema>;

/** A reel: clips of characters in time. Its takes and characters are those of the rack, by their ids. */
export const reelRowSchema = v.object({
  id: idSchema,
  version: versionNumber,
  name: nameSchema,
  content: reelContentSchema,
  addedAt: v.string(),
});
export type ReelJson = v.InferOutput<typeof reelRowSchema>;
export const saveReelSchema = v.object({ name: nameSchema, content: reelContentSchema });
export type SaveReel = v.InferOutput<typeof saveReelSchema>;
export const changeReelSchema = v.pipe(
  v.object({ base: versionNumber, name: v.optional(nameSchema), content: v.optional(reelContentSchema) }),
  v.check(({ name, content }) => name !== undefined || content !== undefined, 'nothing to change'),
);
export type ChangeReel = v.InferOutput<typeof changeReelSchema>;

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
  poses: v.array(keptPoseSchema),
  jointSchemes: v.array(jointSchemeSchema),
  reels: v.array(reelRowSchema),
  recordings: v.array(recordingSchema),
  meshes: v.array(meshSchema),
  nameTables: v.array(keptNameTableSchema),
  /** Limits that a person set for the production. */
  limits: limitsSchema,
});
export type RackJson = v.InferOutput<typeof rackSchema>;

/** Changes by others while a page is open, one server-sent event each. `by` is the page that changed it, as it called itself. */
const by = v.nullable(text(60));
export const rackEventSchema = v.variant('kind', [
  v.object({ kind: v.literal('skeleton'), by, row: skeletonSchema }),
  v.object({ kind: v.literal('take'), by, row: takeSchema }),
  v.object({ kind: v.literal('character'), by, row: characterSchema }),
  v.object({ kind: v.literal('pairing'), by, row: pairingSchema }),
  v.object({ kind: v.literal('transfer'), by, row: transferSchema }),
  v.object({ kind: v.literal('limits'), by, row: limitsSchema }),
  v.object({ kind: v.literal('reel'), by, row: reelRowSchema }),
  v.object({ kind: v.literal('mesh'), by, row: meshSchema }),
  /** Something came onto the rack or left it: it is to be read again. */
  v.object({ kind: v.literal('rack'), by }),
]);
export type RackEvent = v.InferOutput<typeof rackEventSchema>;
export const eventSchema = v.union([rackEventSchema, runEventSchema]);
export type ServerEvent = v.InferOutput<typeof eventSchema>;
/** The header by which a page says who it is. */
export const CLIENT_HEADER = 'x-hollow-stride-client';
