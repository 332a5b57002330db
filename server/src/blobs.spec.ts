import { createHash } from 'node:crypto';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { Blobs } from './blobs';
import { makePool, type Pool } from './pool';
import { leftIn } from './testing/serve';

describe('Blobs', () => {
  let folder: string;
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'hollow-stride-blobs-'))));
  afterEach(() => rmSync(folder, { recursive: true }));

  const chunks = (count: number): Buffer[] => Array.from({ length: count }, (_, i) => Buffer.alloc(64 * 1024, i % 251));

  it('keeps content once, under its hash, as it came', async () => {
    const blobs = new Blobs(folder);
    const parts = chunks(20);
    const received = await blobs.receive(Readable.from(parts));
    expect(received.hash).toBe(createHash('sha256').update(Buffer.concat(parts)).digest('hex'));
    expect(received.bytes).toBe(20 * 64 * 1024);
    await blobs.keep(received);
    expect(await blobs.has(received.hash)).toBeTrue();
    expect(readFileSync(blobs.path(received.hash)).equals(Buffer.concat(parts))).toBeTrue();
    expect(leftIn(folder)).toEqual([]);
  });

  it('does not hold what it receives in memory', async () => {
    const blobs = new Blobs(folder);
    const before = process.memoryUsage().arrayBuffers;
    let most = 0;
    const part = Buffer.alloc(1024 * 1024, 7);
    const source = Readable.from(
      (function* () {
        for (let i = 0; i < 100; i++) {
          most = Math.max(most, process.memoryUsage().arrayBuffers - before);
          yield part;
        }
      })(),
    );
    const received = await blobs.receive(source);
    expect(received.bytes).toBe(100 * 1024 * 1024);
    expect(most).toBeLessThan(60 * 1024 * 1024);
    await blobs.discard(received);
  });

  it('leaves nothing of content that breaks off, nor of a former run', async () => {
    const blobs = new Blobs(folder);
    const broken = Readable.from(
      (function* () {
        yield Buffer.from('half');
        throw new Error('line lost');
      })(),
    );
    await expectAsync(blobs.receive(broken)).toBeRejectedWithError('line lost');
    expect(leftIn(folder)).toEqual([]);
    writeFileSync(join(folder, 'incoming', 'stale'), 'x');
    expect(new Blobs(folder)).toBeDefined();
    expect(existsSync(join(folder, 'incoming', 'stale'))).toBeFalse();
  });

  it('leaves alone what a living process works on, and clears away what a killed one has left', async () => {
    const script = `const { Blobs } = await import(${JSON.stringify(new URL('./blobs.ts', import.meta.url).href)});
      const { writeFileSync } = await import('node:fs');
      const { folder } = await new Blobs(${JSON.stringify(folder)}).aside();
      writeFileSync(folder + '/half', 'half');
      console.log(folder); setInterval(() => {}, 1000);`;
    const child = spawn(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', script], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    const [said] = (await once(child.stdout, 'data')) as [Buffer];
    const half = join(said.toString().trim(), 'half');
    // Another starts meanwhile, and ends again.
    new Blobs(folder).release();
    expect(existsSync(half)).withContext('while its process lives').toBeTrue();
    const ended = once(child, 'exit');
    child.kill('SIGKILL');
    await ended;
    new Blobs(folder).release();
    expect(existsSync(half)).withContext('once it was killed').toBeFalse();
    expect(leftIn(folder)).toEqual([]);
  });

  it('takes no path for a hash', () => {
    const blobs = new Blobs(folder);
    for (const name of ['../../etc/passwd', '', 'abc', 'A'.repeat(64)])
      expect(() => blobs.path(name))
        .withContext(name)
        .toThrowError();
  });
});

describe('the worker pool', () => {
  let folder: string;
  let pool: Pool;
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'hollow-stride-pool-'));
    pool = makePool();
  });
  afterAll(async () => {
    await pool.close();
    rmSync(folder, { recursive: true });
  });

  it('reads several files at a time, and gives faults back as values', async () => {
    writeFileSync(join(folder, 'a'), 'HIERARCHY\nROOT a\n{\n');
    writeFileSync(join(folder, 'b'), '');
    const results = await Promise.all([
      pool.analyse(join(folder, 'a'), 'a.bvh'),
      pool.analyse(join(folder, 'b'), 'b.glb'),
      pool.analyse(join(folder, 'none'), 'c.bvh'),
    ]);
    expect(results.map((r) => ('fault' in r ? r.fault.code : 'none')).slice(0, 2)).toEqual(['bvh/truncated', 'file/empty']);
    expect(results.every((r) => 'fault' in r)).toBeTrue();
  });
});
