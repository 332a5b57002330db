import { setTimeout as wait } from 'node:timers/promises';
import { DEPOT_PAGE, type DepotFetch, type DepotPage, type depotSearchSchema } from '@hollow-stride/contract';
import type { InferOutput } from 'valibot';
import { refuse } from '../errors';
import type { DepotItem } from './item';

export type Line = DepotFetch['line'];

/** Thrown when the line to the depot breaks while a file is on its way. */
export class LineBroken extends Error {}

const CHUNK = 32 * 1024;

/** The motion depot: a simulated library of motions that answers as slowly as one far away would. */
export class Depot {
  private items: Promise<readonly DepotItem[]> | undefined;
  private readonly made = new Map<string, Promise<{ name: string; bytes: Uint8Array }>>();

  constructor(private readonly latency: number) {}

  /** Motions whose title, description or tags hold every word searched for, in order of title. */
  async search(search: InferOutput<typeof depotSearchSchema>, signal?: AbortSignal): Promise<DepotPage> {
    await wait(this.latency, undefined, { signal });
    const words = search.text.toLowerCase().split(/\s+/).filter(Boolean);
    const all = await this.list();
    const fits = (item: DepotItem): boolean => {
      const text = `${item.title} ${item.what} ${item.tags.join(' ')}`.toLowerCase();
      return words.every((word) => text.includes(word)) && item.seconds >= search.shortest && item.seconds <= search.longest;
    };
    const found = all.filter(fits);
    const counts = new Map<string, number>();
    for (const { tags } of found) for (const tag of tags) counts.set(tag, (counts.get(tag) ?? 0) + 1);
    const chosen = search.tag === '' ? found : found.filter(({ tags }) => tags.includes(search.tag));
    const pages = Math.max(1, Math.ceil(chosen.length / DEPOT_PAGE));
    const page = Math.min(search.page, pages - 1);
    return {
      motions: chosen
        .slice(page * DEPOT_PAGE, (page + 1) * DEPOT_PAGE)
        .map(({ id, title, what, tags, seconds, travels }) => ({ id, title, what, tags, seconds, travels })),
      total: chosen.length,
      page,
      pages,
      tags: [...counts].map(([tag, count]) => ({ tag, count })).sort((a, b) => b.count - a.count || (a.tag < b.tag ? -1 : 1)),
    };
  }

  async item(id: string): Promise<DepotItem> {
    const item = (await this.list()).find((i) => i.id === id);
    return item ?? refuse(404, `the depot has no motion "${id}"`);
  }

  /** The whole file of a motion, made once. */
  async file(id: string, options: Pick<DepotFetch, 'travel' | 'fps' | 'body'>): Promise<{ name: string; bytes: Uint8Array }> {
    const item = await this.item(id);
    const key = JSON.stringify([id, options.travel, options.fps, options.body]);
    let made = this.made.get(key);
    if (!made) {
      made = item.file(options);
      made.catch(() => this.made.delete(key));
      this.made.set(key, made);
      for (const old of this.made.keys()) if (this.made.size > 16) this.made.delete(old);
    }
    return made;
  }

  /**
   * Sends a file over the line from a byte on, piece by piece.
   * @param line `drops` breaks half way the first time; `dead` breaks half way each time
   * @throws LineBroken
   */
  async *send(bytes: Uint8Array, from: number, line: Line, attempt: number, signal: AbortSignal): AsyncGenerator<Uint8Array> {
    await wait(this.latency, undefined, { signal });
    const half = Math.floor(bytes.length / 2);
    const breaks = line === 'dead' || (line === 'drops' && attempt === 0);
    const end = breaks ? half : bytes.length;
    // Ten answers' time for a whole file, however large.
    const pause = (this.latency * 2) / Math.max(1, Math.ceil(bytes.length / CHUNK));
    for (let at = from; at < end; at += CHUNK) {
      await wait(pause, undefined, { signal });
      yield bytes.subarray(at, Math.min(end, at + CHUNK));
    }
    if (breaks) throw new LineBroken('the line to the depot broke');
  }

  private list(): Promise<readonly DepotItem[]> {
    this.items ??= import('../makeDemo').then(({ depotItems }) => depotItems());
    return this.items;
  }
}
