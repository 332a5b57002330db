import type { Rig } from '../rig';
import { SIDES } from '../label';
import { percentile } from '../math/filter';
import type { BodyPoint } from './points';

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
 * the way between the character's differs from the performer's, in proportion to the arms.
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
  const ratio = armOf(character) / armOf(performer);
  const count = points.length;
  const frames = left.length;
  const near = NEAR * performer.legLength;
  let worst: Meeting = { frames: 0, away: 0, first: -1 };
  const met = new Uint8Array(frames);
  for (const part of ['palm', 'finger tips']) {
    const [a, b] = SIDES.map((side) => points.findIndex(({ name }) => name === `${side} ${part}`));
    if (a < 0 || b < 0) continue;
    let span: number[] = [];
    const end = (): void => {
      const away = span.length === 0 ? 0 : percentile(span, 0.5);
      if (away > worst.away) worst = { frames: 0, away, first };
      span = [];
    };
    let first = 0;
    let last = -GAP - 1;
    for (let f = 0; f < frames; f++) {
      const o = (f * count + a) * 3;
      const p = (f * count + b) * 3;
      let apart = 0;
      let error = 0;
      for (let c = 0; c < 3; c++) {
        const way = theirs[o + c] - theirs[p + c];
        apart += way * way;
        error += (mine[o + c] - mine[p + c] - ratio * way) ** 2;
      }
      if (left[f] === 1 || apart > near * near) continue;
      if (f - last > GAP) {
        end();
        first = f;
      }
      last = f;
      met[f] = 1;
      span.push(Math.sqrt(error));
    }
    end();
  }
  return { ...worst, frames: met.reduce((sum, on) => sum + on, 0) };
}

function armOf({ roles, restPose: { positions } }: Rig): number {
  const at = (role: string): number => roles.get(role)! * 3;
  const span = (a: number, b: number): number =>
    Math.hypot(positions[a] - positions[b], positions[a + 1] - positions[b + 1], positions[a + 2] - positions[b + 2]);
  return SIDES.reduce(
    (sum, side) => sum + span(at(`${side}.upperArm`), at(`${side}.lowerArm`)) + span(at(`${side}.lowerArm`), at(`${side}.hand`)),
    0,
  );
}
