import { and, desc, eq, isNotNull, isNull, lt } from 'drizzle-orm';
import { DEFAULT_TAKE, type NamingScheme } from '@hollow-stride/core';
import type {
  ChangeTake,
  CharacterJson,
  FactsJson,
  PairingJson,
  RackJson,
  SavePairing,
  SaveTransfer,
  SchemeJson,
  TakeJson,
  TransferJson,
} from '@hollow-stride/contract';
import { LIMITS } from '@hollow-stride/contract';
import type { Database } from './db/open';
import { characters, files, pairings, schemes, takes, transfers } from './db/schema';
import { refuse } from './errors';
import { measureOn, skeletonOf, skeletonRows } from './skeletons';

const TABLES = { takes, characters, transfers, pairings, schemes } as const;

/** Counted up when the facts of files hold more than before: files read by an older one are read again at the next start. */
export const FACTS_VERSION = 2;

/** Everything on the rack, as rows of the database. */
export class Library {
  constructor(readonly db: Database) {}

  async rack(): Promise<RackJson> {
    const [takeRows, characterRows, transferRows, pairingRows, schemeRows] = await Promise.all([
      this.takeRows(isNull(takes.removedAt)),
      this.characterRows(isNull(characters.removedAt)),
      this.transferRows(isNull(transfers.removedAt)),
      this.db
        .select()
        .from(pairings)
        .where(and(isNull(pairings.removedAt), isNotNull(pairings.performer)))
        .orderBy(desc(pairings.changedAt))
        .limit(LIMITS.rackItems),
      this.schemeRows(),
    ]);
    return {
      takes: takeRows,
      characters: characterRows,
      transfers: transferRows,
      pairings: pairingRows.map(pairingJson),
      skeletons: await skeletonRows(
        this.db,
        [...takeRows, ...characterRows].map(({ file }) => file),
      ),
      schemes: schemeRows,
    };
  }

  async fileName(hash: string): Promise<string | undefined> {
    const [row] = await this.db.select({ name: files.name }).from(files).where(eq(files.hash, hash));
    return row?.name;
  }

  async hasFile(hash: string): Promise<boolean> {
    return (await this.fileName(hash)) !== undefined;
  }

  /**
   * Adds a file and what it holds: its motions as takes, its body as a character when it has a mesh or no motion.
   * Content that is known already comes back onto the rack as it was.
   */
  async addFile(
    file: { hash: string; name: string; bytes: number; facts: FactsJson },
    { title, isDemo = false, tags = [], note = '' }: { title?: string; isDemo?: boolean; tags?: string[]; note?: string } = {},
  ): Promise<{ takes: TakeJson[]; characters: CharacterJson[] }> {
    const { facts, hash } = file;
    await this.db.transaction(async (tx) => {
      const stem = (title ?? file.name.replace(/\.[^.]*$/, '')).slice(0, LIMITS.name) || 'untitled';
      const skeleton = await skeletonOf(tx, facts.skeleton, skeletonName(stem, facts));
      await tx
        .insert(files)
        .values({ ...file, skeleton, factsVersion: FACTS_VERSION })
        .onConflictDoNothing();
      await measureOn(tx, skeleton, hash, clipToMeasure(facts));
      for (const [clip, { name, frames }] of facts.clips.entries()) {
        if (frames < 2) continue;
        const own = facts.clips.length > 1 ? `${stem}: ${name}`.slice(0, LIMITS.name) : stem;
        await tx
          .insert(takes)
          .values({ file: hash, clip, name: own, isDemo, tags, note })
          .onConflictDoUpdate({ target: [takes.file, takes.clip], set: { removedAt: null } });
      }
      if (facts.hasMesh || !facts.clips.some(({ frames }) => frames > 1)) {
        await tx
          .insert(characters)
          .values({ file: hash, name: stem, isDemo })
          .onConflictDoUpdate({ target: characters.file, set: { removedAt: null } });
      }
    });
    return { takes: await this.takeRows(eq(takes.file, hash)), characters: await this.characterRows(eq(characters.file, hash)) };
  }

  /** Puts the skeleton that a take was recorded on onto the rack as a character. */
  async performerAsCharacter(takeId: string): Promise<CharacterJson> {
    const [take] = await this.takeRows(eq(takes.id, takeId));
    if (!take) return refuse(404, 'the take is not on the rack');
    await this.db
      .insert(characters)
      .values({ file: take.file, name: `${take.name} performer`.slice(0, LIMITS.name) })
      .onConflictDoUpdate({ target: characters.file, set: { removedAt: null } });
    const [row] = await this.characterRows(eq(characters.file, take.file));
    return row;
  }

  async change(kind: keyof typeof TABLES, id: string, change: { name?: string; removed?: boolean }): Promise<void> {
    const table = TABLES[kind];
    const set = {
      ...(change.name === undefined ? {} : { name: change.name }),
      ...(change.removed === undefined ? {} : { removedAt: change.removed ? new Date() : null }),
    };
    const rows = await this.db.update(table).set(set).where(eq(table.id, id)).returning({ id: table.id });
    if (rows.length === 0) refuse(404, 'it is not on the rack');
  }

  async changeTake(id: string, change: ChangeTake): Promise<void> {
    const rows = await this.db.update(takes).set(change).where(eq(takes.id, id)).returning({ id: takes.id });
    if (rows.length === 0) refuse(404, 'the take is not on the rack');
  }

  async addScheme(scheme: NamingScheme): Promise<SchemeJson> {
    const count = await this.db.$count(schemes, isNull(schemes.removedAt));
    if (count >= LIMITS.schemes) refuse(409, `there are ${count} naming schemes already; take some off the rack first`);
    const [row] = await this.db.insert(schemes).values({ name: scheme.name, scheme }).returning();
    return schemeJson(row);
  }

  private async schemeRows(): Promise<SchemeJson[]> {
    const rows = await this.db.select().from(schemes).where(isNull(schemes.removedAt)).orderBy(schemes.addedAt).limit(LIMITS.schemes);
    return rows.map(schemeJson);
  }

  /** Keeps a pairing of a performer's skeleton and a character; one for each two. */
  async savePairing({ performer, character, choices, name }: SavePairing): Promise<PairingJson> {
    const [target] = await this.characterRows(eq(characters.id, character));
    if (!target) refuse(404, 'the character is not on the rack');
    const changedAt = new Date();
    const set = { choices, changedAt, removedAt: null, ...(name === undefined ? {} : { name }) };
    const [row] = await this.db
      .insert(pairings)
      .values({ performer, character, choices, name: name ?? `to ${target.name}` })
      .onConflictDoUpdate({ target: [pairings.performer, pairings.character], set })
      .returning();
    return pairingJson(row);
  }

  /** Keeps a transfer with its pairing; solving the same take through the same pairing again replaces it. */
  async saveTransfer(request: SaveTransfer): Promise<TransferJson> {
    const { choices, summary } = request;
    const [take] = await this.takeRows(eq(takes.id, request.take));
    const [character] = await this.characterRows(eq(characters.id, request.character));
    if (!take || !character) refuse(404, 'the take or the character is not on the rack');
    const pairing = await this.savePairing({ performer: take.skeleton, character: character.id, choices });
    const changedAt = new Date();
    const [row] = await this.db
      .insert(transfers)
      .values({ take: take.id, pairing: pairing.id, choices, summary, name: `${take.name} on ${character.name}`.slice(0, LIMITS.name) })
      .onConflictDoUpdate({ target: [transfers.take, transfers.pairing], set: { choices, summary, changedAt, removedAt: null } })
      .returning({ id: transfers.id });
    const [saved] = await this.transferRows(eq(transfers.id, row.id));
    return saved;
  }

  /** Files whose facts an older version found out. */
  async outdatedFiles(): Promise<{ hash: string; name: string }[]> {
    return this.db.select({ hash: files.hash, name: files.name }).from(files).where(lt(files.factsVersion, FACTS_VERSION));
  }

  /** Puts new facts in place of old ones and finds the file's skeleton; its pairings follow. */
  async refreshFile(hash: string, name: string, facts: FactsJson): Promise<void> {
    await this.db.transaction(async (tx) => {
      const skeleton = await skeletonOf(tx, facts.skeleton, skeletonName(name.replace(/\.[^.]*$/, '') || 'untitled', facts));
      await tx.update(files).set({ facts, skeleton, factsVersion: FACTS_VERSION }).where(eq(files.hash, hash));
      await measureOn(tx, skeleton, hash, clipToMeasure(facts));
      const old = await tx
        .select()
        .from(pairings)
        .where(and(eq(pairings.takeFile, hash), isNull(pairings.performer)));
      for (const { id, character } of old) {
        const [held] = await tx
          .select()
          .from(pairings)
          .where(and(eq(pairings.performer, skeleton), eq(pairings.character, character)));
        if (!held) await tx.update(pairings).set({ performer: skeleton }).where(eq(pairings.id, id));
      }
    });
  }

  private async takeRows(where: ReturnType<typeof eq>): Promise<TakeJson[]> {
    const rows = await this.db
      .select()
      .from(takes)
      .innerJoin(files, eq(takes.file, files.hash))
      .where(where)
      .orderBy(takes.addedAt, takes.clip)
      .limit(LIMITS.rackItems);
    return rows.map(({ takes: t, files: f }) => ({
      id: t.id,
      name: t.name,
      file: t.file,
      fileName: f.name,
      bytes: f.bytes,
      clip: t.clip,
      skeleton: f.skeleton!,
      tags: t.tags,
      note: t.note,
      choices: t.choices ?? DEFAULT_TAKE,
      facts: f.facts,
      isDemo: t.isDemo,
      addedAt: t.addedAt.toISOString(),
    }));
  }

  private async characterRows(where: ReturnType<typeof eq>): Promise<CharacterJson[]> {
    const rows = await this.db
      .select()
      .from(characters)
      .innerJoin(files, eq(characters.file, files.hash))
      .where(where)
      .orderBy(characters.addedAt)
      .limit(LIMITS.rackItems);
    return rows.map(({ characters: c, files: f }) => ({
      id: c.id,
      name: c.name,
      file: c.file,
      fileName: f.name,
      bytes: f.bytes,
      skeleton: f.skeleton!,
      facts: f.facts,
      isDemo: c.isDemo,
      addedAt: c.addedAt.toISOString(),
    }));
  }

  private async transferRows(where: ReturnType<typeof eq>): Promise<TransferJson[]> {
    const rows = await this.db
      .select()
      .from(transfers)
      .innerJoin(pairings, eq(transfers.pairing, pairings.id))
      .where(and(where))
      .orderBy(desc(transfers.changedAt))
      .limit(LIMITS.rackItems);
    return rows.map(({ transfers: t, pairings: p }) => ({
      id: t.id,
      name: t.name,
      take: t.take,
      pairing: t.pairing,
      character: p.character,
      choices: t.choices,
      summary: t.summary,
      changedAt: t.changedAt.toISOString(),
    }));
  }
}

function pairingJson(row: typeof pairings.$inferSelect): PairingJson {
  return {
    id: row.id,
    name: row.name,
    performer: row.performer!,
    character: row.character,
    choices: row.choices,
    changedAt: row.changedAt.toISOString(),
  };
}

function schemeJson(row: typeof schemes.$inferSelect): SchemeJson {
  return { id: row.id, scheme: { ...row.scheme, name: row.name }, addedAt: row.addedAt.toISOString() };
}

/** The first motion of a file speaks for its skeleton; a file without one by its rest pose alone. */
function clipToMeasure({ clips }: FactsJson): number {
  return Math.max(
    0,
    clips.findIndex(({ frames }) => frames > 1),
  );
}

/** A skeleton is called by the file that it was first met in: a take's performer, or a character's own. */
function skeletonName(stem: string, { clips, hasMesh }: FactsJson): string {
  const isPerformer = !hasMesh && clips.some(({ frames }) => frames > 1);
  return (isPerformer ? `performer of ${stem}` : stem).slice(0, LIMITS.name);
}
