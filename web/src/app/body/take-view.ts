import { ClipReader, clipOf, factsOf, percentile, prepareTake, type Rig, type Clip, type MotionFile } from '@hollow-stride/core';
import { copyClip } from '../solver/clips';
import { displayBody } from '../solver/display';
import type { TakeSource } from '../solver/messages';
import type { TakeView } from './messages';

/** A take as it was recorded and as it is set, frame for frame beside each other. */
export function takeViewOf(file: MotionFile, body: Rig, source: TakeSource): TakeView {
  const { choices } = source;
  const before = copyClip(clipOf(file, body, source.clip));
  const whole = prepareTake(file, body, source.clip, { ...choices, from: null, to: null, fps: null });
  const result = prepareTake(file, body, source.clip, choices);
  return {
    source,
    display: displayBody(body, file, source.file),
    before,
    after: copyClip(whole),
    facts: factsOf(file, source.clip, { ...source.skeleton, reference: body.reference }),
    result: { frames: result.frames, frameTime: result.frameTime },
    floor: floorOf(body, before),
  };
}

/** Lowest that the feet come in a take. */
function floorOf(body: Rig, clip: Clip): number {
  const reader = new ClipReader(body.skeleton, clip);
  const step = Math.max(1, Math.floor(clip.frames / 200));
  const heights: number[] = [];
  for (let f = 0; f < clip.frames; f += step) {
    const { positions } = reader.at(f);
    heights.push(Math.min(...body.feet.map(({ foot, ankleHeight }) => positions[foot * 3 + 1] - ankleHeight)));
  }
  return percentile(heights, 0.05);
}
