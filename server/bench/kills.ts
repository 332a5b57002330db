/**
 * Kills the server over and over while it is under load, and counts what was acknowledged and is lost, what is there twice, and
 * what lies about afterwards.
 *
 *   npm run kills              a hundred kills
 *   npm run kills -- 20 7      so many, from another seed
 */
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeBvh, type BvhLayout } from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '@hollow-stride/core/testing/index';
import { median, print, Program, seeded } from './serve';

const KILLS = Number(process.argv[2] ?? 100);
const random = seeded(Number(process.argv[3] ?? 1));
const data = mkdtempSync(join(tmpdir(), 'hollow-stride-kills-'));

/** What the server acknowledged: contents by hash, notes by take. */
const contents = new Set<string>();
const notes = new Map<string, string>();
const ids: string[] = [];
let made = 0;
let failed = 0;
const restarts: number[] = [];
const shape = randomShape(1, { spine: 2, neck: 1, clavicles: true });
const file = makeFile(shape, { metres: 0.01 }, walk(shape, { frames: 20 }));
const text = new TextDecoder().decode(writeBvh(file.skeleton, file.clips[0], file.layout as BvhLayout));

let program = await Program.start(data);
for (let kill = 0; kill < KILLS; kill++) {
  const ending = { now: false };
  const load = Promise.all([uploads(ending), edits(ending)]);
  // No two kills at the same moment of what goes on.
  await new Promise((resolve) => setTimeout(resolve, 600 + random() * 2000));
  ending.now = true;
  await program.kill();
  await load;
  try {
    program = await Program.start(data);
    restarts.push(program.took);
  } catch (error) {
    failed++;
    print(String(error));
    program = await Program.start(data);
  }
}
await report();
await program.kill('SIGTERM');
rmSync(data, { recursive: true });

async function uploads(ending: { now: boolean }): Promise<void> {
  while (!ending.now) {
    const content = `${text.trimEnd()} \n${' '.repeat(made++ % 50)}\n${'\n'.repeat(Math.floor(made / 50))}`;
    try {
      const [{ takes, error }] = await program.post(`take ${made}.bvh`, content);
      if (error) throw new Error(error.message);
      contents.add(createHash('sha256').update(content).digest('hex'));
      ids.push(takes[0].id);
    } catch {
      // Not acknowledged: it may be there or not.
    }
  }
}

async function edits(ending: { now: boolean }): Promise<void> {
  for (let i = 0; !ending.now; i++) {
    if (ids.length === 0) {
      await new Promise((resolve) => setTimeout(resolve, 20));
      continue;
    }
    const id = ids[Math.floor(random() * ids.length)];
    const note = `${i} ${random()}`;
    try {
      const headers = { 'content-type': 'application/json' };
      const response = await fetch(`${program.base}/api/takes/${id}/settings`, {
        method: 'PATCH',
        headers,
        body: JSON.stringify({ note }),
      });
      if (response.status === 204) notes.set(id, note);
      else notes.delete(id);
    } catch {
      notes.delete(id);
    }
  }
}

async function report(): Promise<void> {
  const takes: { id: string; file: string; note: string }[] = [];
  for (let from = 0; ;) {
    const page = (await (await fetch(`${program.base}/api/takes?from=${from}`)).json()) as { takes: typeof takes; total: number };
    takes.push(...page.takes);
    from += page.takes.length;
    if (from >= page.total) break;
  }
  const there = new Set(takes.map(({ file: hash }) => hash));
  const noted = new Map(takes.map(({ id, note }) => [id, note]));
  const onDisk = readdirSync(join(data, 'files')).filter((name) => name !== 'incoming');
  const lostFiles = [...contents].filter((hash) => !there.has(hash) || !onDisk.includes(hash));
  const lostNotes = [...notes].filter(([id, note]) => noted.get(id) !== note);
  const orphans = onDisk.filter((hash) => !there.has(hash)).length + readdirSync(join(data, 'files', 'incoming')).length;
  print(`${KILLS} kills; acknowledged: ${contents.size} files, ${notes.size} notes that stand`);
  print(
    `lost: ${lostFiles.length} files, ${lostNotes.length} notes; doubled: ${takes.length - there.size}; orphans after the next start: ${orphans}`,
  );
  print(`failed starts: ${failed}; restart: median ${Math.round(median(restarts))} ms, longest ${Math.round(Math.max(...restarts))} ms`);
}
