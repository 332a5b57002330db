import { DEFAULT_SKELETON, readMotionFile, sendable, writeBvh, writeFrame, type BvhLayout } from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '../../../../../../core/src/testing';
import { DEFAULT_CHOICES } from '../../../project/project.store';
import { Delays } from './delays';
import { LiveHost } from './live-host';
import type { LiveRequest, LiveTold } from './messages';

describe('the delay of a live transfer', () => {
  it('is told by the median and the ninety-ninth of a hundred, from frames that came and went', () => {
    const delays = new Delays();
    for (let number = 0; number < 200; number++) delays.came(number, number * 10);
    // Each frame takes 50 ms but every fiftieth, which takes 90; work is shared among the frames of one go.
    for (let number = 0; number < 200; number += 2) {
      for (const one of [number, number + 1]) delays.went([one], 4, one * 10 + (one % 50 === 0 ? 90 : 50));
    }
    expect(delays.delay).toEqual({ half: 50, most: 90 });
    expect(delays.work).toEqual({ half: 4, most: 4 });
    delays.came(200, 0);
    delays.came(201, 5);
    delays.went([200, 201, 999], 9, 10);
    expect(delays.work.most).toBe(4);
  });

  it('forgets frames that never come out', () => {
    const delays = new Delays();
    for (let number = 0; number < 5000; number++) delays.came(number, number);
    delays.went([0, 4999], 1, 5000);
    expect(delays.delay).toEqual({ half: 1, most: 1 });
  });
});

describe('a live transfer in its worker', () => {
  const shape = randomShape(921, { spine: 3, neck: 1, clavicles: true });
  const take = sendable(makeFile(shape, { metres: 0.01 }, walk(shape, { seed: 921, frames: 150 })), 0, {
    name: 'walker',
    session: 'session-921',
    metres: 0.01,
  });
  const other = randomShape(922, { spine: 2, neck: 1, clavicles: true });
  const made = makeFile(other, { name: 'body.bvh' }, walk(other, { frames: 30 }));
  const text = writeBvh(made.skeleton, made.clips[0], made.layout as BvhLayout);
  const real = globalThis.fetch;
  let number = 0;
  let told: LiveTold[];
  let due: (() => void)[];
  let host: LiveHost;
  let request: LiveRequest;

  beforeEach(() => {
    globalThis.fetch = () => Promise.resolve(new Response(text as BodyInit));
    number++;
    told = [];
    due = [];
    host = new LiveHost(
      (one) => told.push(one),
      (then) => due.push(then),
    );
    request = {
      opening: take.opening,
      character: { file: `live${number}`, name: 'body.bvh', clip: 0, skeleton: DEFAULT_SKELETON, reference: null },
      choices: DEFAULT_CHOICES,
      performer: DEFAULT_SKELETON,
    };
  });
  afterEach(() => (globalThis.fetch = real));
  const settled = () => new Promise((resolve) => setTimeout(resolve, 30));
  const send = (f: number): void => host.take({ kind: 'frame', bytes: writeFrame(take.frame(f)) });
  const solve = (): void => due.splice(0).forEach((then) => then());

  it('learns the performer, says what the character looks like, and then tells every frame once', async () => {
    host.take({ kind: 'begin', request });
    // Frames that come while the character is read wait for it.
    for (let f = 0; f < 20; f++) send(f);
    await settled();
    solve();
    expect(told).toEqual([{ kind: 'learning', share: 1 / 3 }]);
    for (let f = 20; f < 150; f++) {
      send(f);
      if (f % 3 === 0) solve();
    }
    solve();
    const begun = told.filter((one) => one.kind === 'begun');
    expect(begun.length).toBe(1);
    const body = await readMotionFile(text, 'body.bvh');
    expect(begun[0].display.skeleton.names).toEqual(body.skeleton.names);
    const frames = told.filter((one) => one.kind === 'frames');
    expect(frames.flatMap(({ numbers }) => numbers)).toEqual(Array.from({ length: 147 }, (_, i) => i));
    for (const { positions, rotations } of frames) {
      expect(positions.length).toBe(body.skeleton.names.length * 3);
      expect(rotations.every(Number.isFinite)).toBeTrue();
    }
    // It goes along with the performer.
    const way = (f: number): number => Math.hypot(frames[f].positions[0], frames[f].positions[2]);
    expect(way(frames.length - 1)).toBeGreaterThan(way(0) + 0.3);
  });

  it('fails once, with the reason, and is silent after', async () => {
    globalThis.fetch = () => Promise.resolve(new Response('', { status: 404 }));
    host.take({ kind: 'begin', request });
    await settled();
    for (let f = 0; f < 5; f++) send(f);
    solve();
    expect(told.map(({ kind }) => kind)).toEqual(['failed']);
    expect(told[0].kind === 'failed' && told[0].fault.message).toContain('404');
  });
});
