import { FaultError, sendable, writeFrame } from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '@hollow-stride/core/testing/index';
import { journalRecord, readJournal } from './journal';

const shape = randomShape(771, { spine: 3, neck: 1, clavicles: true });
const take = sendable(makeFile(shape, { metres: 0.01 }, walk(shape, { seed: 771, frames: 60 })), 0, {
  name: 'walker',
  session: 'session-771',
});
const bytesOf = (value: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(value));

describe('a journal of a recording', () => {
  it('loses the frame in flight and no other where it is cut at any byte', () => {
    const parts = [bytesOf({ name: 'walker' }), bytesOf(take.opening), ...[0, 1, 2, 3, 4].map((i) => writeFrame(take.frame(i)))].map(
      journalRecord,
    );
    const ends = parts.map((_, i) => parts.slice(0, i + 1).reduce((sum, { length }) => sum + length, 0));
    const whole = new Uint8Array(ends[ends.length - 1]);
    parts.forEach((part, i) => whole.set(part, ends[i] - part.length));
    for (let cut = ends[1]; cut <= whole.length; cut += 13) {
      const { frames } = readJournal(whole.subarray(0, cut));
      expect(frames.length).toBe(ends.filter((end, i) => i >= 2 && end <= cut).length);
    }
    // A byte that went bad ends it there, too.
    const bad = whole.slice();
    bad[ends[4] + 60] ^= 1;
    expect(readJournal(bad).frames.length).toBe(3);
    expect(() => readJournal(whole.subarray(0, ends[0]))).toThrowMatching(
      (error) => error instanceof FaultError && error.fault.code === 'stream/journal',
    );
  });
});
