import { makeLimbTrack } from '../limbTrack';
import type { LimbPlan } from '../plan';
import { airOf } from './air';

const FRAMES = 60;
const frameTime = 1 / 60;

/** Hips that are thrown up and fall, by so much of what a body falls by, between two holds of both feet. */
function thrown(share: number) {
  const plan = { kind: 'leg', joints: [0, 1, 2], end: 2, beyond: -1, drawn: [] } as unknown as LimbPlan;
  const leg = makeLimbTrack(plan, FRAMES);
  const held = new Uint8Array(FRAMES).fill(1);
  held.fill(0, 15, 45);
  for (let f = 0; f < FRAMES; f++) leg.data[f * leg.stride + leg.at.top + 1] = 1 - (share * 9.81 * ((f - 29.5) * frameTime) ** 2) / 2;
  return (resting?: Float64Array) => airOf({ legs: [leg], resting, lift: 1, frameTime }, [held]);
}

describe('a body in the air', () => {
  it('is one that falls as what is thrown does while no foot is held, and no other', () => {
    const air = thrown(1)()!;
    expect(air[30]).toBe(1);
    expect([air[14], air[45]]).toEqual([0, 0]);
    expect(thrown(0.1)()).toBeUndefined();
  });

  it('is none that rests, as on its hands, however its hips go', () => {
    const resting = new Float64Array(FRAMES);
    resting.fill(1, 15, 45);
    expect(thrown(1)(resting)).toBeUndefined();
  });
});
