import { unbroken } from '../../math/leastCurve';
import { fromAxisAngle, rotate } from '../../math/quat';
import type { Foot } from '../../rig';
import type { LimbTrack } from '../limbTrack';
import { clearFloor, levelSwing } from './clear';
import type { FootHold } from './foot';

const FRAMES = 61;
const LENGTH = 0.2;
const ANKLE = 0.08;

/** A foot that goes level at one height and dips its toes in the middle; its last frames are held. @param pitch radians, toes down */
function dipping(pitch: number): FootHold {
  const stride = 7;
  const data = new Float64Array(FRAMES * stride);
  const footQ = new Float64Array(FRAMES * 4);
  const held = new Uint8Array(FRAMES).fill(1, 50);
  for (let f = 0; f < FRAMES; f++) {
    data[f * stride + 1] = ANKLE;
    data[f * stride + 2] = 0.01 * f;
    const dip = Math.exp(-(((f - 25) / 8) ** 2));
    fromAxisAngle(footQ, f * 4, 1, 0, 0, held[f] ? 0 : pitch * dip);
  }
  const foot = { heel: Float64Array.of(0, -ANKLE, -0.05), ball: Float64Array.of(0, -ANKLE, LENGTH - 0.05) } as unknown as Foot;
  const leg = { data, stride, frames: FRAMES, at: { end: 0, endQ: 3 } } as unknown as LimbTrack;
  return { leg, foot, footQ, pivots: { held } } as unknown as FootHold;
}

const point = new Float64Array(3);

function low({ leg, foot, footQ }: FootHold, ends: Float64Array, f: number, part: 'heel' | 'ball'): number {
  rotate(point, 0, footQ, f * 4, foot[part], 0);
  return -(leg.data[f * leg.stride + 1] + ends[f * 3 + 1] + point[1]);
}

const worst = (hold: FootHold, ends: Float64Array): number =>
  Math.max(...Array.from({ length: FRAMES }, (_, f) => Math.max(low(hold, ends, f, 'heel'), low(hold, ends, f, 'ball'))));

describe('a swinging foot whose toes are in the floor', () => {
  const time = unbroken(FRAMES, 1 / 60);
  const floor = (): number => 0;

  it('is turned toward it, never beyond, and lifted for what is left; nothing jumps, and what is held stays', () => {
    for (const pitch of [0.2, 0.35, 0.5]) {
      const hold = dipping(pitch);
      const ends = new Float64Array(FRAMES * 3);
      const before = hold.footQ.slice();
      const deep = worst(hold, ends);
      levelSwing(hold, ends, floor, time, 0);
      const left = worst(hold, ends);
      expect(left)
        .withContext(`${pitch}`)
        .toBeLessThan(0.5 * deep);
      for (let f = 0; f < FRAMES; f++) expect(low(hold, ends, f, 'ball')).toBeGreaterThan(low(hold, ends, f, 'heel') - 2e-3);
      clearFloor(hold, ends, floor, time, 0);
      expect(worst(hold, ends)).withContext(`${pitch}`).toBeLessThan(1e-6);
      expect(Math.max(...ends)).toBeLessThan(0.6 * deep);
      for (let f = 1; f < FRAMES; f++) {
        const jump = Math.abs(low(hold, ends, f, 'ball') - low(hold, ends, f - 1, 'ball'));
        expect(jump)
          .withContext(`${pitch} at ${f}`)
          .toBeLessThan(0.3 * deep);
      }
      expect(hold.footQ.subarray(200)).toEqual(before.subarray(200));
    }
  });

  it('is lifted, and not turned, where it points straight down', () => {
    const hold = dipping(Math.PI / 2);
    levelSwing(hold, new Float64Array(FRAMES * 3), floor, time, 0);
    const turned = 2 * Math.acos(Math.min(1, hold.footQ[25 * 4 + 3]));
    expect(turned).toBeGreaterThan(Math.PI / 2 - 0.5);
  });

  it('is let be where it is over the floor, and where it is upside down high over it', () => {
    for (const pitch of [0.5, Math.PI, -2.5]) {
      const hold = dipping(pitch);
      const before = hold.footQ.slice();
      const ends = new Float64Array(FRAMES * 3);
      levelSwing(hold, ends, () => -1, time, 0);
      clearFloor(hold, ends, () => -1, time, 0);
      expect(hold.footQ).withContext(`${pitch}`).toEqual(before);
      expect(ends.every((x) => x === 0))
        .withContext(`${pitch}`)
        .toBeTrue();
    }
  });
});
