import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  DEFAULT_NAME_TABLE,
  DEFAULT_RECIPE,
  faceCsv,
  parseNameTable,
  readFace,
  readMotionFile,
  writeBvh,
  writeNameTable,
  writeRecipe,
  type BvhLayout,
} from '@hollow-stride/core';
import { makeFaceTrack, makeFile, makeGlb, randomShape, walk, withFace } from '@hollow-stride/core/testing/index';
import { run } from './main';

describe('hollow-stride with faces', () => {
  let folder: string;
  let out: string[];
  let err: string[];
  const call = (...args: string[]): Promise<number> => {
    out = [];
    err = [];
    return run(args, { out: (text) => out.push(text), err: (text) => err.push(text) });
  };
  const path = (name: string): string => join(folder, name);
  const track = makeFaceTrack(['jawOpen', 'eyeBlinkLeft', 'eyeBlinkRight', 'tongueOut'], { seconds: 3 });
  const valueAt = (seconds: number, channel: number): number => track.values[Math.round(seconds * 60) * 4 + channel];

  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'hollow-stride-face-'));
    const shape = randomShape(31, { spine: 3, neck: 1, clavicles: true });
    const take = makeFile(shape, { metres: 0.01 }, walk(shape, { seed: 31, frames: 150 }));
    await writeFile(path('call.bvh'), writeBvh(take.skeleton, take.clips[0], take.layout as BvhLayout));
    const body = makeFile(randomShape(32, { spine: 2, neck: 1, clavicles: true }));
    await writeFile(path('body.glb'), await withFace(await makeGlb(body.skeleton), [['mouthOpen', 'lid_L', 'lid_R', 'kiss']]));
    const times = Array.from({ length: track.frames }, (_, f) => f / 60);
    await writeFile(path('call.csv'), faceCsv({ channels: track.channels, times, values: track.values }));
  });
  afterAll(() => rm(folder, { recursive: true }));

  it('says what drives which shape, and writes the shapes as a table and the name table to be used again', async () => {
    expect(
      await call(
        'face',
        path('call.csv'),
        '--character',
        path('body.glb'),
        '--out',
        path('shapes.csv'),
        '--save-names',
        path('names.json'),
      ),
    ).toBe(0);
    const said = out.join('\n');
    expect(said).toMatch(/mouthOpen +jawOpen {2}\(a name alike\)/);
    expect(said).toMatch(/kiss +–/);
    expect(said).toContain('1 channels drive nothing: tongueOut');
    const shapes = await readFace(await readFile(path('shapes.csv')), 'shapes.csv');
    expect(shapes.channels).toEqual(['mouthOpen', 'lid_L', 'lid_R', 'kiss']);
    expect(shapes.frames).toBe(track.frames);
    for (const f of [0, 60, 137]) {
      expect(shapes.values[f * 4]).toBeCloseTo(track.values[f * 4], 5);
      expect(shapes.values[f * 4 + 2]).toBeCloseTo(track.values[f * 4 + 2], 5);
    }
    const { table } = parseNameTable(await readFile(path('names.json'), 'utf8'));
    expect([table.propose, table.rows['lid_R'].from]).toEqual([false, [{ channel: 'eyeBlinkRight', weight: 1 }]]);
    expect(
      await call('face', path('call.csv'), '--character', path('body.glb'), '--names', path('names.json'), '--exchange', '--json'),
    ).toBe(0);
    const { rows, exchange } = JSON.parse(out[0]) as { rows: { shape: string; reason: string }[]; exchange: boolean };
    expect([exchange, rows.map(({ reason }) => reason)]).toEqual([true, ['hand', 'hand', 'hand', 'none']]);
  });

  it('solves a take with its face, where the options or the recipe lay it, and reports how it came over', async () => {
    const rows = { kiss: { from: [{ channel: 'tongueOut', weight: 1 }], offset: 0, strength: 0.5, curve: null, rest: 0, low: 0, high: 1 } };
    await writeFile(path('kissing.json'), writeNameTable('kissing', { ...DEFAULT_NAME_TABLE, rows }));
    const solve = ['solve', '--take', path('call.bvh'), '--character', path('body.glb'), '--out', path('out.glb')];
    expect(await call(...solve, '--face', path('call.csv'), '--face-offset', '0.5', '--names', path('kissing.json'), '--json')).toBe(0);
    const report = JSON.parse(out[0]) as { figures: { id: string; value: number; mark: string }[] };
    expect(report.figures.find(({ id }) => id === 'face.shapes')!.value).toBeLessThan(0.01);
    const faceOf = async (file: string) => (await readMotionFile(await readFile(path(file)), file)).faces!.at(-1)!;
    const face = await faceOf('out.glb');
    // Sampled between the recorder's own frames: they lie half a frame beside those of the file's first key.
    const at = (seconds: number, shape: number): number => face.values[Math.round(seconds / face.frameTime) * 4 + shape];
    for (const seconds of [0.8, 1.5, 2]) {
      expect(at(seconds, 0)).toBeCloseTo(valueAt(seconds - 0.5, 0), 1);
      expect(at(seconds, 3)).toBeCloseTo(valueAt(seconds - 0.5, 3) / 2, 1);
    }
    const recipe = {
      ...DEFAULT_RECIPE,
      take: { ...DEFAULT_RECIPE.take, face: { recording: 'call.csv', offset: 0.5, rate: null, spikes: false, smooth: null } },
    };
    await writeFile(
      path('call.recipe.json'),
      writeRecipe({ ...recipe, pairing: { ...recipe.pairing, face: { ...DEFAULT_NAME_TABLE, rows } } }),
    );
    expect(
      await call(
        'solve',
        '--take',
        path('call.bvh'),
        '--character',
        path('body.glb'),
        '--out',
        path('again.glb'),
        '--recipe',
        path('call.recipe.json'),
        '--face',
        path('call.csv'),
      ),
    ).toBe(0);
    expect((await readFile(path('again.glb'))).equals(await readFile(path('out.glb')))).toBeTrue();
    // Without the recording that it names the recipe still solves the body, and says so.
    expect(
      await call(
        'solve',
        '--take',
        path('call.bvh'),
        '--character',
        path('body.glb'),
        '--out',
        path('still.glb'),
        '--recipe',
        path('call.recipe.json'),
      ),
    ).toBe(0);
    expect(out.join('\n')).toContain('was not given');
  });

  it('plays faces in a run by the names of their takes', async () => {
    expect(
      await call('run', '--takes', path('call.bvh'), '--characters', path('body.glb'), '--faces', path('call.csv'), '--out', path('run')),
    ).not.toBe(2);
    const made = await readMotionFile(await readFile(path('run/call-on-body.glb')), 'made.glb');
    expect(made.faces!.at(-1)!.channels).toEqual(['mouthOpen', 'lid_L', 'lid_R', 'kiss']);
  });

  it('says what is wrong with what it is given', async () => {
    expect(await call('face', path('call.bvh'), '--character', path('body.glb'))).toBe(1);
    expect(err.join()).toContain('call.bvh');
    expect(await call('face', path('call.csv'), '--character', path('call.bvh'), '--out', path('none.csv'))).toBe(1);
    expect(err.join()).toContain('no face shapes');
    expect(
      await call('solve', '--take', path('call.bvh'), '--character', path('body.glb'), '--out', path('x.glb'), '--face-offset', '1'),
    ).toBe(1);
    expect(err.join()).toContain('--face');
    await writeFile(
      path('bad.json'),
      '{"format":"hollow-stride/name-table","version":1,"name":"bad","table":{"rows":{"a":{"low":2,"high":1}}}}',
    );
    expect(await call('face', path('call.csv'), '--character', path('body.glb'), '--names', path('bad.json'))).toBe(1);
    expect(err.join()).toContain('table.rows.a');
  });
});
