import { distance } from '../../math/vec';
import type { Rig } from '../../rig';
import { SIDES } from '../../label';
import { percentile } from '../../math/filter';
import type { BodyPoint } from './points';
import { square } from '../../math/numbers';

/** Palms or finger tips of the performer nearer to each other than this share of a leg meet. */
const NEAR = 0.16;
/** Frames that may lie between two meetings of one span. */
const GAP = 2;

/** How well the character's hands meet where the performer's do. */
export interface Meeting {
  /** Frames in which the performer's hands meet. */
  readonly frames: number;
  /** Median over the worst span of how far the hands lie from where they should towards each other, metres. */
  readonly away: number;
  readonly first: number;
}

/**
 * Finds where palms or finger tips of the performer's two hands are next to each other, however they move, and measures how far
 * the way between the character's differs from the performer's, in proportion to the body.
 * @param left 1 for frames that are left out: the take's known faults
 */
export function meetingOf(
  performer: Rig,
  character: Rig,
  points: readonly BodyPoint[],
  mine: Float64Array,
  theirs: Float64Array,
  left: Uint8Array,
): Meeting {
  // In proportion to arms, to hands, or to the whole body: any of them looks right.
  const ratios = ([armOf, handOf, legOf] as const).map((of) => of(character) / of(performer)).filter(Number.isFinite);
  const [least, most] = [Math.min(...ratios), Math.max(...ratios)];
  const count = points.length;
  const frames = left.length;
  const near = NEAR * performer.legLength;
  const pairs = ['palm', 'finger tips']
    .map((part) => SIDES.map((side) => points.findIndex(({ name }) => name === `${side} ${part}`)))
    .filter((pair) => pair.every((point) => point >= 0));
  let worst = { away: 0, first: -1 };
  let span: number[] = [];
  let met = 0;
  let first = 0;
  let last = -GAP - 1;
  const end = (): void => {
    const away = span.length === 0 ? 0 : percentile(span, 0.5);
    if (away > worst.away) worst = { away, first };
    span = [];
  };
  for (let f = 0; f < frames; f++) {
    // Of a palm and finger tips that both meet, the one that is in its place is the one that is seen.
    let away = Infinity;
    for (const [a, b] of pairs) away = Math.min(away, awayOf((f * count + a) * 3, (f * count + b) * 3));
    if (left[f] === 1 || away === Infinity) continue;
    if (f - last > GAP) {
      end();
      first = f;
    }
    last = f;
    met++;
    span.push(away);
  }
  end();
  return { ...worst, frames: met };

  /** How far the way between two of the character's points is from where it should be; Infinity where the performer's are apart. */
  function awayOf(o: number, p: number): number {
    let apart = 0;
    let along = 0;
    for (let c = 0; c < 3; c++) {
      const gap = theirs[o + c] - theirs[p + c];
      apart += gap * gap;
      along += gap * (mine[o + c] - mine[p + c]);
    }
    if (apart > near * near) return Infinity;
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
