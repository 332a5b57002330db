import type { Pose } from '@hollow-stride/core';

/** A pose that is held for calibration lasts so long, seconds. */
export const HELD_SECONDS = 3;
/** In it no joint may move farther than this, metres. */
const STILL = 0.05;

/** What a held pose tells: where the floor lies, and where the performer faces. */
export interface Held {
  /** Metres to be added to all heights, so that the lowest joint's sole is on the floor. */
  readonly height: number;
  /** Degrees to be turned about the vertical, so that the performer faces ahead. */
  readonly heading: number;
}

/** Joints that the calibration goes by, and how far the sole is below the lowest of them, metres. */
export interface HeldBy {
  readonly left: number;
  readonly right: number;
  readonly sole: number;
}

/** Watches poses until one has been held for long enough. */
export class HoldWatch {
  private since: number | undefined;
  private first: Float64Array | undefined;
  private sum = { low: 0, x: 0, z: 0, count: 0 };

  constructor(private readonly by: HeldBy) {}

  /** Share of the time that the pose has been held, 0 to 1. */
  share(seconds: number): number {
    return this.since === undefined ? 0 : Math.min(1, (seconds - this.since) / HELD_SECONDS);
  }

  /** @param seconds of the stream @returns what the pose tells once it was held; undefined until then */
  take({ positions: p }: Pose, seconds: number): Held | undefined {
    const { first, by } = this;
    let moved = 0;
    if (first) for (let i = 0; i < p.length; i++) moved = Math.max(moved, Math.abs(p[i] - first[i]));
    if (!first || moved > STILL) {
      this.first = p.slice();
      this.since = seconds;
      this.sum = { low: 0, x: 0, z: 0, count: 0 };
    }
    let low = Infinity;
    for (let i = 1; i < p.length; i += 3) low = Math.min(low, p[i]);
    const { sum } = this;
    sum.low += low - by.sole;
    // Ahead is across the line from the right hip to the left.
    const [x, z] = [p[by.left * 3] - p[by.right * 3], p[by.left * 3 + 2] - p[by.right * 3 + 2]];
    sum.x -= z;
    sum.z += x;
    sum.count++;
    if (this.share(seconds) < 1) return undefined;
    return { height: -sum.low / sum.count, heading: (-Math.atan2(sum.x, sum.z) * 180) / Math.PI };
  }
}
