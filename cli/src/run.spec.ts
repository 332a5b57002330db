import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { copyFile, mkdir, mkdtemp, readdir, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import * as v from 'valibot';
import {
  checkSheetSchema,
  DEFAULT_RECIPE,
  deliverySchema,
  makeTouchUp,
  readMotionFile,
  writeBvh,
  writeRecipe,
  type BvhLayout,
  type DeliveryRecord,
} from '@hollow-stride/core';
import { makeFile, makeGlb, randomShape, walk } from '@hollow-stride/core/testing/index';
import { run } from './main';

/** The cells of a line of comma-separated values. */
const cellsOf = (line: string): string[] =>
  [...line.matchAll(/(?:^|,)(?:"((?:[^"]|"")*)"|([^,]*))/g)].map(([, quoted, plain]) => quoted?.replace(/""/g, '"') ?? plain);

describe('hollow-stride run and check', () => {
  let folder: string;
  let out: string[];
  let err: string[];
  const call = (...args: string[]): Promise<number> => {
    out = [];
    err = [];
    return run(args, { out: (text) => out.push(text), err: (text) => err.push(text) });
  };
  const at = (...parts: string[]): string => join(folder, ...parts);
  const manifestOf = async (place: string): Promise<DeliveryRecord> =>
    v.parse(deliverySchema, JSON.parse(await readFile(at(place, 'manifest.json'), 'utf8')));

  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'hollow-stride-run-'));
    await mkdir(at('takes'));
    await mkdir(at('bodies'));
    for (const seed of [41, 42]) {
      const shape = randomShape(seed, { spine: 3, neck: 1, clavicles: true });
      const take = makeFile(shape, { metres: 0.01 }, walk(shape, { seed, frames: 90 }));
      await writeFile(at('takes', `walk-${seed}.bvh`), writeBvh(take.skeleton, take.clips[0], take.layout as BvhLayout));
    }
    for (const [name, seed, spine] of [
      ['short', 51, 2],
      ['tall', 52, 3],
    ] as const) {
      const shape = randomShape(seed, { spine, neck: 1, clavicles: true });
      await writeFile(at('bodies', `${name}.glb`), await makeGlb(makeFile(shape).skeleton, { sheath: true }));
    }
    await writeFile(at('takes', 'notes.txt'), 'not a take');
  });
  afterAll(() => rm(folder, { recursive: true }));

  it('solves folders of takes onto folders of characters, and writes files, report and check sheet', async () => {
    expect(await call('run', '--takes', at('takes'), '--characters', at('bodies'), '--out', at('a'))).toBe(0);
    expect(out.at(-1)).toContain('4 of 4 solved, 0 over their limits');
    expect((await readdir(at('a'))).sort()).toEqual([
      'check-sheet.csv',
      'check-sheet.html',
      'check-sheet.json',
      'manifest.json',
      'recipes',
      'walk-41-on-short.glb',
      'walk-41-on-tall.glb',
      'walk-42-on-short.glb',
      'walk-42-on-tall.glb',
    ]);
    // A walk without a captured body's tremor shows every corner of fewer keys: the tolerance itself holds.
    await call('run', '--takes', at('takes'), '--characters', at('bodies'), '--out', at('t'), '--tolerance', '0.5');
    for (const { reduced } of (await manifestOf('t')).items) expect(reduced!.worst).toBeLessThan(0.5);
    expect((await readFile(at('a', 'check-sheet.csv'), 'utf8')).split('\n')[0]).toContain('take,character,file');
  });

  it('says by its exit code what could not be solved, and what is over the production’s limits', async () => {
    await writeFile(at('takes', 'broken.bvh'), 'HIERARCHY\nnonsense');
    expect(await call('run', '--takes', at('takes'), '--characters', at('bodies', 'tall.glb'), '--out', at('b'), '--json')).toBe(1);
    const { items } = v.parse(deliverySchema, JSON.parse(out[0]));
    expect(items.map(({ file }) => file !== null)).toEqual([false, true, true]);
    expect(items[0].fault).toContain('broken.bvh');
    await rm(at('takes', 'broken.bvh'));
    await writeFile(at('limits.json'), JSON.stringify({ 'held.feet': { good: 101, fault: 100.5 } }));
    const args = ['run', '--takes', at('takes'), '--characters', at('bodies'), '--out', at('c')];
    expect(await call(...args, '--limits', at('limits.json'))).toBe(3);
    expect((await manifestOf('c')).items.every(({ verdict }) => verdict === 'fault')).toBeTrue();
    await writeFile(at('limits.json'), JSON.stringify({ slide: 4 }));
    expect(await call(...args, '--limits', at('limits.json'))).toBe(1);
    expect(err[0]).toContain('"good" and "fault"');
    await writeFile(at('limits.json'), JSON.stringify({ slyde: { good: 4, fault: 9 } }));
    expect(await call(...args, '--limits', at('limits.json'))).toBe(1);
    expect(err[0]).toContain('there is no figure "slyde"');
    await writeFile(at('limits.json'), JSON.stringify({ slide: { good: 20, fault: 9 } }));
    expect(await call(...args, '--limits', at('limits.json'))).toBe(1);
    expect(err[0]).toContain('slide: good up to 20 mm/s must not be more than the fault limit');
  });

  it('takes the recipe that is named for a pair, else for its character, and names files by a pattern', async () => {
    await mkdir(at('recipes'), { recursive: true });
    const inPlace = { ...DEFAULT_RECIPE, solve: { ...DEFAULT_RECIPE.solve, inPlace: true } };
    await writeFile(at('recipes', 'short.recipe.json'), writeRecipe(inPlace));
    await writeFile(at('recipes', 'walk-42-on-short.recipe.json'), writeRecipe(DEFAULT_RECIPE));
    const args = ['run', '--takes', at('takes'), '--characters', at('bodies', 'short.glb'), '--recipes', at('recipes'), '--out', at('d')];
    await call(...args, '--format', 'bvh', '--pattern', '{number}_{character}');
    const travel = async (name: string): Promise<number> => {
      const { clips } = await readMotionFile(await readFile(at('d', name)), name);
      const { values } = clips[0].moves[0];
      return Math.hypot(values.at(-3)! - values[0], values.at(-1)! - values[2]);
    };
    expect(await travel('1_short.bvh')).toBeLessThan(0.1);
    expect(await travel('2_short.bvh')).toBeGreaterThan(0.4);
    expect(await call(...args, '--pattern', '{nonsense}')).toBe(1);
    expect(err[0]).toContain('{nonsense} is unknown; use {take}');
  });

  it('never writes over what it reads, whatever pattern, folder or link leads there', async () => {
    const bytes = async (folder_: string): Promise<Record<string, string>> => {
      const names = (await readdir(at(folder_), { withFileTypes: true })).filter((entry) => entry.isFile()).map(({ name }) => name);
      return Object.fromEntries(
        await Promise.all(names.map(async (name) => [name, (await readFile(at(folder_, name))).toString('base64')])),
      );
    };
    const [takes, bodies] = [await bytes('takes'), await bytes('bodies')];
    const args = ['run', '--takes', at('takes'), '--characters', at('bodies', 'tall.glb')];
    // The pattern gives the takes' own names, in the takes' own folder.
    expect(await call(...args, '--out', at('takes'), '--format', 'bvh', '--pattern', '{take}')).toBe(1);
    expect(out.filter((line) => line.includes('are the same file')).length).toBe(2);
    // A link in the out folder leads to a take.
    await mkdir(at('linked'));
    await symlink(at('takes', 'walk-42.bvh'), at('linked', 'walk-41-on-tall.bvh'));
    expect(await call(...args, '--out', at('linked'), '--format', 'bvh')).toBe(1);
    // The joined file would have the character's own name, in the characters' folder.
    expect(await call(...args, '--out', at('bodies'), '--together')).toBe(1);
    const now = [await bytes('takes'), await bytes('bodies')];
    for (const [i, before] of [takes, bodies].entries())
      for (const [name, content] of Object.entries(before)) expect(now[i][name]).withContext(name).toBe(content);
    for (const folder_ of ['takes', 'bodies']) {
      for (const name of Object.keys(await bytes(folder_))) if (!(name in takes) && !(name in bodies)) await rm(at(folder_, name));
      await rm(at(folder_, 'recipes'), { recursive: true, force: true });
    }
    // A folder that is a file is named.
    expect(await call(...args, '--out', at('takes', 'notes.txt'))).toBe(1);
    expect(err[0]).toMatch(/the folder .*notes\.txt.* cannot be made: there is a file of this name/);
  });

  it('gives two characters of one name two files, keeps other scripts, and records what was written by its hash', async () => {
    await mkdir(at('twins', 'a'), { recursive: true });
    await mkdir(at('twins', 'b'), { recursive: true });
    await copyFile(at('bodies', 'short.glb'), at('twins', 'a', 'Хор.glb'));
    await copyFile(at('bodies', 'tall.glb'), at('twins', 'b', 'хор.glb'));
    const args = ['run', '--takes', at('takes', 'walk-41.bvh'), '--characters', at('twins', 'a'), at('twins', 'b')];
    await call(...args, '--out', at('together'), '--together', '--bare');
    const { joined } = await manifestOf('together');
    expect(joined.map(({ path, motions }) => [path, motions])).toEqual([
      ['хор.glb', ['walk-41']],
      ['хор-2.glb', ['walk-41']],
    ]);
    await call(...args, '--out', at('apart'), '--pattern', '{character}-{fps}-{frames}');
    const { items, program, limits, verdict } = await manifestOf('apart');
    expect(items.map(({ file }) => file?.path)).toEqual(['хор-60-90.glb', 'хор-60-90-2.glb']);
    expect([program.version, limits['slide'], ['good', 'caution'].includes(verdict)]).toEqual([
      (JSON.parse(await readFile('package.json', 'utf8')) as { version: string }).version,
      { good: 5, fault: 25 },
      true,
    ]);
    const hashOf = async (path: string): Promise<string> =>
      createHash('sha256')
        .update(await readFile(path))
        .digest('hex');
    for (const { file, sources, recipe } of items) {
      expect(file!.sha256).toBe(await hashOf(at('apart', file!.path)));
      expect([file!.firstFrame, file!.lastFrame, file!.fps, file!.up, file!.motion]).toEqual([1, 90, 60, '+Y', 'walk-41']);
      expect(sources[0].sha256).toBe(await hashOf(at('takes', 'walk-41.bvh')));
      expect(existsSync(at('apart', recipe!))).toBeTrue();
    }
    // The same measures in every form, under the same names and with the same limits.
    const sheet = v.parse(checkSheetSchema, JSON.parse(await readFile(at('apart', 'check-sheet.json'), 'utf8')));
    const csv = (await readFile(at('apart', 'check-sheet.csv'), 'utf8')).trim().split('\n');
    const html = await readFile(at('apart', 'check-sheet.html'), 'utf8');
    const columns = csv[0].split(',');
    const figures = sheet.items.flatMap((item) => item.figures);
    expect(csv.length - 1).toBe(figures.length);
    figures.forEach((figure, i) => {
      const cells = cellsOf(csv[i + 1]);
      const cell = (name: string): string => cells[columns.indexOf(name)];
      expect([cell('id'), cell('figure'), cell('value'), cell('good'), cell('fault'), cell('frame')]).toEqual(
        [figure.id, figure.name, figure.value ?? '', figure.good, figure.fault, figure.frame ?? ''].map(String),
      );
      expect(html).toContain(`<td>${figure.name}</td>`);
      if (figure.value === null) expect(figure.seen).toContain('nothing to look at');
    });
    expect(html).toMatch(/Verdict: .* made \d{4}-\d\d-\d\d .* Hollow Stride 0\.1\.0/);
  });

  it('ships the schemas of what it writes', async () => {
    expect(await call('schema')).toBe(0);
    expect(Object.keys(JSON.parse(out[0]) as object)).toEqual([
      'hollow-stride/check-sheet',
      'hollow-stride/delivery',
      'hollow-stride/recipe',
      'hollow-stride/reel',
      'hollow-stride/name-table',
      'hollow-stride/landmarks',
      'hollow-stride/face',
      'hollow-stride/stream',
    ]);
    expect(await call('schema', 'delivery')).toBe(0);
    expect((JSON.parse(out[0]) as { properties: object }).properties).toEqual(jasmine.objectContaining({ items: jasmine.anything() }));
    expect(await call('schema', 'spoon')).toBe(1);
    expect(err[0]).toContain('there is no format "spoon"');
    expect(await call('--version')).toBe(0);
  });

  it('judges a result on its own floor as solve judges it', async () => {
    const files = ['--take', at('takes', 'walk-41.bvh'), '--character', at('bodies', 'tall.glb')];
    await writeFile(at('zero.recipe.json'), writeRecipe({ ...DEFAULT_RECIPE, solve: { ...DEFAULT_RECIPE.solve, floor: 'zero' } }));
    await writeFile(
      at('raised.recipe.json'),
      writeRecipe({
        ...DEFAULT_RECIPE,
        take: { ...DEFAULT_RECIPE.take, floor: { height: 0.4, heading: 0, place: [0, 0] } },
        solve: { ...DEFAULT_RECIPE.solve, floor: 'zero' },
      }),
    );
    for (const recipe of ['zero', 'raised']) {
      await call('solve', ...files, '--recipe', at(`${recipe}.recipe.json`), '--out', at('zero.glb'), '--report', at('zero.json'));
      const solved = JSON.parse(await readFile(at('zero.json'), 'utf8')) as {
        figures: { id: string; value: number | null; mark: string }[];
      };
      await call('check', ...files, '--result', at('zero.glb'), '--recipe', at(`${recipe}.recipe.json`), '--json');
      const checked = v.parse(checkSheetSchema, JSON.parse(out[0])).items[0].figures;
      for (const [i, { id, mark, value }] of solved.figures.entries()) {
        expect([checked[i].id, checked[i].mark])
          .withContext(recipe)
          .toEqual([id as never, mark as never]);
        if (value !== null)
          expect(Math.abs(checked[i].value! - value))
            .withContext(`${recipe} ${id}`)
            .toBeLessThan(0.11);
      }
    }
  });

  it('puts the takes of a character into one file', async () => {
    await call('run', '--takes', at('takes'), '--characters', at('bodies'), '--out', at('e'), '--together', '--bare');
    const { clips } = await readMotionFile(await readFile(at('e', 'short.glb')), 'short.glb');
    expect(clips.map(({ name }) => name)).toEqual(['walk-41', 'walk-42']);
    expect(existsSync(at('e', 'walk-41-on-short.glb'))).toBeFalse();
  });

  it('plays a reel: a lane a file, or all of a character in one', async () => {
    const clips = (start: number) => [
      { name: 'in', take: 'walk-41.bvh', start: 0, to: 1 },
      { name: 'on', take: 'walk-41.bvh', start, from: 0.6, repeats: 1 },
    ];
    const lanes = [
      { name: 'first', character: 'short.glb', clips: clips(0.6) },
      { name: 'second', character: 'short.glb', shift: 0.5, clips: clips(0.6) },
      { name: 'other', character: 'tall.glb', on: false, clips: clips(0.6) },
    ];
    const reel = { format: 'hollow-stride/reel', version: 1, name: 'parade', fps: 30, lanes };
    await writeFile(at('parade.reel.json'), JSON.stringify(reel));
    const args = ['reel', at('parade.reel.json'), '--takes', at('takes'), '--characters', at('bodies'), '--out'];
    expect(await call(...args, at('r'), '--json')).toBe(0);
    const { lanes: said } = JSON.parse(out.join('\n')) as {
      lanes: { file: string; frames: number; slide: number; clips: { overlap: number }[] }[];
    };
    expect(said.map(({ file }) => file)).toEqual(['first.glb', 'second.glb']);
    expect(said[1].frames).toBe(said[0].frames + 15);
    expect(said[0].clips[1].overlap).toBe(13);
    expect(said[0].slide).toBeLessThan(3);
    const read = await readMotionFile(await readFile(at('r', 'first.glb')), 'first.glb');
    expect([read.clips[0].name, read.clips[0].frames]).toEqual(['first', said[0].frames]);
    expect(await call(...args, at('s'), '--together')).toBe(0);
    const whole = await readMotionFile(await readFile(at('s', 'short.glb')), 'short.glb');
    expect(whole.clips.map(({ name }) => name)).toEqual(['first', 'second']);
    await writeFile(at('bad.reel.json'), JSON.stringify({ ...reel, lanes: [{ ...lanes[0], character: 'nobody.glb' }] }));
    expect(await call('reel', at('bad.reel.json'), ...args.slice(2), at('t'))).toBe(1);
    expect(err.join()).toContain('the reel plays the character nobody.glb');
  });

  it('judges a result that is there, sees what was spoilt in it, and refuses one of another body', async () => {
    await call('run', '--takes', at('takes', 'walk-41.bvh'), '--characters', at('bodies'), '--out', at('f'));
    const args = ['check', '--take', at('takes', 'walk-41.bvh'), '--character', at('bodies', 'tall.glb')];
    expect(await call(...args, '--result', at('f', 'walk-41-on-tall.glb'), '--sheet', at('sheet.html'))).toBe(0);
    expect(await readFile(at('sheet.html'), 'utf8')).toContain('walk-41-on-tall.glb');
    // An arm that jumps from frame to frame is seen, whoever made it.
    const keys = Array.from({ length: 12 }, (_, i) => ({ at: i * 0.1, value: i % 2 === 0 ? 0 : 120 }));
    const jumps = makeTouchUp({
      kind: 'arms',
      side: 'left',
      value: 0,
      keys: keys.map((key) => ({ ...key, value: key.value * 0.75 })),
      ease: 'step',
    });
    await writeFile(at('jumps.recipe.json'), writeRecipe({ ...DEFAULT_RECIPE, touchUps: [jumps] }));
    await call(
      'run',
      '--takes',
      at('takes', 'walk-41.bvh'),
      '--characters',
      at('bodies'),
      '--recipes',
      at('jumps.recipe.json'),
      '--out',
      at('g'),
    );
    expect(await call(...args, '--result', at('g', 'walk-41-on-tall.glb'), '--json')).toBe(3);
    const sheet = v.parse(checkSheetSchema, JSON.parse(out[0]));
    expect([sheet.verdict, sheet.items[0].figures.some(({ mark, frame }) => mark === 'fault' && frame !== null && frame >= 1)]).toEqual([
      'fault',
      true,
    ]);
    expect(await call(...args, '--result', at('f', 'walk-41-on-short.glb'))).toBe(1);
    expect(err[0]).toContain('are not those of tall.glb');
  });
});
