import { makeLimbTrack, type LimbTrack } from '../limbTrack';
import type { LimbPlan } from '../plan';
import { shareReach } from './meet';

const FRAMES = 80;
const FPS = 60;

/** An arm of two bones of 30 cm from a shoulder, its hand half a metre below it. */
function arm(side: 'left' | 'right', x: number): LimbTrack {
  const plan = { kind: 'arm', side, joints: [0, 1, 2], end: 2, beyond: -1 } as unknown as LimbPlan;
  const track = makeLimbTrack(plan, FRAMES);
  for (let f = 0; f < FRAMES; f++) {
    track.data.set([x, 1.4, 0], f * track.stride + track.at.top);
    track.data.set([x, 1.15, 0.1658], f * track.stride + track.at.mid);
    track.data.set([x, 0.9, 0], f * track.stride + track.at.end);
  }
  return track;
}

/** Shifts that take a hand down by so much in every frame. */
const down = (by: number): Float64Array => Float64Array.from({ length: FRAMES * 3 }, (_, i) => (i % 3 === 1 ? -by : 0));

describe('a hand that is out of reach', () => {
  const meets = new Uint8Array(FRAMES).fill(1, 10, 30);

  it('is met half-way by the other while both meet, by what is missing', () => {
    const shifts = [down(0.3), down(0)];
    shareReach([arm('left', 0.2), arm('right', -0.2)], shifts, meets, 1 / FPS);
    // 80 cm below a shoulder whose arm counts for 0.96 of 60 cm.
    for (const f of [12, 20, 28]) expect(shifts[1][f * 3 + 1]).toBeCloseTo(0.8 - 0.96 * 0.6, 3);
    expect(shifts[0]).toEqual(down(0.3));
  });

  it('draws no hand to itself that it does not meet', () => {
    const shifts = [down(0.3), down(0)];
    shareReach([arm('left', 0.2), arm('right', -0.2)], shifts, meets, 1 / FPS);
    for (let f = 45; f < FRAMES; f++) expect(Math.abs(shifts[1][f * 3 + 1])).toBe(0);
  });

  it('is let be within reach', () => {
    const shifts = [down(0.05), down(0.05)];
    shareReach([arm('left', 0.2), arm('right', -0.2)], shifts, meets, 1 / FPS);
    expect(shifts.map((list) => list.every((v, i) => Math.abs(v - (i % 3 === 1 ? -0.05 : 0)) < 1e-12))).toEqual([true, true]);
  });
});
