import { type Clip, makeContinuous } from '../clip';
import type { RoleMap } from '../label';
import { hermite } from '../math/filter';
import { copy, normalize, slerp } from '../math/quat';
import { SMOOTHED_PARTS, type TakeChoices } from '../recipe';
import type { Skeleton } from '../skeleton';
import type { SamplingFault } from './faults';
import { partsOfJoints } from './joints';
import { lowPassSection, zeroPhase } from './lowPass';

/** A clip whose arrays may be written into. */
function copyClip(clip: Clip): Clip {
  return { ...clip, rotations: clip.rotations.slice(), moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.slice() })) };
}

/**
 * Fills gaps and repeated frames: each held span is led from the frame before it to the frame after it, rotations on the
 * short arc and eased by the speed at both ends, translations by a cubic that keeps both slopes.
 */
export function fillGaps(skeleton: Skeleton, clip: Clip, faults: readonly SamplingFault[]): Clip {
  const gaps = faults.filter(({ kind }) => kind === 'gap' || kind === 'repeat');
  return gaps.length === 0 ? clip : bridge(skeleton, clip, gaps);
}

/** Takes single frames that stick out from their neighbours. */
export function removeSpikes(skeleton: Skeleton, clip: Clip, faults: readonly SamplingFault[]): Clip {
  const spikes = faults.filter(({ kind }) => kind === 'spike');
  return spikes.length === 0 ? clip : bridge(skeleton, clip, spikes);
}

function bridge(skeleton: Skeleton, source: Clip, spans: readonly SamplingFault[]): Clip {
  const clip = copyClip(source);
  const joints = skeleton.parents.length;
  const q = new Float64Array(12);
  for (const span of spans) {
    // A gap's first frame repeats the one before: the last good frame is that one.
    const a = Math.max(0, span.from - 1);
    const b = Math.min(clip.frames - 1, span.to + 1);
    if (b - a < 2) continue;
    const chosen = span.joint === undefined || span.kind === 'spike' ? undefined : span.joint;
    for (let j = chosen ?? 0; j < (chosen === undefined ? joints : chosen + 1); j++) {
      copy(q, 0, clip.rotations, (a * joints + j) * 4);
      copy(q, 4, clip.rotations, (b * joints + j) * 4);
      for (let f = a + 1; f < b; f++) {
        slerp(q, 8, q, 0, q, 4, (f - a) / (b - a));
        normalize(q, 8);
        copy(clip.rotations, (f * joints + j) * 4, q, 8);
      }
    }
    if (chosen !== undefined) continue;
    for (const { values } of clip.moves) {
      for (let c = 0; c < 3; c++) {
        const at = (f: number): number => values[Math.min(clip.frames - 1, Math.max(0, f)) * 3 + c];
        const slopeA = a > 0 ? at(a) - at(a - 1) : 0;
        const slopeB = b < clip.frames - 1 ? at(b + 1) - at(b) : 0;
        const [from, to] = [at(a), at(b)];
        for (let f = a + 1; f < b; f++) values[f * 3 + c] = hermite(from, slopeA, to, slopeB, b - a, (f - a) / (b - a));
      }
    }
  }
  makeContinuous(clip.rotations, joints);
  return clip;
}

/**
 * Zero-phase low-pass with a cut-off for each part of the body. Rotations are filtered as sign-continuous quaternions and
 * made unit again, which at capture rates differs from filtering on the sphere by less than the noise that is removed.
 */
export function smooth(skeleton: Skeleton, source: Clip, roles: RoleMap, cutoff: TakeChoices['clean']['cutoff']): Clip {
  const rate = 1 / source.frameTime;
  const sections = new Map(
    SMOOTHED_PARTS.map((part) => [part, cutoff[part] === null ? undefined : lowPassSection(cutoff[part], rate)] as const),
  );
  if ([...sections.values()].every((section) => section === undefined) || source.frames < 4) return source;
  const clip = copyClip(source);
  const joints = skeleton.parents.length;
  const parts = partsOfJoints(skeleton, roles);
  const lowest = Math.min(...SMOOTHED_PARTS.map((part) => cutoff[part] ?? Infinity));
  const padding = Math.min(clip.frames - 1, Math.ceil((3 * rate) / lowest));
  const scratch = new Float64Array(clip.frames + 2 * padding);
  const series = new Float64Array(clip.frames);
  const filter = (values: Float32Array, stride: number, offset: number, section: NonNullable<ReturnType<typeof lowPassSection>>): void => {
    for (let f = 0; f < clip.frames; f++) series[f] = values[f * stride + offset];
    zeroPhase(series, section, padding, scratch);
    for (let f = 0; f < clip.frames; f++) values[f * stride + offset] = series[f];
  };
  for (let j = 0; j < joints; j++) {
    const section = sections.get(parts[j]);
    if (!section) continue;
    for (let c = 0; c < 4; c++) filter(clip.rotations, joints * 4, j * 4 + c, section);
    for (let f = 0; f < clip.frames; f++) normalize(clip.rotations, (f * joints + j) * 4);
  }
  for (const { joint, values } of clip.moves) {
    const section = sections.get(parts[joint]);
    if (section) for (let c = 0; c < 3; c++) filter(values, 3, c, section);
  }
  return clip;
}
