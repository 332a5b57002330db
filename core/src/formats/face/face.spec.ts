import * as fc from 'fast-check';
import { FaultError } from '../../errors';
import { random } from '../../math';
import { makeFaceTrack } from '../../testing';
import { faceCsv, faceJson, faceValueAt, readFace, type FaceTrack } from './index';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const read = (text: string): Promise<FaceTrack> => readFace(bytes(text), 'face.csv');
const timesOf = ({ frames, frameTime, start }: FaceTrack): number[] => Array.from({ length: frames }, (_, f) => start + f * frameTime);
const tableOf = (track: FaceTrack) => ({ channels: track.channels, times: timesOf(track), values: track.values });
const fault = async (text: string): Promise<{ code: string; line?: number; message: string }> => {
  try {
    await read(text);
  } catch (error) {
    const { code, where, message } = (error as FaultError).fault;
    return { code, message, ...(where.line !== undefined && { line: where.line }) };
  }
  throw new Error('it was read');
};

describe('tables of face channels', () => {
  it('come back as they were written, as CSV and as JSON, at any rate', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(24, 25, 30, 50, 59.94, 60, 100, 120),
        fc.integer({ min: 1, max: 9 }),
        fc.integer({ min: 1, max: 99 }),
        async (fps, count, seed) => {
          const channels = Array.from({ length: count }, (_, c) => `channel, "${c}"`);
          const track = makeFaceTrack(channels, { seed, fps, seconds: 3, start: 0.25 });
          for (const text of [faceCsv(tableOf(track)), faceJson(tableOf(track), 1 / track.frameTime)]) {
            const back = await read(text);
            expect(back.channels).toEqual(channels);
            expect(back.frames).toBe(track.frames);
            expect(Math.abs(back.frameTime - track.frameTime) * track.frames).toBeLessThan(2e-4);
            expect(Math.abs(back.start - 0.25)).toBeLessThan(1e-6);
            const worst = back.values.reduce((most, x, i) => Math.max(most, Math.abs(x - track.values[i])), 0);
            expect(worst).toBeLessThan(2e-6);
          }
        },
      ),
      { numRuns: 20, seed: 5 },
    );
  });

  it('are read with any separator, decimal commas, time codes, milliseconds and frame numbers', async () => {
    const expectTwo = (track: FaceTrack, fps: number): void => {
      expect(track.channels).toEqual(['jawOpen', 'mouthClose']);
      expect(1 / track.frameTime).toBeCloseTo(fps, 3);
      expect([...track.values.slice(0, 4)].map((x) => Number(x.toFixed(3)))).toEqual([0.1, 0.2, 0.3, 0.4]);
    };
    expectTwo(await read('time;jawOpen;mouthClose\n0,00;0,1;0,2\n0,04;0,3;0,4\n0,08;0,5;0,6\n'), 25);
    expectTwo(await read('ms\tjawOpen\tmouthClose\n0\t0.1\t0.2\n20\t0.3\t0.4\n40\t0.5\t0.6\n'), 50);
    expectTwo(await read('frame,jawOpen,mouthClose\n1,0.1,0.2\n2,0.3,0.4\n3,0.5,0.6\n'), 60);
    const code = Array.from(
      { length: 40 },
      (_, f) => `10:00:0${Math.floor((f + 20) / 30)}:${(f + 20) % 30},2,${f === 1 ? 0.3 : 0.1},${f === 1 ? 0.4 : 0.2}`,
    );
    const coded = await read(`made by hand\nTimecode,BlendshapeCount,jawOpen,mouthClose\n${code.join('\n')}\n`);
    expectTwo(coded, 30);
    // A time of the day says nothing of where it lies in a take.
    expect(coded.start).toBe(0);
    expectTwo(await read('{"fps": 25, "channels": ["jawOpen", "mouthClose"], "frames": [[0.1, 0.2], [0.3, 0.4], [0.5, 0.6]]}'), 25);
    expectTwo(
      await read('[{"time":0,"channels":{"jawOpen":0.1,"mouthClose":0.2}},{"time":0.02,"channels":{"jawOpen":0.3,"mouthClose":0.4}}]'),
      50,
    );
  });

  it('keep holes as holes and lay uneven rows on even frames', async () => {
    const holed = await read('time,a,note\n0,0.1,x\n0.1,,y\n0.2,0.3,\n0.5,0.6,\n0.6,0.7,\n');
    expect(holed.channels).toEqual(['a']);
    expect([...holed.values].map((x) => (Number.isNaN(x) ? null : Number(x.toFixed(3))))).toEqual([0.1, null, 0.3, null, null, 0.6, 0.7]);
    // A ramp that was sampled with a trembling hand is that ramp.
    const { range } = random(3);
    const times = Array.from({ length: 300 }, (_, f) => f / 60 + (f === 0 || f === 299 ? 0 : range(-0.006, 0.006)));
    const even = await read(faceCsv({ channels: ['ramp'], times, values: times.map((t) => t / 5) }));
    expect(even.frames).toBe(300);
    for (let f = 0; f < even.frames; f++) expect(Math.abs(even.values[f] - (f * even.frameTime) / 5)).toBeLessThan(0.0015);
  });

  it('say what is wrong, and on which line', async () => {
    expect(await fault('')).toEqual(jasmine.objectContaining({ code: 'file/empty' }));
    expect(await fault('a,b\n1,2\n')).toEqual(jasmine.objectContaining({ code: 'face/table', line: 1 }));
    expect(await fault('time,a\n0,0\n0.1,0\n0.05,0\n')).toEqual(jasmine.objectContaining({ code: 'face/table', line: 4 }));
    expect(await fault('time,a\n0,0\n0.1,4x4\n')).toEqual(jasmine.objectContaining({ code: 'face/table', line: 3 }));
    expect(await fault('time,a\n0,0\n0.1,1e9\n')).toEqual(jasmine.objectContaining({ code: 'face/table', line: 3 }));
    expect(await fault('time,a\n0,1\n')).toEqual(jasmine.objectContaining({ code: 'face/table' }));
    expect((await fault('{"channels": {"a": [0, 1]}}')).message).toContain('rate');
    expect((await fault('{"format": "hollow-stride/face", "version": 2}')).message).toContain('version');
    expect(
      (await fault(`time,${Array.from({ length: 500 }, (_, c) => `c${c}`).join()}\n0,${'0,'.repeat(499)}0\n1,${'0,'.repeat(499)}0\n`))
        .message,
    ).toContain('400');
  });

  it('never crash the reader: three thousand damaged tables give a table or a fault with words', async () => {
    const track = makeFaceTrack(['jawOpen', 'mouthSmileLeft', 'browDown'], { seconds: 0.3 });
    const seeds = [faceCsv(tableOf(track)), faceJson(tableOf(track), 60), 'time;a\n0,0;1\n0,1;2\n'].map(bytes);
    const { integer } = random(11);
    let [good, refused] = [0, 0];
    for (let i = 0; i < 3000; i++) {
      const seed = seeds[i % seeds.length];
      const damaged = Array.from(seed);
      for (let k = integer(1, 6); k > 0; k--) {
        const at = integer(0, damaged.length - 1);
        const how = integer(0, 3);
        if (how === 0) damaged[at] = integer(0, 255);
        else if (how === 1) damaged.splice(at, integer(1, 40));
        else if (how === 2) damaged.splice(at, 0, ...bytes(['NaN', '1e400', ',,,,', '\n', '"', '-', ':', '{'][integer(0, 7)]));
        else damaged.splice(at, 0, ...damaged.slice(at, at + integer(1, 60)));
      }
      try {
        const { values, frames, channels } = await readFace(Uint8Array.from(damaged), 'damaged');
        expect(values.length).toBe(frames * channels.length);
        good++;
      } catch (error) {
        if (!(error instanceof FaultError) || error.cause !== undefined) throw error;
        refused++;
      }
    }
    expect(good).toBeGreaterThan(150);
    expect(refused).toBeGreaterThan(500);
  });

  it('give values between frames on straight lines, and hold at both ends', () => {
    const track = makeFaceTrack(['a', 'b'], { start: 1 });
    expect(faceValueAt(track, 1, 0)).toBe(track.values[1]);
    expect(faceValueAt(track, 0, 99)).toBe(track.values[(track.frames - 1) * 2]);
    expect(faceValueAt(track, 0, 1 + 1.5 / 60)).toBeCloseTo((track.values[2] + track.values[4]) / 2, 6);
  });
});
