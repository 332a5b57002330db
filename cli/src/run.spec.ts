import { existsSync } from 'node:fs';
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DEFAULT_RECIPE, makeTouchUp, readMotionFile, writeBvh, writeRecipe, type BvhLayout } from '@hollow-stride/core';
import { makeFile, makeGlb, randomShape, walk } from '@hollow-stride/core/testing/index';
import { run } from './main';

interface Report {
  readonly items: {
    take: string;
    character: string;
    file: string | null;
    fault: string | null;
    verdict: string | null;
    reduced: { worst: number } | null;
  }[];
}

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
  const reportOf = async (place: string): Promise<Report> => JSON.parse(await readFile(at(place, 'report.json'), 'utf8')) as Report;

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
      'report.json',
      'walk-41-on-short.glb',
      'walk-41-on-tall.glb',
      'walk-42-on-short.glb',
      'walk-42-on-tall.glb',
    ]);
    // A walk without a captured body's tremor shows every corner of fewer keys: the tolerance itself holds.
    await call('run', '--takes', at('takes'), '--characters', at('bodies'), '--out', at('t'), '--tolerance', '0.5');
    for (const { reduced } of (await reportOf('t')).items) expect(reduced!.worst).toBeLessThan(0.0005);
    expect((await readFile(at('a', 'check-sheet.csv'), 'utf8')).split('\n')[0]).toContain('take,character,file');
  });

  it('says by its exit code what could not be solved, and what is over the production’s limits', async () => {
    await writeFile(at('takes', 'broken.bvh'), 'HIERARCHY\nnonsense');
    expect(await call('run', '--takes', at('takes'), '--characters', at('bodies', 'tall.glb'), '--out', at('b'), '--json')).toBe(1);
    const { items } = JSON.parse(out[0]) as Report;
    expect(items.map(({ file }) => file !== null)).toEqual([false, true, true]);
    expect(items[0].fault).toContain('broken.bvh');
    await rm(at('takes', 'broken.bvh'));
    await writeFile(at('limits.json'), JSON.stringify({ 'held.feet': { good: 101, fault: 100.5 } }));
    const args = ['run', '--takes', at('takes'), '--characters', at('bodies'), '--out', at('c')];
    expect(await call(...args, '--limits', at('limits.json'))).toBe(3);
    expect((await reportOf('c')).items.every(({ verdict }) => verdict === 'fault')).toBeTrue();
    await writeFile(at('limits.json'), JSON.stringify({ slide: 4 }));
    expect(await call(...args, '--limits', at('limits.json'))).toBe(1);
    expect(err[0]).toContain('"good" and "fault"');
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
    expect(err[0]).toContain('stands for nothing');
  });

  it('puts the takes of a character into one file', async () => {
    await call('run', '--takes', at('takes'), '--characters', at('bodies'), '--out', at('e'), '--together', '--bare');
    const { clips } = await readMotionFile(await readFile(at('e', 'short.glb')), 'short.glb');
    expect(clips.map(({ name }) => name)).toEqual(['walk-41', 'walk-42']);
    expect(existsSync(at('e', 'walk-41-on-short.glb'))).toBeFalse();
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
    expect((JSON.parse(out[0]) as { faults: number }).faults).toBeGreaterThan(0);
    expect(await call(...args, '--result', at('f', 'walk-41-on-short.glb'))).toBe(1);
    expect(err[0]).toContain('are not those of tall.glb');
  });
});
