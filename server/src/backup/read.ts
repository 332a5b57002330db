import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { isDeepStrictEqual } from 'node:util';
import { and, eq, isNull } from 'drizzle-orm';
import { DEFAULT_SKELETON, fail } from '@hollow-stride/core';
import { LIMITS, type IntakeEvent, type SaveVersion, type SolveChoices } from '@hollow-stride/contract';
import * as v from 'valibot';
import yauzl from 'yauzl';
import { describeIssue, tidied } from '../border';
import { characters, files, pairings, presets, schemes, sets, settings, skeletons, takes, transfers, versions } from '../db/schema';
import { limitsRow, presetJson, presetRows, setRows, versionJson, versionRows } from '../kept';
import { takeIn, type Outcome, type UploadServices } from '../intake/one';
import { contentPath, MANIFEST, manifestSchema, type Manifest } from './manifest';

const MOST_MANIFEST = 64 * 1024 * 1024;

/** A backup that was brought in: what it lists, and its archive, open. */
interface Opened {
  readonly manifest: Manifest;
  readonly contents: ReadonlyMap<string, yauzl.Entry>;
  readonly zip: yauzl.ZipFile;
}

/** True when an archive is a backup of a rack. */
export async function isBackup(path: string): Promise<boolean> {
  try {
    const zip = await yauzl.openPromise(path, { lazyEntries: true, autoClose: false });
    try {
      // It is written first, so a large archive of other things is not gone through.
      for await (const entry of zip.eachEntry()) return entry.fileName === MANIFEST;
      return false;
    } finally {
      zip.close();
    }
  } catch {
    return false;
  }
}

/**
 * Brings a backup onto the rack: files that are not there yet, then what was decided about them. What is on the rack already
 * stays as it is; what it lacks is added, and nothing is doubled.
 */
export async function* readBackup(
  path: string,
  name: string,
  services: UploadServices,
  signal: AbortSignal,
): AsyncGenerator<IntakeEvent, void> {
  const { blobs, library } = services;
  const { folder, remove } = await blobs.aside();
  let opened: Opened | undefined;
  try {
    opened = await open(path, name);
    const { manifest, contents, zip } = opened;
    const before = await library.knownFiles();
    const bad = new Set<string>();
    for (const file of manifest.files) {
      if (signal.aborted) return;
      const entry = contents.get(file.hash);
      if (!entry) fail('archive', `the backup lists ${file.name} and does not hold it`, { file: name });
      if (entry.uncompressedSize > LIMITS.fileBytes) fail('file/too-large', 'the file is larger than is read', { file: file.name });
      if (before.has(file.hash)) continue;
      yield { kind: 'reading', fileName: file.name };
      const location = join(folder, randomUUID());
      await pipeline(await zip.openReadStreamPromise(entry), createWriteStream(location), { signal });
      const received = await blobs.measure(location);
      if (received.hash !== file.hash) fail('archive', `${file.name} in the backup is damaged`, { file: name });
      const outcome: Outcome = await takeIn(received, file.name, services, {}, signal);
      if (outcome.error) bad.add(file.hash);
      yield { kind: 'file', file: outcome };
    }
    if (signal.aborted) return;
    await apply(manifest, before, bad, services);
    yield { kind: 'end', ignored: [] };
  } finally {
    opened?.zip.close();
    await remove();
  }
}

async function open(path: string, name: string): Promise<Opened> {
  const zip = await yauzl.openPromise(path, { lazyEntries: true, autoClose: false });
  try {
    const contents = new Map<string, yauzl.Entry>();
    let manifest: Manifest | undefined;
    for await (const entry of zip.eachEntry()) {
      if (entry.fileName === MANIFEST) manifest = parse(await textOf(await zip.openReadStreamPromise(entry), name), name);
      else if (entry.fileName.startsWith('files/')) contents.set(entry.fileName.slice(contentPath('').length), entry);
    }
    if (!manifest) fail('archive', 'this is no backup of a rack', { file: name });
    return { manifest, contents, zip };
  } catch (error) {
    zip.close();
    throw error;
  }
}

async function textOf(stream: Readable, file: string): Promise<string> {
  const chunks: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    bytes += chunk.length;
    if (bytes > MOST_MANIFEST) fail('archive', `the backup's list is larger than ${MOST_MANIFEST / 2 ** 20} MB`, { file });
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString();
}

function parse(text: string, file: string): Manifest {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    fail('archive', "the backup's list cannot be read", { file });
  }
  const result = v.safeParse(manifestSchema, tidied(json));
  if (result.success) return result.output;
  return fail('archive', `the backup's list is not as it should be at ${describeIssue(result.issues[0])}`, { file });
}

/** Puts what was decided onto what the rack has now, in one transaction. */
async function apply(
  manifest: Manifest,
  before: ReadonlySet<string>,
  bad: ReadonlySet<string>,
  { library }: UploadServices,
): Promise<void> {
  await library.db.transaction(async (tx) => {
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
          .set({ name: isNew ? name : now.name, choices, rests })
          .where(eq(skeletons.id, id));
      if (isNew && reference && rows.has(reference.file)) {
        await tx.update(skeletons).set({ referenceFile: reference.file, referenceClip: reference.clip }).where(eq(skeletons.id, id));
      }
    }
    // A new file's every motion was put on the rack: those that were not on the other are taken off again.
    const listed = new Set(manifest.takes.map(({ file, clip }) => `${file} ${clip}`));
    const listedBodies = new Set(manifest.characters.map(({ file }) => file));
    const fresh = manifest.files.filter(({ hash }) => !before.has(hash) && !bad.has(hash));
    for (const { hash } of fresh) {
      for (const { id, clip } of await tx.select().from(takes).where(eq(takes.file, hash)))
        if (!listed.has(`${hash} ${clip}`)) await tx.update(takes).set({ removedAt: new Date() }).where(eq(takes.id, id));
      if (!listedBodies.has(hash)) await tx.update(characters).set({ removedAt: new Date() }).where(eq(characters.file, hash));
    }
    const isFresh = new Set(fresh.map(({ hash }) => hash));
    for (const { id: _, file, clip, ...about } of manifest.takes) {
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
    const setsHere = await setRows(tx);
    for (const set of manifest.sets) {
      if (setsHere.length >= LIMITS.sets) break;
      if (setsHere.some(({ name, touchUps }) => isDeepStrictEqual({ name, touchUps }, set))) continue;
      await tx.insert(sets).values(set);
    }
    const presetsHere = await presetRows(tx);
    for (const preset of manifest.presets) {
      if (presetsHere.length >= LIMITS.sets) break;
      if (presetsHere.some(({ name, output }) => isDeepStrictEqual({ name, output }, preset))) continue;
      presetsHere.push(...(await tx.insert(presets).values(preset).returning()).map(presetJson));
    }
    // Limits that were set here stay.
    if (Object.keys(manifest.limits).length > 0 && Object.keys(await limitsRow(tx)).length === 0)
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
  });
}

/** What of a version tells it from another. */
function plain({ performer, character, name, choices }: SaveVersion): SaveVersion {
  return { performer, character, name, choices };
}
