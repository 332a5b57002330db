import { fail } from '../errors';
import { shortened } from '../text';

/** No body is so large and stands so far away, in any unit; nor does a joint turn so often, in degrees. */
export const MAX_VALUE = 1e8;
/** Longest name of a motion, UTF-16 units. */
export const MAX_CLIP_NAME = 200;
/** Most motions that one file may hold. */
export const MAX_CLIPS = 400;
/** Most frames a second that are taken for real. */
export const MAX_RATE = 10_000;
/** Limit on the motions of one file once they are sampled, bytes. */
export const MAX_MOTION_BYTES = 256 * 1024 * 1024;

/** Counts what a file's motions will take before it is taken. */
export class MotionBudget {
  private used = 0;

  /**
   * Room for one more motion.
   * @param tracks joints that have translations of their own
   * @throws FaultError clip/limit with the figure
   */
  take(name: string, frames: number, joints: number, tracks: number): void {
    this.used += frames * (joints * 16 + tracks * 12);
    if (!(this.used <= MAX_MOTION_BYTES)) {
      const [needed, most] = [this.used, MAX_MOTION_BYTES].map((bytes) => (bytes / 2 ** 20).toFixed(0));
      fail(
        'clip/limit',
        `with animation "${shortened(name, 60)}" (${frames} frames on ${joints} joints) the motions take ${needed} MB; at most ${most} MB of one file are read. Split it`,
      );
    }
  }
}
