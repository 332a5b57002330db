import { random } from '../../math/random';
import type { HandWant } from '../hands/wants';
import { makeLimbTrack, type LimbTrack } from '../limbTrack';
import type { LimbPlan } from '../plan';
import { resolveHands, type HandsToResolve } from './hands';

const FRAMES = 240;
const FPS = 60;

/** An arm of two bones of 30 cm from a shoulder, its hand half a metre below it; swaying where it is said. */
function arm(side: 'left' | 'right', x: number, sway = 0): LimbTrack {
  const plan = { kind: 'arm', side, joints: [0, 1, 2], end: 2, beyond: -1, drawn: [] } as unknown as LimbPlan;
  const track = makeLimbTrack(plan, FRAMES);
  for (let f = 0; f < FRAMES; f++) {
    const z = sway * Math.sin(f / 25);
    track.data.set([x, 1.4, z], f * track.stride + track.at.top);
    track.data.set([x, 1.15, z + 0.1658], f * track.stride + track.at.mid);
    track.data.set([x, 0.9, z], f * track.stride + track.at.end);
  }
  return track;
}

const target = (first: number, last: number, of: (f: number) => readonly number[]): Float64Array =>
  Float64Array.from({ length: (last - first + 1) * 3 }, (_, i) => of(first + ((i / 3) | 0))[i % 3]);

function shiftsOf(wants: readonly HandWant[], more: Partial<HandsToResolve> = {}) {
  const arms = [arm('left', 0.2), arm('right', -0.2)];
  const floors = arms.map(() => new Float64Array(FRAMES).fill(-Infinity));
  return resolveHands({ arms, wants, floors, room: undefined, follow: [1, 1], frameTime: 1 / FPS, softReach: 0.985, stretch: 0, ...more });
}

const size = (shift: Float64Array, f: number): number => Math.hypot(...shift.subarray(f * 3, f * 3 + 3));

describe('hands as they are resolved', () => {
  it('are left alone where nothing is wanted of them, and far from where something is', () => {
    expect(shiftsOf([])).toBeUndefined();
    const want: HandWant = { how: 'at', hand: 0, first: 150, last: 170, target: target(150, 170, () => [0.05, 0.05, 0]) };
    const [left, right] = shiftsOf([want])!;
    for (let f = 0; f < 30; f++) expect(size(left, f)).toBe(0);
    expect(right.every((v) => v === 0)).toBeTrue();
    for (let f = 156; f <= 164; f++)
      expect(Math.abs(size(left, f) - Math.hypot(0.05, 0.05)))
        .withContext(`${f}`)
        .toBeLessThan(0.002);
  });

  it('that rest stay in one place, whatever the arm does, and where the way to it is least', () => {
    for (const seed of [1, 2, 3]) {
      const rng = random(seed);
      const phase = 3 * rng.next();
      const way = (f: number): number[] => [0, 0, -0.08 * Math.sin(f / 25 + phase) - 0.05];
      const want: HandWant = { how: 'still', hand: 0, first: 60, last: 180, target: target(60, 180, way) };
      const [left] = shiftsOf([want])!;
      // The hold comes and goes within a tenth of a second.
      const places = Array.from({ length: 109 }, (_, i) => left[(66 + i) * 3 + 2] - way(66 + i)[2]);
      expect(Math.max(...places) - Math.min(...places))
        .withContext(`${seed}`)
        .toBeLessThan(0.003);
      const mean = left.subarray(60 * 3, 181 * 3).reduce((sum, v, i) => sum + (i % 3 === 2 ? v : 0), 0) / 121;
      expect(Math.abs(mean)).withContext(`${seed}`).toBeLessThan(0.01);
    }
  });

  it('that rest on something that moves stay where they rest', () => {
    const rest: HandWant = { how: 'still', hand: 0, first: 60, last: 180, target: target(60, 180, () => [0, 0, 0]) };
    const moving: HandWant = { how: 'at', hand: 0, first: 60, last: 180, target: target(60, 180, (f) => [0.03, 0, 0.001 * (f - 120)]) };
    const [left] = shiftsOf([rest, moving])!;
    for (let f = 70; f <= 170; f++) {
      expect(Math.abs(left[f * 3 + 2]))
        .withContext(`${f}`)
        .toBeLessThan(0.006);
      expect(left[f * 3])
        .withContext(`${f}`)
        .toBeGreaterThan(0.02);
    }
  });

  it('that meet give half each; the one in reach comes to the other where that is out of its own', () => {
    const meeting = (y: number): HandWant => ({
      how: 'towards',
      hand: 0,
      first: 90,
      last: 150,
      target: target(90, 150, () => [-0.1, y, 0]),
    });
    const [left, right] = shiftsOf([meeting(0)])!;
    for (let f = 100; f <= 140; f++) {
      expect(left[f * 3] - right[f * 3])
        .withContext(`${f}`)
        .toBeCloseTo(-0.1, 3);
      expect(left[f * 3] + right[f * 3])
        .withContext(`${f}`)
        .toBeCloseTo(0, 3);
    }
    // The left arm's hand is a centimetre short of its full length; it cannot come 20 cm lower.
    const arms = [arm('left', 0.2), arm('right', -0.2)];
    for (let f = 0; f < FRAMES; f++) arms[0].data.set([0.2, 0.81, 0], f * arms[0].stride + arms[0].at.end);
    const [short, long] = shiftsOf([meeting(-0.2)], { arms })!;
    for (let f = 100; f <= 140; f++) {
      expect(short[f * 3 + 1] - long[f * 3 + 1])
        .withContext(`${f}`)
        .toBeCloseTo(-0.2, 2);
      expect(long[f * 3 + 1])
        .withContext(`${f}`)
        .toBeGreaterThan(0.15);
    }
  });

  it('go back at once where the take jumps, and not over it', () => {
    const jump = 140;
    const want: HandWant = { how: 'at', hand: 0, first: 100, last: jump - 1, target: target(100, jump - 1, () => [0.1, 0, 0]) };
    const arms = [arm('left', 0.2), arm('right', -0.2)];
    const [smooth] = shiftsOf([want], { arms })!;
    expect(size(smooth, jump + 3)).toBeGreaterThan(0.05);
    for (const place of ['top', 'mid', 'end'] as const) {
      const { data, stride, at } = arms[0];
      for (let f = jump; f < FRAMES; f++) data[f * stride + at[place]] += 0.8;
    }
    const [cut] = shiftsOf([want], { arms })!;
    for (let f = 110; f < jump - 7; f++) expect(size(cut, f)).withContext(`${f}`).toBeGreaterThan(0.098);
    for (let f = jump; f < FRAMES; f++) expect(size(cut, f)).withContext(`${f}`).toBeLessThan(0.002);
  });

  it('stay over the floor, come to it and leave it without a jerk', () => {
    const floors = [new Float64Array(FRAMES).fill(-Infinity), new Float64Array(FRAMES).fill(-Infinity)];
    for (let f = 100; f <= 140; f++) floors[0][f] = 0.12 * Math.sin((Math.PI * (f - 100)) / 40);
    const [left] = shiftsOf([], { floors })!;
    for (let f = 0; f < FRAMES; f++)
      expect(left[f * 3 + 1])
        .withContext(`${f}`)
        .toBeGreaterThan(floors[0][f] - 1e-4);
    const bends = Array.from({ length: FRAMES - 2 }, (_, f) => Math.abs(left[f * 3 + 1] - 2 * left[f * 3 + 4] + left[f * 3 + 7]));
    // The floor's own steepest bend; a clamp would have its corner: 9 mm.
    expect(Math.max(...bends)).toBeLessThan(0.002);
  });

  it('are found each for itself, however long the other rests', () => {
    // Out of reach, so that some of the take is found again and again, and not all that the other rests.
    const far: HandWant = { how: 'at', hand: 0, first: 150, last: 170, target: target(150, 170, () => [0.4, 0.1, 0]) };
    const rest: HandWant = { how: 'still', hand: 1, first: 4, last: 235, target: target(4, 235, (f) => [0, 0, 0.02 * Math.sin(f / 25)]) };
    const [alone] = shiftsOf([far])!;
    const [left, right] = shiftsOf([far, rest])!;
    left.forEach((v, i) =>
      expect(Math.abs(v - alone[i]))
        .withContext(`${i}`)
        .toBeLessThan(1e-3),
    );
    for (let f = 12; f < 228; f++)
      expect(Math.abs(right[f * 3 + 2] - right[36 + 2] - 0.02 * (Math.sin(f / 25) - Math.sin(12 / 25)))).toBeLessThan(2e-3);
  });

  it('follow what is wanted as far as is asked', () => {
    const want: HandWant = { how: 'at', hand: 0, first: 100, last: 140, target: target(100, 140, () => [0.1, 0, 0]) };
    const [left] = shiftsOf([want], { follow: [0.5, 1] })!;
    expect(left[120 * 3]).toBeCloseTo(0.05, 3);
  });
});
