import { fromAxisAngle, identity, mul, rotate } from '../math/quat';
import type { FootPath } from './footPath';
import { solveLimb } from './legs';
import { makeLimbTrack, type LimbTrack } from './limbTrack';
import type { LimbPlan } from './plan';
import { foldOf } from './reach';

const [UPPER, LOWER] = [0.45, 0.4];

/** A limb that hangs from the origin in one frame, bent by some radians; below zero backwards by its hinge, which lies across. */
function hanging(kind: 'leg' | 'arm', bend: number): LimbTrack {
  const rests = new Float64Array(12);
  for (let i = 0; i < 3; i++) identity(rests, i * 4);
  const plan = { kind, side: 'left', joints: [0, 1, 2], end: 2, beyond: -1, hinge: Float64Array.of(1, 0, 0), between: rests, drawn: [] };
  const track = makeLimbTrack(plan as unknown as LimbPlan, 1);
  const { data, at } = track;
  identity(data, at.parentQ);
  identity(data, at.topQ);
  fromAxisAngle(data, at.midQ, 1, 0, 0, bend);
  identity(data, at.endQ);
  const shin = Float64Array.of(0, -LOWER, 0);
  rotate(shin, 0, data, at.midQ, shin, 0);
  data[at.mid + 1] = -UPPER;
  for (let c = 0; c < 3; c++) data[at.end + c] = data[at.mid + c] + shin[c];
  return track;
}

/** Where the middle joint comes to when the end comes so many times as near to the root. */
function middleOf(limb: LimbTrack, nearer: number, swing = 0): Float64Array {
  const { data, at } = limb;
  const ankle = Float64Array.from([0, 1, 2], (c) => data[at.end + c] * nearer);
  const turn = Float64Array.of(0, 0, 0, 1);
  const path: FootPath = { ankle, footQ: turn, toesQ: turn, held: Uint8Array.of(1), swing: Float64Array.of(swing) };
  const { rotations } = solveLimb(limb, path, new Float64Array(3), 0.985);
  const out = Float64Array.of(0, -UPPER, 0);
  rotate(out, 0, rotations, 0, out, 0);
  // The lower bone ends where it shall.
  const [q, shin] = [new Float64Array(4), Float64Array.of(0, -LOWER, 0)];
  mul(q, 0, rotations, 0, rotations, 4);
  rotate(shin, 0, q, 0, shin, 0);
  for (let c = 0; c < 3; c++) expect(out[c] + shin[c]).toBeCloseTo(ankle[c], 2);
  return out;
}

const apart = (a: Float64Array, b: Float64Array): number => Math.hypot(...a.map((v, c) => v - b[c]));

describe('a limb that closes further', () => {
  it('brings a foot nearly to where its leg hardly folds, a hand less nearly; and says by how much it does not', () => {
    const missed = (kind: 'leg' | 'arm', share: number): number => {
      const limb = hanging(kind, 0.5);
      const { data, at } = limb;
      const far = Math.hypot(...data.subarray(at.end, at.end + 3));
      const ankle = Float64Array.from([0, 1, 2], (c) => data[at.end + c] * (1 - share * (1 - foldOf(UPPER, LOWER) / far)));
      const turn = Float64Array.of(0, 0, 0, 1);
      return solveLimb(limb, { ankle, footQ: turn, toesQ: turn, held: Uint8Array.of(1) }, new Float64Array(3), 0.985).miss.distance;
    };
    const room = Math.sqrt(UPPER * UPPER + LOWER * LOWER + 2 * UPPER * LOWER * Math.cos(0.5)) - foldOf(UPPER, LOWER);
    expect(missed('leg', 0.8)).toBeLessThan(0.02 * room);
    expect(missed('arm', 0.8)).toBeGreaterThan(0.05 * room);
    expect(missed('leg', 1.1)).toBeGreaterThan(0.1 * room);
  });

  it('keeps its middle joint where it is when that is clearly bent, about whatever axis', () => {
    for (const kind of ['leg', 'arm'] as const) {
      for (const bend of [-2.4, -1.2, -0.5, 0.5, 1.2, 2.4]) {
        const limb = hanging(kind, bend);
        expect(apart(middleOf(limb, 1.001), middleOf(limb, 0.999)))
          .withContext(`${kind} bent by ${bend}`)
          .toBeLessThan(0.005);
      }
    }
  });

  it('swings about the line from its root to its end, which stays', () => {
    for (const [kind, nearer, angle] of [
      ['arm', 0.9, 0.6],
      ['leg', 0.8, -0.4],
      ['arm', 1, 1.2],
    ] as const) {
      const limb = hanging(kind, 0.9);
      const { data, at } = limb;
      const [x, y, z] = data.subarray(at.end, at.end + 3);
      const size = Math.hypot(x, y, z);
      const turn = new Float64Array(4);
      fromAxisAngle(turn, 0, x / size, y / size, z / size, angle);
      const expected = middleOf(limb, nearer);
      rotate(expected, 0, turn, 0, expected, 0);
      expect(apart(middleOf(limb, nearer, angle), expected)).toBeLessThan(1e-6);
    }
  });

  it('bends forwards when it is straight but for a little, either way', () => {
    for (const kind of ['leg', 'arm'] as const) {
      const [back, ahead] = [-0.08, 0.08].map((bend) => middleOf(hanging(kind, bend), 0.93));
      expect(apart(back, ahead)).withContext(kind).toBeLessThan(0.06);
      for (const middle of [back, ahead]) expect(middle[2]).withContext(kind).toBeGreaterThan(0.05);
    }
  });
});
