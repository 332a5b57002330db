import { reelRows } from '../reels';
import { createHash } from 'node:crypto';
import type { Readable } from 'node:stream';
import { isNotNull, isNull } from 'drizzle-orm';
import yazl from 'yazl';
import type { TakeChoices } from '@hollow-stride/core';
import type { Blobs } from '../blobs';
import type { Database } from '../db/open';
import { characters, files, pairings, schemes, skeletons, takes, transfers } from '../db/schema';
import { meshRows } from '../meshes';
import { recordingRows } from '../recordings';
import { limitsRow, jointSchemeRows, nameTableRows, poseRows, presetRows, setRows, versionRows } from '../kept';
import { BACKUP_FORMAT, contentPath, MANIFEST, MANIFEST_HASH, type Manifest } from './manifest';

/** The whole rack as a zip archive, streamed: what is on it with every decision, and the files as they came in. */
export async function writeBackup(db: Database, blobs: Blobs): Promise<Readable> {
  const manifest = await readManifest(db);
  const zip = new yazl.ZipFile();
  const list = Buffer.from(`${JSON.stringify(manifest, null, 1)}\n`);
  zip.addBuffer(list, MANIFEST);
  zip.addBuffer(Buffer.from(createHash('sha256').update(list).digest('hex')), MANIFEST_HASH);
  // Contents are opened one after the other, as the archive is read.
  const hashes = new Set([...manifest.files, ...manifest.recordings, ...manifest.meshes].map(({ hash }) => hash));
  for (const hash of hashes) zip.addFile(blobs.path(hash), contentPath(hash));
  zip.end();
  return zip.outputStream as Readable;
}

/** The rack at one moment, without removed items. */
export function readManifest(db: Database): Promise<Manifest> {
  return db.transaction(
    async (tx) => {
      const takeList = await tx.select().from(takes).where(isNull(takes.removedAt)).orderBy(takes.addedAt, takes.clip);
      const characterList = await tx.select().from(characters).where(isNull(characters.removedAt)).orderBy(characters.addedAt);
      const fileList = await tx.select().from(files).where(isNotNull(files.skeleton)).orderBy(files.addedAt);
      const used = new Set([...takeList, ...characterList].map(({ file }) => file));
      const skeletonList = await tx.select().from(skeletons).orderBy(skeletons.addedAt);
      // A reference may lie in a file whose takes are off the rack: it still measures the others.
      const stood = new Set(fileList.filter(({ hash }) => used.has(hash)).map(({ skeleton }) => skeleton));
      for (const { id, referenceFile } of skeletonList) if (stood.has(id) && referenceFile !== null) used.add(referenceFile);
      const kept = skeletonList.filter(({ id }) => stood.has(id));
      const place = new Map(kept.map(({ id }, i) => [id, i]));
      const hashOf = new Map(characterList.map(({ id, file }) => [id, file]));
      const takeOf = new Map(takeList.map(({ id, file, clip }) => [id, { file, clip }]));
      const recordingList = await recordingRows(tx);
      const contentOf = new Map(recordingList.map(({ id, file }) => [id, file]));
      const pairingList = await tx.select().from(pairings).where(isNull(pairings.removedAt));
      const pairOf = new Map(
        pairingList.flatMap(({ id, performer, character, name, choices }) => {
          const [at, hash] = [place.get(performer), hashOf.get(character)];
          return at === undefined || hash === undefined ? [] : [[id, { performer: at, character: hash, name, choices }] as const];
        }),
      );
      const transferList = await tx.select().from(transfers).where(isNull(transfers.removedAt)).orderBy(transfers.changedAt);
      return {
        format: BACKUP_FORMAT,
        version: 1 as const,
        files: fileList
          .filter(({ hash }) => used.has(hash))
          .map(({ hash, name, skeleton }) => ({ hash, name, skeleton: place.get(skeleton!) ?? 0 })),
        skeletons: kept.map(({ name, choices, rests, referenceFile, referenceClip }) => ({
          name,
          choices,
          rests,
          reference: referenceFile === null ? null : { file: referenceFile, clip: referenceClip },
        })),
        takes: takeList.map(({ id, file, clip, name, tags, note, choices, isDemo }) => ({
          id,
          file,
          clip,
          name,
          tags,
          note,
          choices: choices && withRecordings(choices, (id) => contentOf.get(id)),
          isDemo,
        })),
        characters: characterList.map(({ file, name, isDemo }) => ({ file, name, isDemo })),
        pairings: [...pairOf.values()],
        transfers: transferList.flatMap(({ take, pairing, name, choices, summary }) => {
          const [key, pair] = [takeOf.get(take), pairOf.get(pairing)];
          return key && pair ? [{ take: key, performer: pair.performer, character: pair.character, name, choices, summary }] : [];
        }),
        schemes: (await tx.select().from(schemes).where(isNull(schemes.removedAt)).orderBy(schemes.addedAt)).map(({ name, scheme }) => ({
          ...scheme,
          name,
        })),
        versions: (await versionRows(tx)).flatMap(({ performer, character, name, choices }) => {
          const [at, hash] = [place.get(performer), hashOf.get(character)];
          return at === undefined || hash === undefined ? [] : [{ performer: at, character: hash, name, choices }];
        }),
        sets: (await setRows(tx)).map(({ name, touchUps }) => ({ name, touchUps })),
        poses: (await poseRows(tx)).map(({ name, pose }) => ({ name, pose })),
        jointSchemes: (await jointSchemeRows(tx)).map(({ name, byJoint }) => ({ name, byJoint })),
        // By content: another rack gives its own ids.
        reels: (await reelRows(tx)).map(({ name, content }) => ({
          name,
          content: {
            ...content,
            lanes: content.lanes.map((lane) => ({ ...lane, character: hashOf.get(lane.character) ?? lane.character })),
          },
        })),
        nameTables: (await nameTableRows(tx)).map(({ name, table }) => ({ name, table })),
        recordings: recordingList.map(({ file, name, fileName, bytes, facts, isDemo }) => ({
          hash: file,
          name,
          fileName,
          bytes,
          facts,
          isDemo,
        })),
        meshes: (await meshRows(tx)).map(({ file, name, fileName, bytes, choices, isDemo }) => ({
          hash: file,
          name,
          fileName,
          bytes,
          choices,
          isDemo,
        })),
        presets: (await presetRows(tx)).map(({ name, output }) => ({ name, output })),
        limits: (await limitsRow(tx)).limits,
      };
    },
    { isolationLevel: 'repeatable read', accessMode: 'read only' },
  );
}

/** A take's settings with its recordings named otherwise; those that are not known stay as they are. */
export function withRecordings(choices: TakeChoices, nameOf: (recording: string) => string | undefined): TakeChoices {
  const named = <T extends { readonly recording: string }>(one: T): T => ({ ...one, recording: nameOf(one.recording) ?? one.recording });
  return {
    ...choices,
    ...(choices.face && { face: named(choices.face) }),
    ...(choices.sound && { sound: named(choices.sound) }),
  };
}
