/**
 * Two hundred transfers in one run: all motions of the depot on all characters of the demo, on one thread that has one core to itself
 * and nothing else, on one thread, on two, and on two with the server killed twice on the way. Each on a server of its own; every file
 * is read again at the end, from a zip of all. /api/health is asked all the while. Where nothing is killed a second run follows, in place, on threads whose code is compiled by then.
 *
 *   npm run runs
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DEFAULT_OUTPUT, type RunItemsJson, type RunJson, type RunOutput } from '@hollow-stride/contract';
import { readMotionFile } from '@hollow-stride/core';
import { depotMotions, makeDemo } from '@hollow-stride/demo';
import { unzipSync } from 'fflate';
import { Answers, print, Program } from './serve';

const LOOK = 500;
/** Reading files takes longer than the server keeps an idle connection. */
const NEW_LINE = { headers: { connection: 'close' } };
const takeFiles = await Promise.all(depotMotions().map((one) => one.file({ travel: 'travelling', fps: 60, body: 'motion' })));
const characterFiles = (await makeDemo()).filter(({ name }) => name.endsWith('.glb'));

const alone = await measured(1, [], 0);
const one = await measured(1, []);
const two = await measured(2, []);
['first run', 'second run'].forEach((name, i) =>
  print(
    `${name}: one core over two ${(alone[i] / two[i]).toFixed(2)}; one thread over two, whatever cores they use, ${(one[i] / two[i]).toFixed(2)}`,
  ),
);
await measured(2, [0.3, 0.6]);

/** @param kills shares of the run after which the server is killed @param core the only one that it may use @returns seconds, run by run */
async function measured(threads: number, kills: readonly number[], core?: number): Promise<number[]> {
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
  const total = takes.length * characters.length;
  const name = `${total} transfers on ${threads} thread${threads > 1 ? 's' : ''}${core === undefined ? '' : ' and one core'}`;
  const [runAnswers, zipAnswers] = [new Answers(() => program.base), new Answers(() => program.base)];
  // The second follows at once: threads that have nothing to do end.
  const runs = [await runAnswers.during(oneRun(DEFAULT_OUTPUT))];
  if (kills.length === 0) runs.push(await runAnswers.during(oneRun({ ...DEFAULT_OUTPUT, inPlace: true })));
  for (const [i, { id, seconds, busy, peak }] of runs.entries()) {
    const { run, work, whole } = await readAgain(id);
    print(
      `${name}${kills.length > 0 ? `, killed ${kills.length} times` : i > 0 ? ', once more' : ''}: ${seconds.toFixed(0)} s, ${(work / seconds / 1e6).toFixed(2)} million joints × frames a second, ${busy.toFixed(2)} cores busy, peak ${peak.toFixed(0)} MB; ${run.done} done, ${run.failed} failed, ${whole} files read again`,
    );
  }
  print(`  runs: ${runAnswers}; zips: ${zipAnswers}`);
  await program.kill('SIGTERM');
  rmSync(data, { recursive: true });
  return runs.map(({ seconds }) => seconds);

  async function oneRun(output: RunOutput): Promise<{ id: string; seconds: number; busy: number; peak: number }> {
    const headers = { 'content-type': 'application/json' };
    const body = JSON.stringify({ name: 'two hundred', takes, characters, output });
    const began = performance.now();
    let worked = -program.worked();
    const { id } = (await (await fetch(`${program.base}/api/runs`, { method: 'POST', headers, body })).json()) as RunJson;
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
    return { id, seconds, busy: worked / seconds, peak };
  }

  async function readAgain(id: string): Promise<{ run: RunJson; work: number; whole: number }> {
    const { items, run } = (await (await fetch(`${program.base}/api/runs/${id}`, NEW_LINE)).json()) as RunItemsJson;
    const zip = fetch(`${program.base}/api/runs/${id}/zip`, NEW_LINE).then((answer) => answer.arrayBuffer());
    const parts = unzipSync(new Uint8Array(await zipAnswers.during(zip)));
    let work = 0;
    let whole = 0;
    for (const { fileName, format } of items) {
      const name = `files/${fileName}.${format}`;
      const file = await readMotionFile(parts[name], name);
      const clip = file.clips.at(-1)!;
      work += clip.frames * file.skeleton.names.length;
      whole++;
    }
    return { run, work, whole };
  }
}
