import type { Plane } from '../math/plane';
import { stancesOf, type Anchor } from './stances';

/** Height of the ground at a place in a frame, metres. */
export type UnderFoot = (frame: number, x: number, z: number) => number;

/** Stances nearer to each other than this do not tell how the ground rises between them, metres. */
const NEAR = 0.1;
/** How far beyond two stances, in shares of their distance, the ground goes on as between them. */
const BEYOND = 1;

/**
 * The lowest height of a foot: of a level floor, or of one that slopes. Where the body is steered another way than the slope goes, the floor rises
 * from each of the foot's stances to the next.
 * @param anchors of one foot, those of a group one after the other
 * @param slope the plane of a floor that slopes, where it lies under the body as under the performer
 */
export function underFoot(
  anchors: readonly Anchor[],
  frames: number,
  { floor, isSloped, slope }: { readonly floor: number; readonly isSloped: boolean; readonly slope: Plane | undefined },
): UnderFoot {
  if (slope) return (_, x, z) => slope.height + slope.x * x + slope.z * z;
  if (!isSloped || anchors.length === 0) return () => floor;
  const stops = stopsOf(anchors);
  const latest = new Int32Array(frames);
  for (let f = 0, at = 0; f < frames; f++) {
    while (at + 1 < stops.length && stops[at + 1].first <= f) at++;
    latest[f] = at;
  }
  return (f, x, z) => {
    const at = latest[f];
    const a = stops[at + 1 < stops.length ? at : Math.max(0, at - 1)];
    const b = stops[Math.min(stops.length - 1, at + 1)];
    const dx = b.x - a.x;
    const dz = b.z - a.z;
    const size = dx * dx + dz * dz;
    if (size < NEAR * NEAR) return Math.min(a.y, b.y);
    const t = ((x - a.x) * dx + (z - a.z) * dz) / size;
    return Math.max(floor, a.y + (b.y - a.y) * Math.max(-BEYOND, Math.min(1 + BEYOND, t)));
  };
}

interface Stop {
  readonly first: number;
  readonly x: number;
  readonly y: number;
  readonly z: number;
}

function stopsOf(anchors: readonly Anchor[]): Stop[] {
  const mean = (list: readonly Anchor[], c: 'x' | 'y' | 'z'): number => list.reduce((sum, one) => sum + one[c], 0) / list.length;
  return stancesOf(anchors).map((list) => ({ first: list[0].first, x: mean(list, 'x'), y: mean(list, 'y'), z: mean(list, 'z') }));
}
