import type { LimbTrack } from '../limbTrack';
import { breaksOf } from './breaks';

const FRAMES = 60;

/** A hand that goes along a line, its shoulder at rest. */
function along(way: (f: number) => number): LimbTrack {
  const data = new Float64Array(FRAMES * 6);
  for (let f = 0; f < FRAMES; f++) data[f * 6 + 3] = way(f);
  return { data, stride: 6, frames: FRAMES, at: { top: 0, end: 3 } } as unknown as LimbTrack;
}

/** Frames to which a hand jumps that goes so. */
const jumps = (way: (f: number) => number, frameTime = 0.01): number[] => {
  const breaks = breaksOf([along(way)], frameTime);
  return [...breaks.keys()].filter((f) => breaks[f] === 1);
};

describe('jumps of a take', () => {
  it('are where a limb is elsewhere from one frame to the next, far or near, at rest or on its way', () => {
    expect(jumps((f) => (f < 20 ? 0 : 0.25))).toEqual([20]);
    expect(jumps((f) => (f < 20 ? 0 : 0.08))).toEqual([20]);
    expect(jumps((f) => 0.03 * f + (f < 20 ? 0 : 0.12))).toEqual([20]);
  });

  it('are at both ends of frames that stand elsewhere', () => {
    expect(jumps((f) => (f === 30 ? 0.15 : 0))).toEqual([30, 31]);
    expect(jumps((f) => (f >= 30 && f < 33 ? 0.15 : 0))).toEqual([30, 33]);
  });

  it('are none where a fast hand stands for a frame and catches up in the next', () => {
    expect(jumps((f) => 0.05 * Math.ceil(f / 2))).toEqual([]);
    expect(jumps((f) => 0.05 * Math.ceil(f / 2) + 0.02 * Math.floor(f / 7))).toEqual([]);
  });

  it('are none in a flick of the capture, however many frames a second tell of it', () => {
    const flick = (f: number): number => 0.01 * f + (f < 20 ? 0 : 0.035);
    for (const rate of [100, 240, 480])
      expect(jumps(flick, 1 / rate))
        .withContext(`${rate}`)
        .toEqual([]);
    // What does jump does so at any rate.
    for (const rate of [100, 240, 480])
      expect(jumps((f) => (f < 20 ? 0 : 0.08), 1 / rate))
        .withContext(`${rate}`)
        .toEqual([20]);
  });

  it('are none in a hit that stops at once', () => {
    expect(jumps((f) => 0.06 * Math.min(f, 30))).toEqual([]);
  });
});
