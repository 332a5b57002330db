/**
 * Two hundred transfers in one run: all motions of the depot on all characters of the demo, on one thread that has one core to itself
 * and nothing else, on one thread, on two, and on two with the server killed twice on the way. Each on a server of its own; every file
 * is read again at the end.
 *
 *   npm run runs
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DEFAULT_OUTPUT, type RunItemsJson, type RunJson } from '@hollow-stride/contract';
import { readMotionFile } from '@hollow-stride/core';
import { depotMotions, makeDemo } from '@hollow-stride/demo';
import { unzipSync } from 'fflate';
import { print, Program } from './serve';

const LOOK = 500;
const takeFiles = await Promise.all(depotMotions().map((one) => one.file({ travel: 'travelling', fps: 60, body: 'motion' })));
const characterFiles = (await makeDemo()).filter(({ name }) => name.endsWith('.glb'));

const alone = await measured(1, [], 0);
const one = await measured(1, []);
const two = await measured(2, []);
print(`one core over two: ${(alone / two).toFixed(2)}; one thread over two, whatever cores they use: ${(one / two).toFixed(2)}`);
await measured(2, [0.3, 0.6]);

/** @param kills shares of the run after which the server is killed @param core the only one that it may use @returns seconds */
async function measured(threads: number, kills: readonly number[], core?: number): Promise<number> {
  const data = mkdtempSync(join(tmpdir(), 'hollow-stride-runs-'));
  const env = { HOLLOW_STRIDE_THREADS: String(threads) };
  let program = await Program.start(data, env, core);
  const takes: string[] = [];
  const characters: string[] = [];
  for (const { name, bytes } of [...takeFiles, ...characterFiles]) {
    const [file] = (await program.post(name, bytes)) as { takes: { id: string }[]; characters: { id: string }[] }[];
    if (characterFiles.some((character) => character.name === name)) characters.push(...file.characters.map(({ id }) => id));
    else takes.push(...file.takes.map(({ id }) => id));
  }
  const headers = { 'content-type': 'application/json' };
  const body = JSON.stringify({ name: 'two hundred', takes, characters, output: DEFAULT_OUTPUT });
  const began = performance.now();
  let worked = -program.worked();
  const { id } = (await (await fetch(`${program.base}/api/runs`, { method: 'POST', headers, body })).json()) as RunJson;
  const total = takes.length * characters.length;
  const left = [...kills];
  let peak = 0;
  for (;;) {
    await new Promise((resolve) => setTimeout(resolve, LOOK));
    const { runs } = (await (await fetch(`${program.base}/api/runs`)).json()) as { runs: RunJson[] };
    const run = runs.find((one) => one.id === id)!;
    if (run.done + run.failed >= total) break;
    if (left.length > 0 && run.done >= left[0] * total) {
      left.shift();
      peak = Math.max(peak, program.peak());
      worked += program.worked();
      await program.kill();
      program = await Program.start(data, env, core);
    }
  }
  const seconds = (performance.now() - began) / 1000;
  peak = Math.max(peak, program.peak());
  worked += program.worked();
  const { items, run } = (await (await fetch(`${program.base}/api/runs/${id}`)).json()) as RunItemsJson;
  const parts = unzipSync(new Uint8Array(await (await fetch(`${program.base}/api/runs/${id}/zip`)).arrayBuffer()));
  let work = 0;
  let whole = 0;
  for (const { fileName, format } of items) {
    const name = `files/${fileName}.${format}`;
    const file = await readMotionFile(parts[name], name);
    const clip = file.clips.at(-1)!;
    work += clip.frames * file.skeleton.names.length;
    whole++;
  }
  print(
    `${total} transfers on ${threads} thread${threads > 1 ? 's' : ''}${core === undefined ? '' : ' and one core'}${kills.length > 0 ? `, killed ${kills.length} times` : ''}: ${seconds.toFixed(0)} s, ${(work / seconds / 1e6).toFixed(2)} million joints × frames a second, ${(worked / seconds).toFixed(2)} cores busy, peak ${peak.toFixed(0)} MB; ${run.done} done, ${run.failed} failed, ${whole} files read again`,
  );
  await program.kill('SIGTERM');
  rmSync(data, { recursive: true });
  return seconds;
}
