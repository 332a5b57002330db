import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { chmod, copyFile, link, lstat, mkdir, mkdtemp, readdir, readFile, rm, stat, symlink, writeFile } from 'node:fs/promises';
import { createServer, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import {
  clipOf,
  ClipReader,
  prepareRig,
  readMotionFile,
  writeBvh,
  type BvhLayout,
  type FigureId,
  type Report as SolveReport,
} from '@hollow-stride/core';
import { makeFile, plainName, randomShape, Rebuild, walk, writeAcclaim } from '@hollow-stride/core/testing/index';
import { run } from './main';

type Report = Omit<SolveReport, 'verdict' | 'plain'> & {
  readonly figures: readonly { readonly id: FigureId; readonly value: number; readonly plain: number | null }[];
};
const value = (report: Report, id: FigureId): number => report.figures.find((figure) => figure.id === id)!.value;
const withLabels = (labels: Record<string, string>) => ({ unit: null, up: null, facing: null, labels, rest: 'auto', turns: {} });

describe('hollow-stride', () => {
  let folder: string;
  let out: string[];
  let err: string[];
  const call = (...args: string[]): Promise<number> => {
    out = [];
    err = [];
    return run(args, { out: (text) => out.push(text), err: (text) => err.push(text) });
  };
  const path = (name: string): string => join(folder, name);

  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'hollow-stride-'));
    const shape = randomShape(31, { spine: 3, neck: 1, clavicles: true });
    const take = makeFile(shape, { metres: 0.01 }, walk(shape, { seed: 31, frames: 120 }));
    await writeFile(path('take.bvh'), writeBvh(take.skeleton, take.clips[0], take.layout as BvhLayout));
    const other = randomShape(32, { spine: 2, neck: 1, clavicles: true });
    const body = makeFile(other, {}, walk(other, { frames: 1 }));
    await writeFile(path('body.bvh'), writeBvh(body.skeleton, body.clips[0], body.layout as BvhLayout));
    await writeFile(path('notes.bvh'), 'not a motion');
    await writeFile(path('empty.glb'), '');
  });
  afterAll(() => rm(folder, { recursive: true }));

  it('says what a file holds', async () => {
    expect(await call('inspect', path('take.bvh'))).toBe(0);
    expect(out.join()).toContain('120 frames at 60 a second');
    expect(await call('inspect', path('take.bvh'), '--json')).toBe(0);
    const facts = JSON.parse(out[0]) as { clips: { frames: number }[]; body: { unit: { unit: string } } };
    expect([facts.clips[0].frames, facts.body.unit.unit]).toEqual([120, 'cm']);
  });

  it('labels', async () => {
    expect(await call('label', path('take.bvh'), '--json')).toBe(0);
    const { roles, confidence, warnings } = JSON.parse(out[0]) as {
      roles: Record<string, string>;
      confidence: Record<string, number>;
      warnings: string[];
    };
    expect(roles['left.upperArm']).toBe('LeftUpperArm');
    expect(roles['spine.3']).toBe('Spine3');
    expect(confidence['hips']).toBeGreaterThan(0.8);
    expect(warnings).toEqual([]);
  });

  it('solves from file to file, in the character’s unit, with a report', async () => {
    expect(
      await call(
        'solve',
        '--take',
        path('take.bvh'),
        '--character',
        path('body.bvh'),
        '--out',
        path('out.bvh'),
        '--report',
        path('r.json'),
      ),
    ).toBe(0);
    const report = JSON.parse(await readFile(path('r.json'), 'utf8')) as Report;
    expect(value(report, 'slide')).toBeLessThan(1);
    expect(report.figures.find(({ id }) => id === 'slide')!.plain).toBeGreaterThan(5);
    const file = await readMotionFile(await readFile(path('out.bvh')), 'out.bvh');
    const result = prepareRig(file);
    const clip = clipOf(file, result);
    expect(clip.frames).toBe(120);
    // The held feet, measured on the written file.
    const plant = report.plants.find((p) => p.part === 'ball' && p.last - p.first > 8)!;
    const toes = result.roles.get(`${plant.side}.toes`)!;
    const reader = new ClipReader(result.skeleton, clip);
    const at = (f: number): Float64Array => reader.at(f).positions.slice(toes * 3, toes * 3 + 3);
    // Frames count from 1.
    const start = at(plant.first);
    for (let f = plant.first; f < plant.last - 1; f++) at(f).forEach((x, c) => expect(Math.abs(x - start[c])).toBeLessThan(1e-3));
  });

  it('takes the frame rate, plain, and JSON as asked', async () => {
    expect(
      await call(
        'solve',
        '--take',
        path('take.bvh'),
        '--character',
        path('body.bvh'),
        '--out',
        path('o30.bvh'),
        '--fps',
        '30',
        '--plain',
        '--json',
      ),
    ).toBe(0);
    const report = JSON.parse(out[0]) as Report;
    expect([report.take.fps, report.settings.plain, report.figures[0].plain]).toEqual([30, true, null]);
    // Plain feet slide: that is said beside the JSON.
    expect(err.join('\n')).toContain('slide is');
  });

  it('keeps a naming scheme, labels by it, and says what is likely wrong', async () => {
    expect(await call('label', path('take.bvh'), '--save-scheme', path('s.json'))).toBe(0);
    const scheme = JSON.parse(await readFile(path('s.json'), 'utf8')) as { roles: Record<string, string> };
    expect(scheme.roles['left.hand']).toBe('LeftHand');
    [scheme.roles['left.hand'], scheme.roles['right.hand']] = [scheme.roles['right.hand'], scheme.roles['left.hand']];
    await writeFile(path('wrong.json'), JSON.stringify(scheme));
    expect(await call('label', path('take.bvh'), '--scheme', path('wrong.json'))).toBe(0);
    expect(out.join('\n')).toMatch(/caution: RightHand says right by its name and has the role left\.hand/);
  });

  it('solves by a recipe, the command line going before it', async () => {
    const recipe = {
      format: 'hollow-stride/recipe',
      version: 1,
      name: 'r',
      pairing: { stride: 'marks', lift: 1.1, clavicles: 'keep', head: 'keep' },
      solve: { floor: 'zero', inPlace: true, fps: 24 },
    };
    await writeFile(path('r.recipe.json'), JSON.stringify(recipe));
    const solveArgs = ['solve', '--take', path('take.bvh'), '--character', path('body.bvh'), '--out', path('or.bvh'), '--json'];
    expect(await call(...solveArgs, '--recipe', path('r.recipe.json'))).toBe(0);
    const report = JSON.parse(out[0]) as Report;
    expect([report.pairing.stride, report.pairing.lift, report.settings.inPlace, report.take.fps, report.floor]).toEqual([
      1,
      1.1,
      true,
      24,
      0,
    ]);
    expect(await call(...solveArgs, '--recipe', path('r.recipe.json'), '--fps', '30')).toBe(0);
    expect((JSON.parse(out[0]) as Report).take.fps).toBe(30);
    await writeFile(path('bad.recipe.json'), JSON.stringify({ ...recipe, solve: { floor: 'sea' } }));
    expect(await call(...solveArgs, '--recipe', path('bad.recipe.json'))).toBe(1);
    expect(err.at(-1)).toContain('solve.floor');
    expect(await call(...solveArgs, '--clip', '2')).toBe(1);
    expect(err.at(-1)).toContain('holds 1 takes');
  });

  it('says what was cut short or is doubtful, with and without a report', async () => {
    const text = await readFile(path('take.bvh'), 'utf8');
    await writeFile(path('cut.bvh'), text.slice(0, Math.floor(text.length * 0.7)));
    const args = ['solve', '--take', path('cut.bvh'), '--character', path('body.bvh'), '--out', path('oc.bvh')];
    for (const more of [[], ['--report', path('rc.json')]]) {
      expect(await call(...args, ...more)).toBe(0);
      expect(out.join('\n'))
        .withContext(more.join())
        .toMatch(/caution: cut\.bvh.*the file ends inside a frame/);
    }
    expect(await call(...args, '--json')).toBe(0);
    expect(err.join('\n')).toContain('the file ends inside a frame');
    expect((JSON.parse(out[0]) as Report).cautions.some(({ code }) => code === 'bvh/truncated')).toBeTrue();
  });

  it('stops on labels that would break the body, with the way out', async () => {
    expect(await call('label', path('body.bvh'), '--save-scheme', path('b.json'))).toBe(0);
    const { roles } = JSON.parse(await readFile(path('b.json'), 'utf8')) as { roles: Record<string, string> };
    const labels = { ...roles, 'left.upperLeg': roles['left.lowerLeg'], 'left.lowerLeg': roles['left.upperLeg'] };
    await writeFile(
      path('broken.json'),
      JSON.stringify({ format: 'hollow-stride/recipe', version: 1, name: 'b', character: withLabels(labels) }),
    );
    const args = ['solve', '--take', path('take.bvh'), '--character', path('body.bvh'), '--out', path('ob.bvh')];
    expect(await call(...args, '--recipe', path('broken.json'))).toBe(1);
    expect(err[0]).toMatch(/body\.bvh, joint \w+: .*lies above.*would break apart/);
  });

  it('measures a performer on another of its takes, and refuses one of another body', async () => {
    const shape = randomShape(31, { spine: 3, neck: 1, clavicles: true });
    const motion = walk(shape, { seed: 31, frames: 120 });
    const same = makeFile(shape, { metres: 0.01, names: (role) => `two:${plainName(role)}` }, motion);
    await writeFile(path('same.bvh'), writeBvh(same.skeleton, same.clips[0], same.layout as BvhLayout));
    const args = ['solve', '--take', path('take.bvh'), '--character', path('body.bvh'), '--out', path('or.bvh'), '--json'];
    const lifts: number[] = [];
    for (const more of [[], ['--reference', path('same.bvh')]]) {
      expect(await call(...args, ...more)).toBe(0);
      lifts.push((JSON.parse(out[0]) as Report).pairing.lift);
    }
    expect(lifts[1]).toBeCloseTo(lifts[0], 3);
    expect([await call(...args, '--reference', path('body.bvh')), err[0]]).toEqual([
      1,
      jasmine.stringMatching(/body\.bvh.*another skeleton/),
    ]);
  });

  it('moves a whole body whose legs and trunk hang on two joints of one pelvis', async () => {
    const base = new Rebuild(randomShape(34, { spine: 2, neck: 1, clavicles: true }));
    base.divide('spine.1', 'trunkRoot', 0.2).add('legRoot', 'hips', [0, -0.02, 0]);
    for (const side of ['left', 'right']) base.move(`${side}.upperLeg`, 'legRoot');
    const body = makeFile(
      base.shape(),
      { names: (role) => (role === 'legRoot' ? 'Pelvis' : role === 'hips' ? 'Root' : `j_${role}`) },
      walk(base.shape(), { frames: 1 }),
    );
    await writeFile(path('forked.bvh'), writeBvh(body.skeleton, body.clips[0], body.layout as BvhLayout));
    expect(await call('solve', '--take', path('take.bvh'), '--character', path('forked.bvh'), '--out', path('of.bvh'), '--json')).toBe(0);
    const report = JSON.parse(out[0]) as Report;
    expect([value(report, 'parting'), value(report, 'held.feet')]).toEqual([0, 100]);
  });

  it('reads Acclaim motion with the skeleton beside it', async () => {
    const shape = randomShape(9, { clavicles: true, spine: 2, neck: 1 });
    const { asf, amc } = writeAcclaim(shape, walk(shape, { frames: 12 }), 3);
    await writeFile(path('troupe.asf'), asf);
    await writeFile(path('troupe_01.amc'), amc);
    expect(await call('inspect', path('troupe_01.amc'))).toBe(0);
    expect(out.join()).toContain('12 frames at 120 a second');
  });

  it('fails with a code and one clear line', async () => {
    const cases: readonly (readonly [string[], number, string])[] = [
      [['inspect', path('notes.bvh')], 1, 'notes.bvh, line 1'],
      [['inspect', path('empty.glb')], 1, 'empty.glb: the file is empty'],
      [['inspect', path('missing.bvh')], 1, 'there is no file'],
      [['solve', '--take', path('take.bvh'), '--character', path('body.bvh'), '--out', path('o.txt')], 1, '.bvh or .glb'],
      [['solve', '--take', path('take.bvh'), '--character', path('body.bvh'), '--out', path('o.glb')], 1, 'write .bvh'],
      [['solve', '--take', path('take.bvh'), '--out', path('o.bvh')], 2, '--character'],
      [['solve', '--take', path('take.bvh'), '--character', path('body.bvh'), '--out', path('o.bvh'), '--fps', '-3'], 2, 'from 1 to 480'],
      [
        ['solve', '--take', path('take.bvh'), '--character', path('body.bvh'), '--out', path('o.bvh'), '--fps', '0.0001'],
        2,
        'from 1 to 480',
      ],
      [['dance'], 2, 'dance'],
    ];
    for (const [args, code, text] of cases) {
      expect(await call(...args))
        .withContext(args.join(' '))
        .toBe(code);
      expect(err.length).withContext(args.join(' ')).toBe(1);
      expect(err[0]).toContain(text);
    }
  });

  describe('with files', () => {
    let own: string;
    const at = (name: string): string => join(own, name);
    const solveArgs = (out: string, ...more: string[]): string[] => [
      'solve',
      '--take',
      at('take.bvh'),
      '--character',
      at('body.bvh'),
      '--out',
      out,
      ...more,
    ];
    beforeEach(async () => {
      own = await mkdtemp(join(folder, 'own-'));
      for (const name of ['take.bvh', 'body.bvh']) await copyFile(path(name), at(name));
    });

    it('never writes over what it reads, whatever name or link it goes by', async () => {
      await symlink(at('take.bvh'), at('link.bvh'));
      await link(at('body.bvh'), at('hard.bvh'));
      await writeFile(at('r.json'), JSON.stringify({ format: 'hollow-stride/recipe', version: 1, name: 'r' }));
      const before = await Promise.all(['take.bvh', 'body.bvh', 'r.json'].map((name) => readFile(at(name), 'utf8')));
      const cases: readonly (readonly [string[], RegExp])[] = [
        [solveArgs(at('take.bvh')), /--out and --take are the same file/],
        [solveArgs(at('link.bvh')), /--out and --take/],
        [solveArgs(at('hard.bvh')), /--out and --character/],
        [solveArgs(join(own, '..', basename(own), 'body.bvh')), /--out and --character/],
        [solveArgs(at('new.bvh'), '--report', at('new.bvh')), /--report and --out/],
        [solveArgs(at('new.bvh'), '--recipe', at('r.json'), '--report', at('r.json')), /--report and --recipe/],
        [['label', at('take.bvh'), '--save-scheme', at('link.bvh')], /--save-scheme and the file/],
      ];
      for (const [args, said] of cases) {
        expect(await call(...args))
          .withContext(args.join(' '))
          .toBe(1);
        expect(err[0]).toMatch(said);
      }
      expect(await Promise.all(['take.bvh', 'body.bvh', 'r.json'].map((name) => readFile(at(name), 'utf8')))).toEqual(before);
      expect(existsSync(at('new.bvh'))).toBeFalse();
    });

    it('replaces an old result whole, keeps its mode, writes through links, and leaves nothing half-written', async () => {
      await writeFile(at('old.bvh'), 'old');
      await chmod(at('old.bvh'), 0o640);
      await symlink('old.bvh', at('alias.bvh'));
      expect(await call(...solveArgs(at('alias.bvh')))).toBe(0);
      expect((await lstat(at('alias.bvh'))).isSymbolicLink()).toBeTrue();
      expect([(await stat(at('old.bvh'))).mode & 0o777, (await readFile(at('old.bvh'), 'utf8')).startsWith('HIERARCHY')]).toEqual([
        0o640,
        true,
      ]);
      // A link to a file that is not there yet makes it.
      await symlink('later.bvh', at('ahead.bvh'));
      expect(await call(...solveArgs(at('ahead.bvh')))).toBe(0);
      expect((await lstat(at('later.bvh'))).isFile()).toBeTrue();
      // A folder of that name, and a folder that is not there.
      await mkdir(at('dir.bvh'));
      expect([await call(...solveArgs(at('dir.bvh'))), err[0]]).toEqual([1, jasmine.stringMatching(/is a folder/)]);
      expect([await call(...solveArgs(at('none/x.bvh'))), err[0]]).toEqual([1, jasmine.stringMatching(/cannot be written/)]);
      const long = `${'n'.repeat(251)}.bvh`;
      expect(await call(...solveArgs(at(long)))).toBe(0);
      expect((await readdir(own)).filter((name) => name.endsWith('.part'))).toEqual([]);
    });

    it('does not let a document reach out of its folder', async () => {
      const parts = join(own, 'parts');
      await mkdir(parts);
      const document = (uri: string): Promise<void> =>
        writeFile(join(parts, 'd.gltf'), JSON.stringify({ asset: { version: '2.0' }, buffers: [{ byteLength: 4, uri }] }));
      await symlink(at('take.bvh'), join(parts, 'out.bin'));
      await document('out.bin');
      expect([await call('inspect', join(parts, 'd.gltf')), err[0]]).toEqual([
        1,
        jasmine.stringMatching(/out\.bin lies outside its folder/),
      ]);
      await document('../take.bvh');
      expect([await call('inspect', join(parts, 'd.gltf')), err[0]]).toEqual([1, jasmine.stringMatching(/lies outside its folder/)]);
      await mkdir(join(parts, 'f.bin'));
      await document('f.bin');
      expect([await call('inspect', join(parts, 'd.gltf')), err[0]]).toEqual([1, jasmine.stringMatching(/is not a plain file/)]);
    });

    it('says where no server answers for a backup, and writes what one sends', async () => {
      expect(await call('backup', at('b.zip'), '--server', 'http://127.0.0.1:9')).toBe(1);
      expect(err[0]).toContain('no Hollow Stride answers');
      const { zipSync } = await import('fflate');
      const content = Buffer.from(zipSync({ 'rack.json': Buffer.alloc(300_000, 7) }, { level: 0 }));
      const send = async (answer: (response: ServerResponse) => void): Promise<number> => {
        const server = createServer((_request, response) => answer(response.setHeader('content-type', 'application/zip')));
        await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
        const code = await call('backup', at('b.zip'), '--server', `http://127.0.0.1:${(server.address() as AddressInfo).port}`);
        server.close();
        return code;
      };
      expect(await send((response) => response.end(content))).toBe(0);
      expect((await readFile(at('b.zip'))).equals(content)).toBeTrue();
      // An archive that ends early is not one, however the line says that it is done; what is there stays.
      expect(await send((response) => response.end(content.subarray(0, 200_000)))).toBe(1);
      expect(err[0]).toContain('no whole archive');
      expect(await send((response) => response.write(content.subarray(0, 200_000), () => response.destroy()))).toBe(1);
      expect(err[0]).toContain('broke off');
      expect((await readFile(at('b.zip'))).equals(content)).toBeTrue();
    });
  });

  it('prints the help when nothing is asked', async () => {
    expect(await call()).toBe(0);
    expect(out.join('\n')).toContain('Usage: hollow-stride');
  });

  it('as a program takes a broken pipe quietly, and a full device with one line', async () => {
    const program = `const { main } = await import(${JSON.stringify(new URL('./program.ts', import.meta.url).href)}); await main(process.argv.slice(1));`;
    const runs = (args: string[], into: string) => {
      const quoted = [process.execPath, '--import', 'tsx', '--input-type=module', '-e', program, '--', ...args].map(
        (a) => `'${a.replace(/'/g, `'\\''`)}'`,
      );
      const shell = spawnSync('bash', ['-c', `set -o pipefail; ${quoted.join(' ')} ${into}`], { encoding: 'utf8' });
      return { code: shell.status, err: shell.stderr.trim() };
    };
    const args = ['label', path('take.bvh')];
    expect(runs(args, '| head -1 >/dev/null')).toEqual({ code: 0, err: '' });
    if (existsSync('/dev/full')) {
      expect(runs(args, '> /dev/full')).toEqual({ code: 1, err: 'hollow-stride: the output cannot be written: the disk is full' });
    }
  });
});
