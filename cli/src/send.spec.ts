import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { WebSocketServer } from 'ws';
import {
  ClipReader,
  parseOpening,
  readBvh,
  readFrame,
  skeletonOfStream,
  writeBvh,
  type BvhLayout,
  type Opening,
  type StreamFrame,
} from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '@hollow-stride/core/testing/index';
import { run } from './main';

describe('hollow-stride send', () => {
  let folder: string;
  let desk: WebSocketServer;
  let address: string;
  let opened: Opening[];
  let frames: StreamFrame[];
  /** Breaks the line after so many frames, once. */
  let breaks: number;
  let err: string[];
  const call = (...args: string[]): Promise<number> => {
    err = [];
    return run(args, { out: () => undefined, err: (text) => err.push(text) });
  };

  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'hollow-stride-send-'));
    const shape = randomShape(791, { spine: 2, neck: 1, clavicles: true });
    const { skeleton, clips, layout } = makeFile(shape, { metres: 0.01 }, walk(shape, { seed: 791, frames: 60 }));
    await writeFile(join(folder, 'walk.bvh'), writeBvh(skeleton, clips[0], layout as BvhLayout));
  });
  afterAll(() => rm(folder, { recursive: true }));
  beforeEach(async () => {
    [opened, frames, breaks] = [[], [], Infinity];
    desk = new WebSocketServer({ port: 0, host: '127.0.0.1' });
    await new Promise((resolve) => desk.once('listening', resolve));
    address = `http://127.0.0.1:${(desk.address() as AddressInfo).port}`;
    desk.on('connection', (line) => {
      line.on('message', (data: Buffer, isBinary) => {
        if (!isBinary) {
          opened.push(parseOpening(data.toString()));
          line.send(JSON.stringify(opened[0].name === 'unwanted' ? { kind: 'refused', fault: { message: 'not you' } } : { kind: 'open' }));
          return;
        }
        frames.push(readFrame(new Uint8Array(data), opened[0].joints.length));
        if (frames.length === breaks) line.terminate();
      });
    });
  });
  afterEach(() => new Promise((resolve) => desk.close(resolve)));

  it('plays a take frame by frame, as it is in the file', async () => {
    expect(await call('send', join(folder, 'walk.bvh'), '--server', address, '--fps', '240'))
      .withContext(err.join())
      .toBe(0);
    const [opening] = opened;
    expect(opening.rate).toBe(240);
    expect(opening.metres).toBeCloseTo(0.01, 6);
    expect(frames.map(({ number }) => number)).toEqual(frames.map((_, i) => i));
    const { skeleton, clips } = readBvh(await readFile(join(folder, 'walk.bvh')), 'walk.bvh');
    const last = frames[frames.length - 1];
    const made = { name: '', frameTime: 1, frames: 1, rotations: last.turns, moves: [{ joint: 0, values: last.place }] };
    const [a, b] = [
      new ClipReader(skeleton, clips[0]).at(clips[0].frames - 1).positions,
      new ClipReader(skeletonOfStream(opening), made).at(0).positions,
    ];
    expect(Math.max(...a.map((v, i) => Math.abs(v - b[i])))).toBeLessThan(0.01);
  });

  it('takes a lost line up again under the same session, and skips nothing', async () => {
    breaks = 20;
    expect(await call('send', join(folder, 'walk.bvh'), '--server', address, '--fps', '60'))
      .withContext(err.join())
      .toBe(0);
    expect(opened.length).toBe(2);
    expect(opened[0].session).toBe(opened[1].session);
    const numbers = new Set(frames.map(({ number }) => number));
    expect(numbers.size).toBe(Math.max(...numbers) + 1);
    expect(err.join()).toContain('taken up again');
  });

  it('says who does not take it', async () => {
    expect(await call('send', join(folder, 'walk.bvh'), '--server', address, '--name', 'unwanted')).toBe(1);
    expect(err.join()).toContain('not you');
    expect(await call('send', join(folder, 'walk.bvh'), '--server', 'http://127.0.0.1:1')).toBe(1);
    expect(await call('send', join(folder, 'walk.bvh'), '--server', address, '--clip', '3')).toBe(1);
  });
});
