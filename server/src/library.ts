import { and, desc, eq, isNull } from 'drizzle-orm';
import type { CharacterJson, FactsJson, PairingJson, RackJson, SaveTransfer, TakeJson, TransferJson } from '@hollow-stride/contract';
import { LIMITS } from '@hollow-stride/contract';
import type { Database } from './db/open';
import { characters, files, pairings, takes, transfers } from './db/schema';
import { refuse } from './errors';

const TABLES = { takes, characters, transfers, pairings } as const;

/** Everything on the rack, as rows of the database. */
export class Library {
  constructor(private readonly db: Database) {}

  async rack(): Promise<RackJson> {
    const [takeRows, characterRows, transferRows, pairingRows] = await Promise.all([
      this.takeRows(isNull(takes.removedAt)),
      this.characterRows(isNull(characters.removedAt)),
      this.transferRows(isNull(transfers.removedAt)),
      this.db.select().from(pairings).where(isNull(pairings.removedAt)).orderBy(desc(pairings.changedAt)).limit(LIMITS.rackItems),
    ]);
    return { takes: takeRows, characters: characterRows, transfers: transferRows, pairings: pairingRows.map(pairingJson) };
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
    title?: string,
    isDemo = false,
  ): Promise<{ takes: TakeJson[]; characters: CharacterJson[] }> {
    const { facts, hash } = file;
    await this.db.transaction(async (tx) => {
      await tx.insert(files).values(file).onConflictDoNothing();
      const stem = (title ?? file.name.replace(/\.[^.]*$/, '')).slice(0, LIMITS.name) || 'untitled';
      for (const [clip, { name, frames }] of facts.clips.entries()) {
        if (frames < 2) continue;
        const own = facts.clips.length > 1 ? `${stem}: ${name}`.slice(0, LIMITS.name) : stem;
        await tx
          .insert(takes)
          .values({ file: hash, clip, name: own, isDemo })
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

  /** Keeps a transfer with its pairing; solving the same take through the same pairing again replaces it. */
  async saveTransfer(request: SaveTransfer): Promise<TransferJson> {
    const { choices, summary } = request;
    const [take] = await this.takeRows(eq(takes.id, request.take));
    const [character] = await this.characterRows(eq(characters.id, request.character));
    if (!take || !character) refuse(404, 'the take or the character is not on the rack');
    const id = await this.db.transaction(async (tx) => {
      const changedAt = new Date();
      const [pairing] = await tx
        .insert(pairings)
        .values({
          takeFile: take.file,
          character: character.id,
          choices,
          name: `${take.fileName} to ${character.name}`.slice(0, LIMITS.name),
        })
        .onConflictDoUpdate({ target: [pairings.takeFile, pairings.character], set: { choices, changedAt, removedAt: null } })
        .returning({ id: pairings.id });
      const [row] = await tx
        .insert(transfers)
        .values({ take: take.id, pairing: pairing.id, choices, summary, name: `${take.name} on ${character.name}`.slice(0, LIMITS.name) })
        .onConflictDoUpdate({ target: [transfers.take, transfers.pairing], set: { choices, summary, changedAt, removedAt: null } })
        .returning({ id: transfers.id });
      return row.id;
    });
    const [saved] = await this.transferRows(eq(transfers.id, id));
    return saved;
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
    takeFile: row.takeFile,
    character: row.character,
    choices: row.choices,
    changedAt: row.changedAt.toISOString(),
  };
}
