import { ClipReader, clipOf, factsOf, percentile, prepareTake, type Body, type Clip } from '@hollow-stride/core';
import { copyClip } from '../solver/clips';
import { displayBody } from '../solver/display';
import type { TakeSource } from '../solver/messages';
import type { TakeView } from './messages';

/** A take as it was recorded and as it is set, frame for frame beside each other. */
export function takeViewOf(body: Body, source: TakeSource): TakeView {
  const { choices } = source;
  const before = copyClip(clipOf(body, source.clip));
  const whole = prepareTake(body, source.clip, { ...choices, first: null, last: null, fps: null });
  const result = prepareTake(body, source.clip, choices);
  return {
    source,
    display: displayBody(body, source.file),
    before,
    after: copyClip(whole),
    facts: factsOf(body.file, source.clip, source.skeleton),
    result: { frames: result.frames, frameTime: result.frameTime },
    floor: floorOf(body, before),
  };
}

/** Lowest that the feet come in a take. */
function floorOf(body: Body, clip: Clip): number {
  const reader = new ClipReader(body.skeleton, clip);
  const step = Math.max(1, Math.floor(clip.frames / 200));
  const heights: number[] = [];
  for (let f = 0; f < clip.frames; f += step) {
    const { positions } = reader.at(f);
    heights.push(Math.min(...body.feet.map(({ foot, ankleHeight }) => positions[foot * 3 + 1] - ankleHeight)));
  }
  return percentile(heights, 0.05);
}
