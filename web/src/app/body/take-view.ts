import {
  ClipReader,
  clipOf,
  factsOf,
  percentile,
  prepareTake,
  takeFaults,
  type Rig,
  type Clip,
  type ClipFault,
  type MotionFile,
} from '@hollow-stride/core';
import { copyClip } from '../solver/clips';
import { displayBody } from '../solver/display';
import type { TakeSource } from '../solver/messages';
import type { TakeFault, TakeView } from './messages';

/** A take as it was recorded and as it is set, frame for frame beside each other. */
export function takeViewOf(file: MotionFile, body: Rig, source: TakeSource): TakeView {
  const { choices } = source;
  const before = copyClip(clipOf(file, body, source.clip));
  const whole = prepareTake(file, body, source.clip, { ...choices, from: null, to: null, fps: null, reversed: false });
  const result = prepareTake(file, body, source.clip, { ...choices, reversed: false });
  return {
    source,
    display: displayBody(body, file, source.file),
    before,
    after: copyClip(whole),
    faults: faultsOf(body, before, whole, choices),
    facts: factsOf(file, source.clip, { ...source.skeleton, reference: body.reference }),
    result: { frames: result.frames, frameTime: result.frameTime },
    floor: floorOf(body, before),
  };
}

/** State of each fault of the samples, and the cautions beside them. */
function faultsOf(body: Rig, before: Clip, after: Clip, { from, to }: TakeSource['choices']): TakeFault[] {
  const found = takeFaults(body, before);
  const left = takeFaults(body, after);
  const isSame = (a: ClipFault, b: ClipFault): boolean => a.kind === b.kind && a.from <= b.to && b.from <= a.to;
  const first = from === null ? 0 : Math.round(from / before.frameTime);
  const last = to === null ? Infinity : Math.round(to / before.frameTime);
  const isTrimmed = (fault: ClipFault): boolean => fault.to < first || fault.from > last;
  return [
    ...found.map((fault) => ({
      ...fault,
      state: isTrimmed(fault)
        ? ('trimmed' as const)
        : left.some((other) => isSame(fault, other))
          ? ('left' as const)
          : ('repaired' as const),
    })),
    ...left
      .filter((fault) => !isTrimmed(fault) && !found.some((other) => isSame(fault, other)))
      .map((fault) => ({ ...fault, state: 'left' as const })),
  ];
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
