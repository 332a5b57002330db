/** Feet that stand are kept from sliding wherever motions were mixed, closed or stretched. */
import { ClipReader } from '../clip';
import { SIDES } from '../label';
import { square } from '../math/numbers';
import { leadEnds, limbOf, Poser, type Led } from '../mend';
import type { Foot, Rig } from '../rig';
import { withAncestors } from '../skeleton';
import type { Piece } from './piece';
import { Slip, waysOf } from './slip';

/**
 * Brings feet that slide in their stands to rest: in each stand the foot rolls on as it does, and goes over the floor no more than it did in the
 * motions that it comes from. A stand that begins as it was solved stays at its place until it ends, and the step behind it goes over to the next.
 * @param heights height of what each foot stands on, by frame, left first; where it is NaN, or none is given, heights stay as they are
 */
export function standStill(rig: Rig, piece: Piece, heights?: readonly [Float64Array, Float64Array]): Piece['clip'] {
  const { clip, planted, pure, ways } = piece;
  const limbs = SIDES.flatMap(
    (side, i): (Led & { foot: Foot; flags: Uint8Array; own: Float64Array; isPure: Uint8Array; heights?: Float64Array })[] => {
      const foot = rig.feet.find((one) => one.side === side);
      const limb = limbOf(rig, side, 'leg');
      if (!foot || !limb || !planted[i].some((one, f) => one === 1 && pure[f] === 0)) return [];
      const values = new Float64Array(clip.frames * 6);
      const given = new Uint8Array(clip.frames);
      return [{ limb, isLeg: true, values, given, foot, flags: planted[i], own: ways[i], isPure: pure.slice(), heights: heights?.[i] }];
    },
  );
  if (limbs.length === 0) return clip;
  const asked = withAncestors(
    rig.skeleton.parents,
    limbs.map(({ foot }) => foot.foot),
  );
  const reader = new ClipReader(rig.skeleton, clip, asked);
  const slips = limbs.map(({ foot }) => new Slip(foot));
  const lows = limbs.map(() => new Float64Array(clip.frames));
  for (let f = 0; f < clip.frames; f++) {
    const pose = reader.at(f);
    limbs.forEach(({ values, flags, own }, i) => {
      lows[i][f] = slips[i].note(pose);
      if (f === 0 || flags[f] === 0 || flags[f - 1] === 0) return;
      // The way that it has slipped since the stand began, but for what it does by itself.
      for (const axis of [0, 2] as const) values[f * 6 + axis] = values[(f - 1) * 6 + axis] - slips[i].way(axis) + own[f * 2 + axis / 2];
    });
  }
  limbs.forEach(({ values, flags, given, isPure, heights: wanted }, i) => {
    const stands = runsOf(flags);
    stands.forEach(([first, last], k) => {
      settleStand(values, isPure, first, last, stands[k + 1]?.[0] ?? clip.frames);
      for (let f = first; f <= last; f++) {
        const up = wanted ? wanted[f] - lows[i][f] : NaN;
        if (isPure[f] === 0 && pure[f] === 0 && Math.abs(up) > NOTHING) values[f * 6 + 1] = up;
      }
    });
    for (let f = 0; f < clip.frames; f++) given[f] = isPure[f] === 1 || flags[f] === 1 ? 1 : 0;
  });
  const poser = new Poser(
    rig,
    clip,
    limbs.map(({ limb }) => limb.end),
  );
  return leadEnds(
    poser,
    limbs,
    Uint8Array.from(pure, (_, f) => (limbs.some(({ isPure }) => isPure[f] === 0) ? 1 : 0)),
  );
}

/** A foot that slips by less than this in a stand is where it should be, metres: what numbers of this length leave. */
const NOTHING = 1e-5;

/**
 * Ways of a stand, told from its first frame, as told from where it must be: its first frame that is as it was solved; where there is none its middle.
 * What comes behind that in the stand, and the step until the next, is no longer as it was solved.
 */
function settleStand(values: Float64Array, isPure: Uint8Array, first: number, last: number, next: number): void {
  const run = isPure.subarray(first, last + 1);
  if (!run.includes(0)) {
    // It stood still by itself.
    for (let f = first; f <= last; f++) values[f * 6] = values[f * 6 + 2] = 0;
    return;
  }
  const anchor = run.indexOf(1);
  for (const axis of [0, 2]) {
    let base = 0;
    if (anchor >= 0) base = values[(first + anchor) * 6 + axis];
    else for (let f = first; f <= last; f++) base += values[f * 6 + axis] / (last - first + 1);
    for (let f = first; f <= last; f++) values[f * 6 + axis] -= base;
  }
  let most = 0;
  for (let f = first; f <= last; f++) most = Math.max(most, Math.abs(values[f * 6]), Math.abs(values[f * 6 + 2]));
  if (most < NOTHING) {
    for (let f = first; f <= last; f++) values[f * 6] = values[f * 6 + 2] = 0;
    return;
  }
  const mixed = run.indexOf(0, Math.max(0, anchor));
  const isBehind = anchor >= 0 && mixed > anchor && run.indexOf(1, mixed) >= 0;
  if (isBehind) isPure.fill(0, first + mixed, next);
}

/** Runs of frames that are flagged, first and last of each. */
export function runsOf(flags: Uint8Array): [first: number, last: number][] {
  const out: [number, number][] = [];
  for (let f = 0; f < flags.length; f++) {
    if (flags[f] === 0) continue;
    const first = f;
    while (f + 1 < flags.length && flags[f + 1] === 1) f++;
    out.push([first, f]);
  }
  return out;
}

/** How far standing feet slide beyond what they do in the motions that they come from, metres a second: the mean of the worst stand, and where it begins. */
export function slideOf(rig: Rig, { clip, planted, pure, ways }: Piece): { readonly worst: number; readonly frame: number } {
  const now = waysOf(rig, clip);
  let [worst, frame] = [0, -1];
  for (const side of [0, 1]) {
    for (const [first, last] of runsOf(planted[side])) {
      if (last - first < 2 || pure.subarray(first, last + 1).every((one) => one === 1)) continue;
      let sum = 0;
      for (let i = (first + 1) * 2; i <= last * 2; i += 2)
        sum += Math.sqrt(square(now[side][i] - ways[side][i]) + square(now[side][i + 1] - ways[side][i + 1]));
      const mean = sum / ((last - first) * clip.frameTime);
      if (mean > worst) [worst, frame] = [mean, first];
    }
  }
  return { worst, frame };
}
