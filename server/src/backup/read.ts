import { reelRows } from '../reels';
import { isDeepStrictEqual } from 'node:util';
import { and, eq, isNull } from 'drizzle-orm';
import { DEFAULT_SKELETON } from '@hollow-stride/core';
import { LIMITS, type IntakeEvent, type SaveVersion, type SolveChoices } from '@hollow-stride/contract';
import type { Transaction } from '../db/open';
import {
  characters,
  files,
  jointSchemes,
  nameTables,
  pairings,
  poses,
  presets,
  reels,
  schemes,
  sets,
  settings,
  skeletons,
  takes,
  transfers,
  versions,
} from '../db/schema';
import { jointSchemeRows, limitsRow, nameTableRows, poseRows, presetRows, setRows, versionJson, versionRows } from '../kept';
import { addFile, heldBy, type NewFile } from '../files';
import { refused, type UploadServices } from '../intake/one';
import { addMesh, type NewMesh } from '../meshes';
import { addRecording, type NewRecording } from '../recordings';
import { verify } from './archive';
import { withRecordings } from './write';
import type { Manifest } from './manifest';

/**
 * Brings a backup onto the rack, all of it or nothing: the whole archive is held against its hashes and each new file is read before
 * anything is kept; then contents, then all rows in one transaction. Rows on the rack already stay as they are; missing ones are
 * added, and nothing is doubled. Contents that a kill leaves without rows are swept at the next start.
 * @throws FaultError archive, file/too-large
 */
export async function* readBackup(
  path: string,
  name: string,
  services: UploadServices,
  signal: AbortSignal,
): AsyncGenerator<IntakeEvent, void> {
  const { blobs, library, pool } = services;
  const { folder, remove } = await blobs.aside();
  try {
    yield { kind: 'reading', fileName: name };
    const { manifest, contents } = await verify(path, name, folder, signal);
    const before = await library.knownFiles();
    const fresh: NewFile[] = [];
    for (const { hash, name: fileName } of manifest.files) {
      if (signal.aborted) return;
      if (before.has(hash) || fresh.some((file) => file.hash === hash)) continue;
      yield { kind: 'reading', fileName };
      const received = contents.get(hash)!;
      const result = await pool.analyse(received.path, fileName, signal);
      if (signal.aborted) return;
      if ('fault' in result) {
        // All or nothing: a rack without one of its files is not the rack that was backed up.
        yield { kind: 'file', file: refused(fileName, result.fault) };
        return;
      }
      fresh.push({ hash, name: fileName, bytes: received.bytes, facts: result.facts });
    }
    const apart: (NewRecording & { readonly name: string; readonly isDemo: boolean })[] = [];
    for (const { hash, name: title, fileName, bytes, isDemo } of manifest.recordings) {
      if (signal.aborted) return;
      const received = contents.get(hash)!;
      // What its facts say is found out anew: nothing in an archive is believed.
      const result = await pool.record(received.path, fileName, signal);
      if ('fault' in result) {
        yield { kind: 'file', file: refused(fileName, result.fault) };
        return;
      }
      apart.push({ file: hash, fileName, bytes, facts: result.facts, name: title, isDemo });
    }
    const bodies: { readonly mesh: NewMesh; readonly about: NonNullable<Parameters<typeof addMesh>[2]> }[] = [];
    for (const { hash, name: title, fileName, bytes, choices, isDemo } of manifest.meshes) {
      if (signal.aborted) return;
      const result = await pool.mesh(contents.get(hash)!.path, fileName, signal);
      if ('fault' in result) {
        yield { kind: 'file', file: refused(fileName, result.fault) };
        return;
      }
      bodies.push({ mesh: { file: hash, fileName, bytes, facts: result.facts }, about: { title, isDemo, choices } });
    }
    for (const { file } of [...apart, ...bodies.map(({ mesh }) => mesh)])
      if (!(await blobs.has(file))) await blobs.keep(contents.get(file)!);
    for (const { hash } of fresh) if (!(await blobs.has(hash))) await blobs.keep(contents.get(hash)!);
    const outcomes = await library.db.transaction(async (tx) => {
      for (const file of fresh) await addFile(tx, file);
      const idOf = new Map<string, string>();
      for (const { name: title, isDemo, ...one } of apart) idOf.set(one.file, (await addRecording(tx, one, { title, isDemo })).id);
      for (const { mesh, about } of bodies) await addMesh(tx, mesh, about);
      await apply(manifest, before, tx, idOf);
      return Promise.all(
        fresh.map(async (file) => ({ fileName: file.name, known: false, ...(await heldBy(tx, file)), recordings: [], meshes: [] })),
      );
    });
    for (const file of outcomes) yield { kind: 'file', file };
    yield { kind: 'end', ignored: [] };
  } finally {
    await remove();
  }
}

/** Puts what was decided onto what the rack has now. */
async function apply(
  manifest: Manifest,
  before: ReadonlySet<string>,
  tx: Transaction,
  recordingOf: ReadonlyMap<string, string>,
): Promise<void> {
  const rows = new Map((await tx.select().from(files)).map((row) => [row.hash, row.skeleton]));
  // A skeleton of the backup is the one here that its files stand on.
  const own = manifest.skeletons.map((_, i) => {
    const file = manifest.files.find(({ skeleton, hash }) => skeleton === i && rows.get(hash));
    return file && (rows.get(file.hash) ?? undefined);
  });
  for (const [i, { name, choices, rests, reference }] of manifest.skeletons.entries()) {
    const id = own[i];
    if (id === undefined) continue;
    const [now] = await tx.select().from(skeletons).where(eq(skeletons.id, id));
    const untouched = isDeepStrictEqual(now.choices, DEFAULT_SKELETON) && now.rests.length === 0;
    const isNew = manifest.files.every(({ skeleton, hash }) => skeleton !== i || !before.has(hash));
    if (untouched)
      await tx
        .update(skeletons)
        .set({ name: isNew ? name : now.name, choices, rests, version: now.version + 1 })
        .where(eq(skeletons.id, id));
    if (isNew && reference && rows.has(reference.file)) {
      await tx.update(skeletons).set({ referenceFile: reference.file, referenceClip: reference.clip }).where(eq(skeletons.id, id));
    }
  }
  // A new file's every motion was put on the rack: those that were not on the other are taken off again.
  const listed = new Set(manifest.takes.map(({ file, clip }) => `${file} ${clip}`));
  const listedBodies = new Set(manifest.characters.map(({ file }) => file));
  const fresh = manifest.files.filter(({ hash }) => !before.has(hash));
  for (const { hash } of fresh) {
    for (const { id, clip } of await tx.select().from(takes).where(eq(takes.file, hash)))
      if (!listed.has(`${hash} ${clip}`)) await tx.update(takes).set({ removedAt: new Date() }).where(eq(takes.id, id));
    if (!listedBodies.has(hash)) await tx.update(characters).set({ removedAt: new Date() }).where(eq(characters.file, hash));
  }
  const isFresh = new Set(fresh.map(({ hash }) => hash));
  for (const { id: _, file, clip, choices, ...rest } of manifest.takes) {
    const about = { ...rest, choices: choices && withRecordings(choices, (hash) => recordingOf.get(hash)) };
    const where = and(eq(takes.file, file), eq(takes.clip, clip));
    if (isFresh.has(file)) await tx.update(takes).set(about).where(where);
    else await tx.update(takes).set({ removedAt: null }).where(where);
  }
  for (const { file, ...about } of manifest.characters) {
    if (!rows.has(file)) continue;
    const set = isFresh.has(file) ? { ...about, removedAt: null } : { removedAt: null };
    await tx
      .insert(characters)
      .values({ file, ...about })
      .onConflictDoUpdate({ target: characters.file, set });
  }
  const characterOf = new Map((await tx.select().from(characters)).map(({ file, id }) => [file, id]));
  const takeOf = new Map((await tx.select().from(takes)).map(({ file, clip, id }) => [`${file} ${clip}`, id]));
  // Touch-ups of one take name it by its id on the rack that they come from.
  const idHere = new Map(manifest.takes.flatMap(({ id, file, clip }) => (id ? [[id, takeOf.get(`${file} ${clip}`)]] : [])));
  const here = (choices: SolveChoices): SolveChoices => ({
    ...choices,
    touchUps: choices.touchUps.map((one) => ({ ...one, take: one.take === null ? null : (idHere.get(one.take) ?? one.take) })),
    layers: choices.layers.map((one) => ({ ...one, take: one.take === null ? null : (idHere.get(one.take) ?? one.take) })),
  });
  for (const { performer, character, name, choices } of manifest.pairings) {
    const [performerId, characterId] = [own[performer], characterOf.get(character)];
    if (performerId && characterId) {
      await tx
        .insert(pairings)
        .values({ performer: performerId, character: characterId, name, choices: here(choices) })
        .onConflictDoNothing();
    }
  }
  const versionsHere = await versionRows(tx);
  for (const { performer, character, name, choices } of manifest.versions) {
    const pair = { performer: own[performer], character: characterOf.get(character) };
    if (!pair.performer || !pair.character || versionsHere.length >= LIMITS.versions) continue;
    const version = { performer: pair.performer, character: pair.character, name, choices: here(choices) };
    const isKnown = versionsHere.some((kept) => isDeepStrictEqual(plain(kept), plain(version)));
    if (!isKnown) versionsHere.push(...(await tx.insert(versions).values(version).returning()).map(versionJson));
  }
  const [setsHere, posesHere, schemesHere] = [await setRows(tx), await poseRows(tx), await jointSchemeRows(tx)];
  await addMissing(
    manifest.sets,
    setsHere.map(({ name, touchUps }) => ({ name, touchUps })),
    (one) => tx.insert(sets).values(one),
  );
  await addMissing(
    manifest.poses,
    posesHere.map(({ name, pose }) => ({ name, pose })),
    (one) => tx.insert(poses).values(one),
  );
  await addMissing(
    manifest.jointSchemes,
    schemesHere.map(({ name, byJoint }) => ({ name, byJoint })),
    (one) => tx.insert(jointSchemes).values(one),
  );
  const [tablesHere, presetsHere, reelsHere] = [await nameTableRows(tx), await presetRows(tx), await reelRows(tx)];
  await addMissing(
    manifest.nameTables,
    tablesHere.map(({ name, table }) => ({ name, table })),
    (one) => tx.insert(nameTables).values(one),
  );
  await addMissing(
    manifest.presets,
    presetsHere.map(({ name, output }) => ({ name, output })),
    (one) => tx.insert(presets).values(one),
  );
  // A reel plays the takes and characters that are here.
  const reelsOfManifest = manifest.reels.map(({ name, content }) => ({
    name,
    content: {
      ...content,
      lanes: content.lanes.map((lane) => ({
        ...lane,
        character: characterOf.get(lane.character) ?? lane.character,
        clips: lane.clips.map((clip) => ({ ...clip, take: idHere.get(clip.take) ?? clip.take })),
      })),
    },
  }));
  await addMissing(
    reelsOfManifest,
    reelsHere.map(({ name, content }) => ({ name, content })),
    (one) => tx.insert(reels).values(one),
  );
  // Limits that were set here stay.
  if (Object.keys(manifest.limits).length > 0 && Object.keys((await limitsRow(tx)).limits).length === 0)
    await tx
      .insert(settings)
      .values({ name: 'limits', value: manifest.limits })
      .onConflictDoUpdate({ target: settings.name, set: { value: manifest.limits } });
  for (const { take, performer, character, name, choices, summary } of manifest.transfers) {
    const [performerId, characterId] = [own[performer], characterOf.get(character)];
    const takeId = takeOf.get(`${take.file} ${take.clip}`);
    if (!performerId || !characterId || !takeId) continue;
    const [pairing] = await tx
      .select({ id: pairings.id })
      .from(pairings)
      .where(and(eq(pairings.performer, performerId), eq(pairings.character, characterId)));
    if (pairing)
      await tx
        .insert(transfers)
        .values({ take: takeId, pairing: pairing.id, name, choices: here(choices), summary })
        .onConflictDoNothing();
  }
  // The database keeps the names in a JSON object in an order of its own: what is alike is told by content.
  const kept = (await tx.select().from(schemes).where(isNull(schemes.removedAt))).map(({ name, scheme }) => ({ ...scheme, name }));
  for (const scheme of manifest.schemes) {
    if (kept.length >= LIMITS.schemes || kept.some((own) => isDeepStrictEqual(own, scheme))) continue;
    await tx.insert(schemes).values({ name: scheme.name, scheme });
    kept.push(scheme);
  }
}

/** Puts what is kept by name beside what is here: nothing twice, and no more than there may be. */
async function addMissing<T extends { readonly name: string }>(
  wanted: readonly T[],
  here: readonly T[],
  insert: (one: T) => PromiseLike<unknown>,
): Promise<void> {
  const now = [...here];
  for (const one of wanted) {
    if (now.length >= LIMITS.sets) return;
    if (now.some((known) => isDeepStrictEqual(known, one))) continue;
    await insert(one);
    now.push(one);
  }
}

/** The part of a version that makes it distinct. */
function plain({ performer, character, name, choices }: SaveVersion): SaveVersion {
  return { performer, character, name, choices };
}
