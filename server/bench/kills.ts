/**
 * Ends the server over and over while it works, and counts what was acknowledged and is lost, what is there twice, and what lies about
 * afterwards: kills under load, kills while a backup is brought back, a PostgreSQL server that restarts, a disk that is full.
 *
 *   npm run kills              a hundred kills, ten restores, eight restarts, a full disk
 *   npm run kills -- 20 7      so many kills, from another seed
 */
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startPostgres } from '../src/testing/postgres';
import { Load, pause, rackOf, takeOf, type Checked } from './kills/load';
import { median, print, Program, seeded } from './serve';

const KILLS = Number(process.argv[2] ?? 100);
const RESTORES = 10;
const RESTARTS = 8;
/** Takes of a backup that is brought back: enough that a kill meets it on its way. */
const IN_BACKUP = 40;
const random = seeded(Number(process.argv[3] ?? 1));

const folders: string[] = [];
const folder = (): string => {
  const made = mkdtempSync(join(tmpdir(), 'hollow-stride-kills-'));
  folders.push(made);
  return made;
};
const row = (what: string, times: number, { acknowledged, lost, doubled, orphans }: Checked, more = ''): void =>
  print(`| ${what} | ${times} | ${acknowledged} | ${lost} | ${doubled} | ${orphans} | ${more} |`);

print('| ended by | times | acknowledged | lost | doubled | orphans | |');
print('| --- | --- | --- | --- | --- | --- | --- |');
try {
  await underLoad();
  await restores();
  await restarts();
  await fullDisk();
} finally {
  for (const made of folders) rmSync(made, { recursive: true, force: true });
}

async function underLoad(): Promise<void> {
  const data = folder();
  const load = new Load(random);
  const took: number[] = [];
  let failed = 0;
  let program = await Program.start(data);
  for (let kill = 0; kill < KILLS; kill++) {
    load.start(program);
    // No two kills at the same moment of what goes on.
    await pause(600 + random() * 2000);
    load.end();
    await program.kill();
    await load.ended();
    try {
      program = await Program.start(data);
      took.push(program.took);
    } catch (error) {
      failed++;
      print(String(error));
      program = await Program.start(data);
    }
  }
  const more = `failed starts ${failed}; restart median ${Math.round(median(took))} ms, longest ${Math.round(Math.max(...took))} ms`;
  row('kill under load', KILLS, await load.check(program, data), more);
  await program.kill('SIGTERM');
}

/** A backup is all there or not at all after a kill, and the good archive brings it in afterwards. */
async function restores(): Promise<void> {
  const data = folder();
  const load = new Load(random, 1e6);
  let program = await Program.start(data);
  let [whole, none, half, unrepaired] = [0, 0, 0, 0];
  for (let i = 0; i < RESTORES; i++) {
    const archive = await backupOf(i);
    load.start(program);
    const restore = program.post(`backup ${i}.zip`, archive).catch(() => undefined);
    await pause(20 + random() * 5000);
    load.end();
    await program.kill();
    await Promise.all([load.ended(), restore]);
    program = await Program.start(data);
    const count = async (): Promise<number> => (await rackOf(program)).filter(({ name }) => name.startsWith(`kept ${i} `)).length;
    const there = await count();
    if (there === IN_BACKUP) whole++;
    else if (there === 0) none++;
    else half++;
    await program.post(`backup ${i}.zip`, archive);
    if ((await count()) !== IN_BACKUP) unrepaired++;
  }
  const more = `whole ${whole}, not at all ${none}, half ${half}; not repaired by the good archive ${unrepaired}`;
  row('kill while a backup is brought back', RESTORES, await load.check(program, data), more);
  await program.kill('SIGTERM');
}

async function backupOf(i: number): Promise<Uint8Array> {
  const data = folder();
  const program = await Program.start(data);
  for (let n = 0; n < IN_BACKUP; n++) await program.post(`kept ${i} ${n}.bvh`, takeOf(2e6 + i * IN_BACKUP + n));
  const archive = new Uint8Array(await (await fetch(`${program.base}/api/backup`)).arrayBuffer());
  await program.kill('SIGTERM');
  return archive;
}

async function restarts(): Promise<void> {
  const postgres = await startPostgres();
  if (!postgres) {
    print('| restart of PostgreSQL | | | | | | PostgreSQL is not installed here |');
    return;
  }
  const data = folder();
  const load = new Load(random);
  const env = { HOLLOW_STRIDE_DATABASE: postgres.address };
  let program = await Program.start(data, env);
  load.start(program);
  for (let i = 0; i < RESTARTS; i++) {
    await pause(800 + random() * 1500);
    await postgres.restart(random() * 2000);
  }
  await pause(1000);
  await load.ended();
  const isUp = program.child.exitCode === null;
  if (isUp) await program.kill('SIGTERM');
  program = await Program.start(data, env);
  const more = `the server ${isUp ? 'went on' : 'ended'}; not acknowledged ${load.refused}`;
  row('restart of PostgreSQL', RESTARTS, await load.check(program, data), more);
  await program.kill('SIGTERM');
  await postgres.stop();
}

/** A small disk of its own is filled up to the brim, over and over, and emptied. */
async function fullDisk(): Promise<void> {
  const data = join(folder(), 'disk');
  mkdirSync(data);
  if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=96m', 'tmpfs', data]).status !== 0) {
    print('| full disk | | | | | | a disk can be mounted by root only |');
    return;
  }
  try {
    const load = new Load(random);
    let program = await Program.start(data);
    const answers = new Map<string, number>();
    let again = 0;
    for (let i = 0; i < 5; i++) {
      load.start(program);
      await pause(800);
      const filler = join(data, 'filler');
      spawnSync('dd', ['if=/dev/zero', `of=${filler}`, 'bs=1M', 'status=none']);
      for (let n = 0; n < 4; n++) {
        const form = new FormData();
        form.append('file', new Blob([takeOf(3e6 + i * 4 + n) + '\n'.repeat(3e6)]), `big ${i} ${n}.bvh`);
        const said = await fetch(`${program.base}/api/files`, { method: 'POST', body: form }).then(
          ({ status }) => String(status),
          () => 'cut off',
        );
        answers.set(said, (answers.get(said) ?? 0) + 1);
      }
      rmSync(filler);
      // Without a start anew: is it there again?
      const [{ error }] = await program.post(`after ${i}.bvh`, takeOf(4e6 + i)).catch(() => [{ error: { message: 'none' } }]);
      if (!error) again++;
      await load.ended();
      await program.kill();
      program = await Program.start(data);
    }
    const more = [...answers].map(([said, times]) => `${times} × ${said}`).join(', ');
    row(
      'full disk, then a kill',
      5,
      await load.check(program, data),
      `answers to large uploads: ${more}; works at once when there is room: ${again} of 5`,
    );
    await program.kill('SIGTERM');
  } finally {
    spawnSync('umount', [data]);
  }
}
