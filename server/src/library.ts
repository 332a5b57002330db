import { and, desc, eq, isNotNull, isNull, lt, sql, type SQL } from 'drizzle-orm';
import type { NamingScheme } from '@hollow-stride/core';
import type {
  ChangeItem,
  CharacterJson,
  FactsJson,
  PairingJson,
  RackJson,
  SavePairing,
  SaveTransfer,
  SchemeJson,
  TakeJson,
  TakeQuery,
  TakesPage,
  TransferJson,
} from '@hollow-stride/contract';
import { asName, LIMITS } from '@hollow-stride/contract';
import type { Database, Reader } from './db/open';
import {
  characters,
  files,
  jointSchemes,
  nameTables,
  pairings,
  poses,
  presets,
  meshes,
  recordings,
  reels,
  runs,
  schemes,
  sets,
  settings,
  takes,
  transfers,
  versions,
} from './db/schema';
import { Conflict, refuse } from './errors';
import { limitsRow, jointSchemeRows, nameTableRows, poseRows, presetRows, setRows, versionRows } from './kept';
import { addFile, characterRows, clipToMeasure, FACTS_VERSION, heldBy, skeletonName, type AboutFile, type NewFile } from './files';
import { hasSkeleton, measureOn, skeletonOf, skeletonRows } from './skeletons';
import { meshOfContent, meshRows } from './meshes';
import { recordingOfContent, recordingRows } from './recordings';
import { reelRows } from './reels';
import { listTakes, takeIds, takeRows } from './takes';

const TABLES = {
  takes,
  characters,
  transfers,
  pairings,
  schemes,
  versions,
  sets,
  runs,
  presets,
  poses,
  jointSchemes,
  reels,
  meshes,
  recordings,
  nameTables,
} as const;

/** Everything on the rack, as rows of the database. */
export class Library {
  constructor(readonly db: Database) {}

  async rack(): Promise<RackJson> {
    const [
      characterList,
      transferList,
      pairingRows,
      skeletons,
      schemeRows,
      versionList,
      setList,
      presetList,
      poseList,
      jointSchemeList,
      reelList,
      recordingList,
      meshList,
      nameTableList,
    ] = await Promise.all([
      characterRows(this.db, isNull(characters.removedAt)),
      transferRows(this.db, isNull(transfers.removedAt)),
      this.db.select().from(pairings).where(isNull(pairings.removedAt)).orderBy(desc(pairings.changedAt)).limit(LIMITS.rackItems),
      skeletonRows(this.db),
      this.schemeRows(),
      versionRows(this.db),
      setRows(this.db),
      presetRows(this.db),
      poseRows(this.db),
      jointSchemeRows(this.db),
      reelRows(this.db),
      recordingRows(this.db),
      meshRows(this.db),
      nameTableRows(this.db),
    ]);
    return {
      characters: characterList,
      transfers: transferList,
      pairings: pairingRows.map(pairingJson),
      skeletons,
      schemes: schemeRows,
      versions: versionList,
      sets: setList,
      presets: presetList,
      poses: poseList,
      jointSchemes: jointSchemeList,
      reels: reelList,
      recordings: recordingList,
      meshes: meshList,
      nameTables: nameTableList,
      limits: await limitsRow(this.db),
    };
  }

  takes(query: TakeQuery, from: number): Promise<TakesPage> {
    return listTakes(this.db, query, from);
  }

  takeIds(query: TakeQuery): Promise<string[]> {
    return takeIds(this.db, query);
  }

  /** A take that is on the rack. */
  async take(id: string): Promise<TakeJson> {
    const [take] = await takeRows(this.db, and(eq(takes.id, id), isNull(takes.removedAt)));
    return take ?? refuse(404, 'the take is not on the rack');
  }

  async fileName(hash: string): Promise<string | undefined> {
    const [row] = await this.db.select({ name: files.name }).from(files).where(eq(files.hash, hash));
    return row?.name;
  }

  /** Name of a content that the rack knows: of a file, a recording or a mesh. */
  async contentName(hash: string): Promise<string | undefined> {
    return (await this.fileName(hash)) ?? ((await recordingOfContent(this.db, hash)) ?? (await meshOfContent(this.db, hash)))?.fileName;
  }

  async hasFile(hash: string): Promise<boolean> {
    return (await this.fileName(hash)) !== undefined;
  }

  /**
   * Adds a file and what it holds: its motions as takes, its body as a character when it has a mesh or no motion.
   * Content that is known already comes back onto the rack as it was.
   */
  async addFile(file: NewFile, about: AboutFile = {}): Promise<{ takes: TakeJson[]; characters: CharacterJson[] }> {
    return this.db.transaction(async (tx) => {
      await addFile(tx, file, about);
      return heldBy(tx, file);
    });
  }

  /** Puts the skeleton that a take was recorded on onto the rack as a character. */
  async performerAsCharacter(takeId: string): Promise<CharacterJson> {
    const take = await this.take(takeId);
    await this.db
      .insert(characters)
      .values({ file: take.file, name: asName(`${take.name} performer`) })
      .onConflictDoUpdate({ target: characters.file, set: { removedAt: null, version: sql`${characters.version} + 1` } });
    const [row] = await characterRows(this.db, eq(characters.file, take.file));
    return row;
  }

  /** Renames a row, takes it off the rack or puts it back. @throws Refusal 404, Conflict */
  async change(kind: keyof typeof TABLES, id: string, { base, name, removed }: ChangeItem): Promise<{ version: number }> {
    const table = TABLES[kind];
    const set = {
      version: base + 1,
      ...(name === undefined ? {} : { name }),
      ...(removed === undefined ? {} : { removedAt: removed ? new Date() : null }),
    };
    const rows = await this.db
      .update(table)
      .set(set)
      .where(and(eq(table.id, id), eq(table.version, base)))
      .returning({ id: table.id });
    if (rows.length > 0) return { version: base + 1 };
    const [now] = await this.db
      .select({ id: table.id, version: table.version, name: table.name, removedAt: table.removedAt })
      .from(table)
      .where(eq(table.id, id));
    if (!now) refuse(404, 'it is not on the rack');
    throw new Conflict(now.name, { id, version: now.version, name: now.name, removed: now.removedAt !== null });
  }

  async addScheme(scheme: NamingScheme): Promise<SchemeJson> {
    const count = await this.db.$count(schemes, isNull(schemes.removedAt));
    if (count >= LIMITS.schemes) refuse(409, `there are ${count} naming schemes already; remove some from the rack first`);
    const [row] = await this.db.insert(schemes).values({ name: scheme.name, scheme }).returning();
    return schemeJson(row);
  }

  private async schemeRows(): Promise<SchemeJson[]> {
    const rows = await this.db.select().from(schemes).where(isNull(schemes.removedAt)).orderBy(schemes.addedAt).limit(LIMITS.schemes);
    return rows.map(schemeJson);
  }

  /** Keeps a pairing of a performer's skeleton and a character; one for each two. @throws Refusal 404, Conflict */
  async savePairing({ performer, character, choices, name, base }: SavePairing): Promise<PairingJson> {
    return this.db.transaction(async (tx) => {
      const target = await this.characterOf(tx, character);
      if (!(await hasSkeleton(tx, performer))) refuse(404, 'the performer is not known');
      const values = { performer, character, choices, name: name ?? asName(`to ${target.name}`) };
      const [made] = await tx.insert(pairings).values(values).onConflictDoNothing().returning();
      if (made) return pairingJson(made);
      const [now] = await tx
        .select()
        .from(pairings)
        .where(and(eq(pairings.performer, performer), eq(pairings.character, character)))
        .for('update');
      // One that was removed from the rack is no base for anything: it is made anew.
      if (now.removedAt === null && now.version !== base) throw new Conflict('the pairing', pairingJson(now));
      const set = { choices, name: name ?? now.name, changedAt: new Date(), removedAt: null, version: now.version + 1 };
      const [row] = await tx.update(pairings).set(set).where(eq(pairings.id, now.id)).returning();
      return pairingJson(row);
    });
  }

  /**
   * Keeps a transfer; solving the same take through the same pairing again replaces it. The pairing's settings stay as they
   * are: a result may be of older choices. @throws Refusal 404, Conflict
   */
  async saveTransfer({ base, choices, summary, ...request }: SaveTransfer): Promise<TransferJson> {
    return this.db.transaction(async (tx) => {
      const [take] = await takeRows(tx, eq(takes.id, request.take));
      if (!take) refuse(404, 'the take is not on the rack');
      const character = await this.characterOf(tx, request.character);
      const pair = { performer: take.skeleton, character: character.id };
      await tx
        .insert(pairings)
        .values({ ...pair, choices, name: asName(`to ${character.name}`) })
        .onConflictDoUpdate({
          target: [pairings.performer, pairings.character],
          set: { choices, removedAt: null, version: sql`${pairings.version} + 1` },
          setWhere: isNotNull(pairings.removedAt),
        });
      const [pairing] = await tx
        .select()
        .from(pairings)
        .where(and(eq(pairings.performer, pair.performer), eq(pairings.character, pair.character)));
      const name = asName(`${take.name} on ${character.name}`);
      const values = { take: take.id, pairing: pairing.id, choices, summary, name };
      const [made] = await tx.insert(transfers).values(values).onConflictDoNothing().returning({ id: transfers.id });
      if (!made) {
        const [now] = await tx
          .select()
          .from(transfers)
          .where(and(eq(transfers.take, take.id), eq(transfers.pairing, pairing.id)))
          .for('update');
        if (now.removedAt === null && now.version !== base)
          throw new Conflict('the transfer', (await transferRows(tx, eq(transfers.id, now.id)))[0]);
        const set = { choices, summary, changedAt: new Date(), removedAt: null, version: now.version + 1 };
        await tx.update(transfers).set(set).where(eq(transfers.id, now.id));
      }
      const [saved] = await transferRows(tx, and(eq(transfers.take, take.id), eq(transfers.pairing, pairing.id)));
      return saved;
    });
  }

  /** A character that is on the rack. @throws Refusal 404 */
  character(id: string): Promise<CharacterJson> {
    return this.characterOf(this.db, id);
  }

  private async characterOf(db: Reader, id: string): Promise<CharacterJson> {
    const [character] = await characterRows(db, eq(characters.id, id));
    return character ?? refuse(404, 'the character is not on the rack');
  }

  /** Values that the server stores by name. */
  async setting(name: string): Promise<unknown> {
    const [row] = await this.db.select().from(settings).where(eq(settings.name, name));
    return row?.value;
  }

  async remember(name: string, value: unknown): Promise<void> {
    await this.db.insert(settings).values({ name, value }).onConflictDoUpdate({ target: settings.name, set: { value } });
  }

  /** Contents that the rack knows, those of removed items too. */
  async knownFiles(): Promise<Set<string>> {
    const lists = await Promise.all([
      this.db.select({ hash: files.hash }).from(files),
      this.db.select({ hash: recordings.file }).from(recordings),
      this.db.select({ hash: meshes.file }).from(meshes),
    ]);
    return new Set(lists.flat().map(({ hash }) => hash));
  }

  /** Files whose facts an older version found out. */
  async outdatedFiles(): Promise<{ hash: string; name: string }[]> {
    return this.db.select({ hash: files.hash, name: files.name }).from(files).where(lt(files.factsVersion, FACTS_VERSION));
  }

  /** Puts new facts in place of old ones and finds the file's skeleton. */
  async refreshFile(hash: string, name: string, facts: FactsJson): Promise<void> {
    await this.db.transaction(async (tx) => {
      const skeleton = await skeletonOf(tx, facts.skeleton, skeletonName(name.replace(/\.[^.]*$/, ''), facts));
      await tx.update(files).set({ facts, skeleton, factsVersion: FACTS_VERSION }).where(eq(files.hash, hash));
      await measureOn(tx, skeleton, hash, clipToMeasure(facts));
    });
  }
}

async function transferRows(db: Reader, where: SQL | undefined): Promise<TransferJson[]> {
  const rows = await db
    .select()
    .from(transfers)
    .innerJoin(pairings, eq(transfers.pairing, pairings.id))
    .where(where)
    .orderBy(desc(transfers.changedAt))
    .limit(LIMITS.rackItems);
  return rows.map(({ transfers: t, pairings: p }) => ({
    id: t.id,
    version: t.version,
    name: t.name,
    take: t.take,
    pairing: t.pairing,
    character: p.character,
    choices: t.choices,
    summary: t.summary,
    changedAt: t.changedAt.toISOString(),
  }));
}

function pairingJson(row: typeof pairings.$inferSelect): PairingJson {
  return {
    id: row.id,
    version: row.version,
    name: row.name,
    performer: row.performer,
    character: row.character,
    choices: row.choices,
    changedAt: row.changedAt.toISOString(),
  };
}

function schemeJson(row: typeof schemes.$inferSelect): SchemeJson {
  return { id: row.id, version: row.version, scheme: { ...row.scheme, name: row.name }, addedAt: row.addedAt.toISOString() };
}
