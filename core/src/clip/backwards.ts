import { makeContinuous, pickFrames, type Clip } from './clip';

/** The same motion from its last frame to its first. */
export function backwards(clip: Clip): Clip {
  const { frames } = clip;
  const out = pickFrames(
    clip,
    Array.from({ length: frames }, (_, f) => frames - 1 - f),
  );
  makeContinuous(out.rotations, out.rotations.length / (4 * Math.max(1, frames)));
  return out;
}
