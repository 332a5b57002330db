import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import { openDatabase } from './db/open';
import { seedDemo, sweepContent } from './seed';
import { listenTo, programOf } from './testing/program';
import { Served, walkBvh } from './testing/serve';

const QUIET = pino({ level: 'silent' });
const never = new AbortController().signal;

describe('a first start', () => {
  it('that is ended half way is gone on with by the next, once; what a person takes off stays off until it is asked for', async () => {
    const served = await Served.start();
    const { services } = served;
    const ending = new AbortController();
    const log = { ...QUIET, info: () => ending.abort() } as unknown as typeof QUIET;
    await expectAsync(seedDemo(services, log, true, ending.signal)).toBeRejected();
    expect((await served.takes()).all).toBe(1);
    await seedDemo(services, QUIET, true, never);
    const { takes } = await served.takes();
    const { characters } = await served.rack();
    expect([takes.length, takes[0].name, takes[11].name]).toEqual([14, 'Quay walk', "Town crier's call"]);
    expect(characters.map((c) => c.name)).toEqual([
      'Ferryman',
      'Heron',
      'Apprentice',
      'Bellkeeper',
      'Tide-King',
      'Lantern Bearer',
      'Little Crane',
    ]);
    // One performer plays all takes but those of the crane; the characters each stand on a skeleton of their own.
    expect(new Set(takes.map((t) => t.skeleton)).size).toBe(2);
    expect(new Set([...takes, ...characters].map((t) => t.skeleton)).size).toBe(9);
    expect(takes.every((t) => t.isDemo)).toBeTrue();
    // Face and voice of the crier lie at their take.
    const { recordings, meshes } = await served.rack();
    expect(meshes.map(({ name, facts }) => [name, facts.joints])).toEqual([['Netmender', 0]]);
    expect(recordings.map(({ name, facts }) => [name, facts.kind])).toEqual([
      ["Town crier's face", 'face'],
      ["Town crier's voice", 'sound'],
    ]);
    const { face, sound } = takes[11].choices;
    expect([face?.recording, sound?.recording]).toEqual(recordings.map(({ id }) => id));
    const trimmed = await served.send('POST', '/api/takes/change', { takes: takes.map(({ id }) => id), change: { kind: 'trim' } });
    const { takes: without } = (await trimmed.json()) as { takes: string[] };
    // As many as have a rest pose in front, each from the frame behind it.
    const resting = takes.filter(({ facts, clip }) => facts.clips[clip].faults.some(({ kind, from }) => kind === 'rest' && from === 0));
    expect([...without].sort()).toEqual(resting.map(({ id }) => id).sort());
    for (const take of (await served.takes()).takes.filter(({ id }) => without.includes(id))) {
      const { faults, fps } = take.facts.clips[take.clip];
      expect(take.choices.from! * fps).toBeCloseTo(faults.find(({ kind }) => kind === 'rest')!.to + 1, 6);
    }
    await served.send('POST', '/api/takes/change', { takes: takes.map(({ id }) => id), change: { kind: 'remove' } });
    for (const { id } of characters) await served.edit('PATCH', `/api/characters/${id}`, { removed: true });
    await seedDemo(services, QUIET, true, never);
    expect((await served.takes()).all).toBe(0);
    const told = await fetch(`${served.base}/api/demo`, { method: 'POST', headers: { accept: 'application/x-ndjson' } });
    expect((await told.text()).trim().split('\n').length).toBe(2 * 24 + 1);
    expect([(await served.takes()).all, (await served.rack()).characters.length]).toEqual([14, 7]);
    await served.stop();
  });

  it('of an empty production stays empty, and so does the next', async () => {
    const served = await Served.start();
    await seedDemo(served.services, QUIET, false, never);
    await seedDemo(served.services, QUIET, true, never);
    expect((await served.takes()).all).toBe(0);
    await served.stop();
  });

  it('sweeps contents that no row refers to, and no others', async () => {
    const served = await Served.start();
    const [{ takes }] = (await served.upload(['a.bvh', walkBvh(1)])).files;
    const lost = createHash('sha256').update('lost').digest('hex');
    writeFileSync(join(served.folder, 'files', lost), 'lost');
    await sweepContent(served.services, QUIET);
    expect(readdirSync(join(served.folder, 'files')).sort()).toEqual([takes[0].file, 'incoming'].sort());
    await served.stop();
  });
});

describe('the server as a program', () => {
  let data: string;
  let running: ChildProcess[];
  beforeEach(() => {
    data = mkdtempSync(join(tmpdir(), 'hollow-stride-start-'));
    running = [];
  });
  afterEach(() => {
    for (const child of running) child.kill('SIGKILL');
    rmSync(data, { recursive: true, force: true });
  });

  let main: string;
  beforeAll(async () => (main = await programOf('main')), 60_000);

  function start(): { child: ChildProcess; said: (pattern: RegExp) => Promise<string>; ended: Promise<unknown[]> } {
    const env = { ...process.env, HOLLOW_STRIDE_PORT: '0', HOLLOW_STRIDE_DATA: data, HOLLOW_STRIDE_LOG: 'info', HOLLOW_STRIDE_DEMO: 'no' };
    const child = spawn(process.execPath, [main], { env, stdio: ['ignore', 'pipe', 'pipe'] });
    running.push(child);
    const { said } = listenTo(child);
    return { child, said, ended: once(child, 'exit') };
  }

  it('keeps what it acknowledged when it is killed, starts again on the same folder, and keeps a second one out', async () => {
    const first = start();
    const base = await first.said(/(http:\/\/localhost:\d+)/);
    const form = new FormData();
    form.append('file', new Blob([walkBvh(1)]), 'ebb.bvh');
    expect((await fetch(`${base}/api/files`, { method: 'POST', body: form })).status).toBe(201);
    const second = start();
    expect(await second.said(/cannot start: (.*)/)).toContain(`in use by process ${first.child.pid}`);
    expect((await second.ended)[0]).toBe(1);
    first.child.kill('SIGKILL');
    await first.ended;
    const third = start();
    const again = await third.said(/(http:\/\/localhost:\d+)/);
    const page = (await (await fetch(`${again}/api/takes`)).json()) as { takes: { name: string }[] };
    expect(page.takes.map(({ name }) => name)).toEqual(['ebb']);
    third.child.kill('SIGTERM');
    expect((await third.ended)[0]).toBe(0);
    const { close } = await openDatabase(join(data, 'db'));
    await close();
  });

  it('ends when it is told to while it starts, and leaves a folder that the next can use', async () => {
    const first = start();
    // Its lock is the first that it makes.
    while (!readdirSync(data).includes('lock')) await new Promise((resolve) => setImmediate(resolve));
    first.child.kill('SIGINT');
    expect((await first.ended)[0]).toBe(0);
    const second = start();
    await second.said(/(http:\/\/localhost:\d+)/);
    second.child.kill('SIGTERM');
    expect((await second.ended)[0]).toBe(0);
  });
});
