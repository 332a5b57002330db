import type { Hands } from '../../contact';
import type { Pairing } from '../../match';
import { makeLimbTrack } from '../limbTrack';
import { restWants } from './rests';

const FRAMES = 60;

/** A straight arm of 0.6 m whose shoulder is so high over its own floor, and whose hand is so far aside of it; the performer's palm lies on its floor. */
function liftOf(shoulder: number, aside: number): number {
  const arm = makeLimbTrack({ joints: [0, 1, 2], end: 2, beyond: -1 } as unknown as Parameters<typeof makeLimbTrack>[0], FRAMES);
  const mine = new Float64Array(FRAMES * 3);
  const down = Math.sqrt(0.36 - aside * aside);
  for (let f = 0; f < FRAMES; f++) {
    const o = f * arm.stride;
    arm.data.set([0, shoulder, 0], o + arm.at.top);
    arm.data.set([aside / 2, shoulder - down / 2, 0], o + arm.at.mid);
    arm.data.set([aside, shoulder - down, 0], o + arm.at.end);
    mine.set([aside, shoulder - down, 0], f * 3);
  }
  const hands = { palms: [new Float64Array(FRAMES * 3)], touches: [{ side: 'left', on: 'rest', first: 0, last: FRAMES - 1 }] };
  const scale = { stride: 1, lift: 1 } as Pairing['scale'];
  const given = { hands: hands as unknown as Hands, floors: [0, 0] as const, reached: true, frameTime: 1 / 60 };
  const [want] = restWants({ ...given, pairing: { scale, performer: { legLength: 0.9 } as Pairing['performer'] } }, 0, arm, mine);
  // Height over the floor at which the palm is wanted.
  return want.target[(FRAMES / 2) * 3 + 1] + shoulder - down;
}

describe('a hand that rests on the floor', () => {
  it('lies on it where its arm reaches it a little nearer to the shoulder, and no higher than it must elsewhere', () => {
    // 0.3 m aside the arm reaches down by 0.52 m; 0.12 m nearer, a fifth of it, by 0.57.
    expect(liftOf(0.5, 0.3)).toBeCloseTo(0, 9);
    expect(liftOf(0.55, 0.3)).toBeCloseTo(0, 9);
    expect(liftOf(0.7, 0.3)).toBeCloseTo(0.7 - Math.sqrt(0.36 - 0.18 * 0.18), 3);
    // Under the shoulder there is no nearer place.
    expect(liftOf(0.7, 0.05)).toBeCloseTo(0.1, 3);
  });
});
