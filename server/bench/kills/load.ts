import { createHash } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { writeBvh, type BvhLayout } from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '@hollow-stride/core/testing/index';
import type { Program } from '../serve';

const shape = randomShape(1, { spine: 2, neck: 1, clavicles: true });
const file = makeFile(shape, { metres: 0.01 }, walk(shape, { frames: 20 }));
const text = new TextDecoder().decode(writeBvh(file.skeleton, file.clips[0], file.layout as BvhLayout));

/** The n-th of takes that all differ, as BVH. */
export const takeOf = (n: number): string => `${text.trimEnd()} \n${' '.repeat(n % 50)}\n${'\n'.repeat(Math.floor(n / 50))}`;

interface Row {
  readonly id: string;
  readonly name: string;
  readonly file: string;
  readonly note: string;
  readonly version: number;
}

/** Uploads and edits that go on until they are told to end, and what of them was acknowledged. */
export class Load {
  /** Contents by hash, notes by take: acknowledged, and not written over since. */
  private readonly contents = new Set<string>();
  private readonly notes = new Map<string, string>();
  private readonly ids: string[] = [];
  private made = 0;
  private isEnding = false;
  private working: Promise<unknown> = Promise.resolve();
  /** How often an answer said why it could not be done. */
  refused = 0;

  constructor(
    private readonly random: () => number,
    private readonly begin = 0,
  ) {}

  start(program: Program): void {
    this.isEnding = false;
    this.working = Promise.all([this.uploads(program), this.edits(program)]);
  }

  /** Asks for an end; what is on its way is let go on. */
  end(): void {
    this.isEnding = true;
  }

  async ended(): Promise<void> {
    this.end();
    await this.working;
  }

  private async uploads(program: Program): Promise<void> {
    while (!this.isEnding) {
      const content = takeOf(this.begin + this.made++);
      try {
        const [{ takes, error }] = await program.post(`take ${this.made}.bvh`, content);
        if (error) throw new Error(error.message);
        this.contents.add(createHash('sha256').update(content).digest('hex'));
        this.ids.push(takes[0].id);
      } catch {
        // Not acknowledged: it may be there or not.
        this.refused++;
        await pause(5);
      }
    }
  }

  private async edits(program: Program): Promise<void> {
    const versions = new Map<string, number>();
    for (let i = 0; !this.isEnding; i++) {
      if (this.ids.length === 0) {
        await pause(20);
        continue;
      }
      const id = this.ids[Math.floor(this.random() * this.ids.length)];
      const note = `${i} ${this.random()}`;
      try {
        const send = (base: number): Promise<Response> =>
          fetch(`${program.base}/api/takes/${id}/settings`, {
            method: 'PATCH',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify({ base, note }),
          });
        let answer = await send(versions.get(id) ?? 1);
        if (answer.status === 409) answer = await send(((await answer.json()) as { current: Row }).current.version);
        if (answer.status !== 200) throw new Error(String(answer.status));
        versions.set(id, ((await answer.json()) as Row).version);
        this.notes.set(id, note);
      } catch {
        this.notes.delete(id);
        versions.delete(id);
        await pause(5);
      }
    }
  }

  /** Holds what is on the rack against what was acknowledged. @param data folder of the server */
  async check(program: Program, data: string): Promise<Checked> {
    const takes = await rackOf(program);
    const there = new Set(takes.map(({ file: hash }) => hash));
    const noted = new Map(takes.map(({ id, note }) => [id, note]));
    const onDisk = readdirSync(join(data, 'files')).filter((name) => name !== 'incoming');
    return {
      acknowledged: this.contents.size + this.notes.size,
      lost:
        [...this.contents].filter((hash) => !there.has(hash) || !onDisk.includes(hash)).length +
        [...this.notes].filter(([id, note]) => noted.get(id) !== note).length,
      doubled: takes.length - there.size,
      orphans: onDisk.filter((hash) => !there.has(hash)).length + onTheWay(data),
    };
  }
}

export interface Checked {
  readonly acknowledged: number;
  readonly lost: number;
  readonly doubled: number;
  readonly orphans: number;
}

/** Files that lie on their way, but for the locks of who works there. */
function onTheWay(data: string): number {
  return readdirSync(join(data, 'files', 'incoming'), { recursive: true, withFileTypes: true }).filter(
    (entry) => entry.isFile() && entry.name !== 'lock',
  ).length;
}

/** All takes on the rack. */
export async function rackOf(program: Program): Promise<Row[]> {
  const takes: Row[] = [];
  for (let from = 0; ;) {
    const page = (await (await fetch(`${program.base}/api/takes?from=${from}`)).json()) as { takes: Row[]; total: number };
    takes.push(...page.takes);
    from += page.takes.length;
    if (from >= page.total || page.takes.length === 0) return takes;
  }
}

export const pause = (milliseconds: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, milliseconds));
