import { FaultError } from '../errors';
import { readBvh } from '../formats';
import { random } from '../math/random';
import { makeFile, randomShape, walk } from '../testing';
import {
  clipOfFrames,
  frameBytes,
  parseOpening,
  readFrame,
  sendable,
  skeletonOfStream,
  StreamReceiver,
  writeFrame,
  writeRecorded,
} from '.';
import { ClipReader } from '../clip';

const shape = randomShape(771, { spine: 3, neck: 1, clavicles: true, fingers: 2 });
const file = makeFile(shape, { metres: 0.01 }, walk(shape, { seed: 771, frames: 120 }));
const take = sendable(file, 0, { name: 'walker', session: 'session-771', metres: 0.01 });
const joints = take.opening.joints.length;
const code = (act: () => unknown): string => {
  try {
    act();
  } catch (error) {
    return error instanceof FaultError ? error.fault.code : `untyped: ${String(error)}`;
  }
  return 'none';
};

describe('a stream', () => {
  it('opens with its skeleton, and is refused with the reason where that is none', () => {
    const opening = parseOpening(JSON.stringify(take.opening));
    expect(skeletonOfStream(opening).names).toEqual(file.skeleton.names);
    for (const bad of [
      '{',
      JSON.stringify({ ...take.opening, version: 2 }),
      JSON.stringify({ ...take.opening, session: '../..' }),
      JSON.stringify({ ...take.opening, rate: 1e9 }),
      JSON.stringify({ ...take.opening, joints: take.opening.joints.map((joint) => ({ ...joint, parent: joints })) }),
      JSON.stringify({ ...take.opening, joints: [] }),
    ])
      expect(code(() => parseOpening(bad))).toBe('stream/opening');
  });

  it('carries frames that are read as they were written', () => {
    for (const number of [0, 7, 119]) {
      const frame = take.frame(number);
      const bytes = writeFrame(frame);
      expect(bytes.length).toBe(frameBytes(joints));
      const read = readFrame(bytes, joints);
      expect([read.number, read.seconds, [...read.place]]).toEqual([number, frame.seconds, [...frame.place]]);
      frame.turns.forEach((v, i) => expect(Math.abs(v - read.turns[i])).toBeLessThan(1e-6));
    }
  });

  it('refuses a hundred thousand damaged frames without breaking, and never takes in what is no number', () => {
    const r = random(5);
    const good = writeFrame(take.frame(3));
    let refused = 0;
    for (let i = 0; i < 100_000; i++) {
      let bytes = good.slice();
      const kind = r.integer(0, 3);
      if (kind === 0) bytes = bytes.slice(0, r.integer(0, bytes.length));
      else for (let k = r.integer(1, kind === 1 ? 2 : 40); k > 0; k--) bytes[r.integer(0, bytes.length - 1)] = r.integer(0, 255);
      try {
        const { place, turns, seconds } = readFrame(bytes, joints);
        if (![...place, seconds].every(Number.isFinite) || !turns.every(Number.isFinite)) fail('a number that is none was taken in');
      } catch (error) {
        refused++;
        if (!(error instanceof FaultError) || error.fault.code !== 'stream/frame') fail(`untyped: ${String(error)}`);
      }
    }
    expect(refused).toBeGreaterThan(50_000);
  });

  it('tells lost, doubled and late frames apart, and goes on after a lost line without doubling any', () => {
    const receiver = new StreamReceiver();
    const missing = [0, 1, 2, 2, 6, 5, 7, 3, 8].map((number) => receiver.take(take.frame(number)));
    expect(missing).toEqual([0, 0, 0, undefined, 3, undefined, 0, undefined, 0]);
    expect(receiver.count).toEqual({ received: 6, lost: 3, doubled: 3 });
  });

  it('is recorded as it was sent: the same places, joint by joint, and gaps that are told and bridged', () => {
    const numbers = Array.from({ length: 100 }, (_, i) => i).filter((i) => i < 40 || i > 46);
    const { clip, gaps } = clipOfFrames('walker 1', take.opening, numbers.map(take.frame));
    expect(gaps).toEqual([{ from: 40, to: 46 }]);
    const bvh = readBvh(writeRecorded(take.opening, clip), 'walker.bvh');
    // BVH lists limbs one after the other.
    const place = file.skeleton.names.map((name) => bvh.skeleton.names.indexOf(name));
    expect(Math.min(...place)).toBe(0);
    const [own, made] = [new ClipReader(file.skeleton, file.clips[0]), new ClipReader(bvh.skeleton, bvh.clips[0])];
    let worst = 0;
    let bridged = 0;
    for (let f = 0; f < 100; f++) {
      const [a, b] = [own.at(f).positions, made.at(f).positions];
      const far = a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[place[Math.floor(i / 3)] * 3 + (i % 3)])), 0);
      if (f >= 40 && f <= 46) bridged = Math.max(bridged, far);
      else worst = Math.max(worst, far);
    }
    // Centimetres: a hundredth of a millimetre, and within the gap no farther off than a body moves in it.
    expect(worst).toBeLessThan(0.02);
    expect(bridged).toBeLessThan(25);
  });

  it('is no take with fewer than two frames', () => {
    expect(code(() => clipOfFrames('x', take.opening, []))).toBe('stream/journal');
  });
});
