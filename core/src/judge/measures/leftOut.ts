import type { Found } from '../figure';
import type { Scene } from '../scene';

/** Share of the frames that known faults of the take leave out of the figures. */
export function leftOut({ seen, left, leftFrames, at }: Scene): Found {
  const first = left.indexOf(1);
  return {
    id: 'left.out',
    value: seen.frames === 0 ? NaN : (100 * leftFrames) / seen.frames,
    looked: `${leftFrames} of ${seen.frames} frames`,
    words: first < 0 ? 'the take has no known faults' : `first at ${at(first)}`,
    frame: first < 0 ? undefined : first,
  };
}
