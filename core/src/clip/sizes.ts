/** Joints that grow and shrink over time. */
import type { Skeleton } from '../skeleton';
import type { Track } from './track';

/** Ratios that differ by less along a joint's axes are one, in share of themselves. */
const EVEN = 1e-3;

/**
 * Whether a joint can have its size changed so in this skeleton: the same along all axes, or with nothing but ends hanging on it. What is
 * stretched along one axis and turned below it is sheared, and has no place and turn of its own.
 */
export function canBeSized({ parents }: Skeleton, { joint, values }: Track): boolean {
  for (let i = 0; i < values.length; i += 3) {
    if (!(values[i] >= 0 && values[i + 1] >= 0 && values[i + 2] >= 0)) return false;
  }
  const hasBelow = parents.some((parent) => parent >= 0 && parents[parent] === joint);
  if (!hasBelow) return true;
  for (let i = 0; i < values.length; i += 3) {
    const most = Math.max(values[i], values[i + 1], values[i + 2]);
    if (most - Math.min(values[i], values[i + 1], values[i + 2]) > EVEN * most) return false;
  }
  return true;
}

/** Lets sizes take hold frame by frame: what hangs on a joint is as far away as the joint has grown. */
export class Sizer {
  /** Sizes in the world over those at rest, 3 per joint along its axes; of the frame that was asked for last. */
  readonly sizes: Float64Array;
  /** Joints that have a size of their own or hang on one that has, parents first. */
  private readonly order: readonly number[];
  private readonly trackOf: readonly (Track | undefined)[];
  private readonly isMoved: Uint8Array;

  /** @param moves those that give a joint its place in each frame */
  constructor(
    private readonly skeleton: Skeleton,
    tracks: readonly Track[],
    moves: readonly Track[],
  ) {
    const { parents } = skeleton;
    this.sizes = new Float64Array(parents.length * 3).fill(1);
    this.trackOf = Array.from(parents, (_, j) => tracks.find(({ joint }) => joint === j));
    const touched = new Uint8Array(parents.length);
    parents.forEach((parent, j) => (touched[j] = this.trackOf[j] !== undefined || (parent >= 0 && touched[parent] === 1) ? 1 : 0));
    this.order = [...touched.keys()].filter((j) => touched[j] === 1);
    this.isMoved = new Uint8Array(parents.length);
    for (const { joint } of moves) this.isMoved[joint] = 1;
  }

  /** Finds the sizes of a frame, and sets the places of what hangs on them. @param translations local, those of moved joints as they are in the frame */
  at(frame: number, translations: Float64Array): void {
    const {
      sizes,
      skeleton: { parents, restT },
    } = this;
    for (const j of this.order) {
      const own = this.trackOf[j]?.values;
      const parent = parents[j];
      for (let c = 0; c < 3; c++) {
        const above = parent < 0 ? 1 : sizes[parent * 3 + c];
        sizes[j * 3 + c] = above * (own ? own[frame * 3 + c] : 1);
        translations[j * 3 + c] = (this.isMoved[j] === 1 ? translations[j * 3 + c] : restT[j * 3 + c]) * above;
      }
    }
  }
}
