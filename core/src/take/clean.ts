import { type Clip, makeContinuous } from '../clip';
import type { RoleMap } from '../label';
import { hermite } from '../math/filter';
import { angleBetween, copy, invert, invMul, mul, normalize, slerp } from '../math/quat';
import { SMOOTHED_PARTS, type TakeChoices } from '../recipe';
import type { Skeleton } from '../skeleton';
import type { SamplingFault } from './fault';
import { samplesOf } from './repeats';
import { partsOfJoints } from './joints';
import { lowPassSection, zeroPhase } from './lowPass';

/** A clip whose arrays may be written into. */
function copyClip(clip: Clip): Clip {
  return { ...clip, rotations: clip.rotations.slice(), moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.slice() })) };
}

/** Kinds of faults that can be repaired; a rest pose is trimmed away, a drift is the recording's own. */
export type Repairable = 'gap' | 'repeat' | 'spike' | 'jump';
export const isRepairable = (kind: SamplingFault['kind']): kind is Repairable => kind !== 'rest' && kind !== 'drift';

/** Whether all faults of a kind are repaired, by what is set of a take. */
export const repairsAll = ({ gaps, spikes, jumps }: Pick<TakeChoices['clean'], 'gaps' | 'spikes' | 'jumps'>, kind: Repairable): boolean =>
  ({ gap: gaps, repeat: gaps, spike: spikes, jump: jumps })[kind];

/**
 * Repairs faults of a clip. Gaps, repeated frames and spikes are led from the frame before to the frame after, rotations on the
 * short arc, translations by a cubic that keeps both slopes; jumps are eased over the frames about them.
 * @param faults those that are to be repaired; others are not touched
 */
export function repair(skeleton: Skeleton, clip: Clip, faults: readonly SamplingFault[]): Clip {
  const late = faults.filter((fault) => isOutOfTime(clip, fault));
  const held = faults.filter((fault) => (fault.kind === 'gap' || fault.kind === 'repeat') && !late.includes(fault));
  const spikes = faults.filter(({ kind }) => kind === 'spike');
  const jumps = faults.filter(({ kind }) => kind === 'jump');
  let out = late.length === 0 ? clip : playInTime(skeleton, clip, late);
  if (held.length > 0) out = bridge(skeleton, out, held);
  if (spikes.length > 0) out = bridge(skeleton, out, spikes);
  return jumps.length === 0 ? out : easeJumps(skeleton, out, jumps);
}

/** How far a whole pose is from the one before, by its turns alone. */
function stepTo({ rotations, frames }: Clip, f: number): number {
  const width = rotations.length / frames;
  let sum = 0;
  for (let o = f * width; o < (f + 1) * width; o += 4) sum += angleBetween(rotations, o, rotations, o - width);
  return sum;
}

/** Frames whose steps are all less than this share of the one behind them are all held. */
const HELD = 0.25;

/** True for frames of which one repeats the one before and another is lost: those between come a frame late, or early. */
function isOutOfTime(clip: Clip, { kind, joint, from, to }: SamplingFault): boolean {
  if (kind !== 'repeat' || joint !== undefined || from < 1 || to + 1 >= clip.frames) return false;
  return from === to || Math.max(stepTo(clip, from), stepTo(clip, to)) > HELD * stepTo(clip, to + 1);
}

/**
 * Plays frames at their own times again: those between one that repeats the one before and one that is lost come a frame earlier, or later, and the lost
 * one stands half way between its neighbours.
 */
function playInTime(skeleton: Skeleton, source: Clip, spans: readonly SamplingFault[]): Clip {
  const clip = copyClip(source);
  const joints = skeleton.parents.length;
  const samples = samplesOf(
    source.frames,
    spans.map(({ from, to }) => {
      const isLate = from === to || stepTo(source, from) < stepTo(source, to);
      return isLate ? [from, to + 1] : [to, from];
    }),
  );
  for (const { from, to } of spans) {
    for (let f = from; f <= to; f++) {
      const [a, b] = [Math.floor(samples[f]), Math.ceil(samples[f])];
      const t = samples[f] - a;
      for (let j = 0; j < joints; j++) {
        slerp(clip.rotations, (f * joints + j) * 4, source.rotations, (a * joints + j) * 4, source.rotations, (b * joints + j) * 4, t);
      }
      clip.moves.forEach(({ values }, m) => {
        const whole = source.moves[m].values;
        for (let c = 0; c < 3; c++) values[f * 3 + c] = (1 - t) * whole[a * 3 + c] + t * whole[b * 3 + c];
      });
    }
  }
  makeContinuous(clip.rotations, joints);
  return clip;
}

/** A jump is eased over so long on either side of it, seconds: about a stride's swing, so that no joint is hurried. */
const EASE = 0.25;

/**
 * Spreads each jump over the frames about it: half of its step is given to those before, half taken from those after, fading out by a
 * smooth step. Samples farther away stay as recorded. A jump without a joint, or of one that moves, is that of the body's place too.
 */
function easeJumps(skeleton: Skeleton, source: Clip, jumps: readonly SamplingFault[]): Clip {
  const clip = copyClip(source);
  const joints = skeleton.parents.length;
  const reach = Math.max(2, Math.round(EASE / clip.frameTime));
  const q = new Float64Array(16);
  for (const { from: at, joint } of jumps) {
    if (at < 1 || at >= clip.frames) continue;
    const first = Math.max(0, at - reach);
    const last = Math.min(clip.frames - 1, at + reach - 1);
    /** Share of the step that a frame is given: towards the other side, none at the ends. */
    const share = (f: number): number => {
      const t = f < at ? (f - first + 1) / (at - first + 1) : (last + 1 - f) / (last + 2 - at);
      return 0.5 * t * t * (3 - 2 * t);
    };
    for (let j = joint ?? 0; j < (joint === undefined ? joints : joint + 1); j++) {
      // The step, as a turn in the joint's own frame, and the way back.
      invMul(q, 0, clip.rotations, ((at - 1) * joints + j) * 4, clip.rotations, (at * joints + j) * 4);
      invert(q, 4, q, 0);
      for (let f = first; f <= last; f++) {
        q.set(NO_TURN, 8);
        slerp(q, 8, q, 8, q, f < at ? 0 : 4, share(f));
        const o = (f * joints + j) * 4;
        mul(q, 12, clip.rotations, o, q, 8);
        normalize(q, 12);
        copy(clip.rotations, o, q, 12);
      }
    }
    for (const { joint: moved, values } of clip.moves) {
      if (joint !== undefined && moved !== joint) continue;
      for (let c = 0; c < 3; c++) {
        const step = values[at * 3 + c] - values[(at - 1) * 3 + c];
        for (let f = first; f <= last; f++) values[f * 3 + c] += (f < at ? 1 : -1) * share(f) * step;
      }
    }
  }
  makeContinuous(clip.rotations, joints);
  return clip;
}
const NO_TURN = [0, 0, 0, 1];

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
