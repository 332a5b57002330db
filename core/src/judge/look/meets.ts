import { SIDES } from '../../label';
import { percentile } from '../../math/filter';
import { square } from '../../math/numbers';
import { distance } from '../../math/vec';
import type { Rig } from '../../rig';
import type { Look } from './look';
import type { BodyPoint } from './points';

/** Palms or finger tips of the performer that touch come nearer to each other than this share of a leg. */
const TOUCH = 0.075;
/** Those that stay nearer than this share of a leg for so many seconds have something between them, which they hold. */
const NEAR = 0.16;
const HOLDS = 0.9;
/** Frames that may lie between two meetings of one span. */
const GAP = 2;

/** Frames in which hands meet, both ends included. */
export interface Met {
  readonly first: number;
  readonly last: number;
}

/** What shows how near two hands are to each other: pairs of points. */
type Pairs = readonly (readonly [number, number])[];

const pairsOf = (points: readonly BodyPoint[]): Pairs =>
  ['palm', 'finger tips']
    .map((part) => SIDES.map((side) => points.findIndex(({ name }) => name === `${side} ${part}`)) as [number, number])
    .filter((pair) => pair.every((point) => point >= 0));

/** Square of how far apart two points are. */
const apartOf = (places: Float64Array, o: number, p: number): number =>
  square(places[o] - places[p]) + square(places[o + 1] - places[p + 1]) + square(places[o + 2] - places[p + 2]);

/**
 * Spans in which the performer's hands meet, however they move: palms or finger tips that touch, or that stay next to each other. Hands that are only near, as
 * before a face, do not.
 * @param theirs places of the points, 3 for each, frame by frame
 * @param leg the performer's, metres
 */
export function meetingsIn(points: readonly BodyPoint[], theirs: Float64Array, frames: number, frameTime: number, leg: number): Met[] {
  const count = points.length;
  const pairs = pairsOf(points);
  const spans: { first: number; last: number; least: number }[] = [];
  for (let f = 0; f < frames; f++) {
    let least = Infinity;
    for (const [a, b] of pairs) least = Math.min(least, apartOf(theirs, (f * count + a) * 3, (f * count + b) * 3));
    if (least > square(NEAR * leg)) continue;
    const before = spans.at(-1);
    if (before && f - before.last <= GAP) {
      before.last = f;
      before.least = Math.min(before.least, least);
    } else spans.push({ first: f, last: f, least });
  }
  const isMet = ({ first, last, least }: (typeof spans)[number]): boolean =>
    least < square(TOUCH * leg) || (last - first + 1) * frameTime >= HOLDS;
  return spans.filter(isMet).map(({ first, last }) => ({ first, last }));
}

/** How well the character's hands meet where the performer's do. */
export interface Meeting {
  /** Frames in which the performer's hands meet. */
  readonly frames: number;
  /** Median over the worst span of how far the hands lie from where they should towards each other, metres. */
  readonly away: number;
  readonly first: number;
}

/**
 * Measures how far the way between the character's hands differs from the performer's where these meet, in proportion to the body.
 * @param meetings in which they do
 * @param left 1 for frames that are left out: the take's known faults
 */
export function meetingOf(
  {
    performer,
    character,
    points,
    mine,
    theirs,
  }: Pick<Look, 'points' | 'mine' | 'theirs'> & Readonly<Record<'performer' | 'character', Rig>>,
  meetings: readonly Met[],
  left: Uint8Array,
): Meeting {
  // In proportion to arms, to hands, or to the whole body: any of them looks right.
  const ratios = ([armOf, handOf, legOf] as const).map((of) => of(character) / of(performer)).filter(Number.isFinite);
  const [least, most] = [Math.min(...ratios), Math.max(...ratios)];
  const count = points.length;
  const near = NEAR * performer.legLength;
  const pairs = pairsOf(points);
  let met = 0;
  let worst = { away: 0, first: -1 };
  for (const { first, last } of meetings) {
    const span: number[] = [];
    for (let f = first; f <= last; f++) {
      // Of a palm and finger tips that both meet, the one that is in its place is the one that is seen.
      let away = Infinity;
      for (const [a, b] of pairs) away = Math.min(away, awayOf((f * count + a) * 3, (f * count + b) * 3));
      if (left[f] === 0 && away < Infinity) span.push(away);
    }
    met += span.length;
    const away = span.length === 0 ? 0 : percentile(span, 0.5);
    if (away > worst.away) worst = { away, first };
  }
  return { ...worst, frames: met };

  /** How far the way between two of the character's points is from where it should be; Infinity where the performer's are apart. */
  function awayOf(o: number, p: number): number {
    const apart = apartOf(theirs, o, p);
    if (apart > near * near) return Infinity;
    let along = 0;
    for (let c = 0; c < 3; c++) along += (theirs[o + c] - theirs[p + c]) * (mine[o + c] - mine[p + c]);
    const ratio = Math.min(most, Math.max(least, apart > 0 ? along / apart : 0));
    let error = 0;
    for (let c = 0; c < 3; c++) error += square(mine[o + c] - mine[p + c] - ratio * (theirs[o + c] - theirs[p + c]));
    return Math.sqrt(error);
  }
}

const legOf = ({ legLength }: Rig): number => legLength;
const armOf = (rig: Rig): number => lengthOf(rig, ['upperArm', 'lowerArm', 'hand']);
/** NaN for hands without fingers. */
const handOf = (rig: Rig): number => lengthOf(rig, ['hand', 'middle.1']);

function lengthOf({ roles, restPose: { positions } }: Rig, parts: readonly string[]): number {
  let sum = 0;
  for (const side of SIDES) {
    const joints = parts.map((part) => (roles.get(`${side}.${part}`) ?? NaN) * 3);
    for (let i = 1; i < joints.length; i++) {
      const [a, b] = [joints[i - 1], joints[i]];
      sum += distance(positions, a, positions, b);
    }
  }
  return sum;
}
