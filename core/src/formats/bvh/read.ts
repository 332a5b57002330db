import { asFaultError, fail, type Fault } from '../../errors';
import { type Clip, makeContinuous, type TranslationTrack } from '../../clip';
import { fromAxisAngle, identity, mul, normalize } from '../../math/quat';
import { DEG } from '../../math/trig';
import { makeSkeleton } from '../../skeleton';
import type { MotionFile } from '../motionFile';
import { readHierarchy, type BvhHierarchy } from './hierarchy';
import { readSamples, type BvhSamples } from './samples';
import type { BvhLayout } from './layout';

/**
 * Reads a BVH file: any channel order, missing channels, positions on any joint, names with spaces.
 * The rest pose has no rotations, as BVH knows none; lengths stay in the file's unit.
 * @param bytes the file's content
 * @param name shown in errors and kept as the clip's name
 * @throws FaultError with the line, joint and frame
 */
export function readBvh(bytes: Uint8Array, name: string): MotionFile {
  try {
    const motion = findMotion(bytes);
    const text = new TextDecoder().decode(bytes.subarray(0, motion.start)).replace(/^\uFEFF/, '');
    const hierarchy = readHierarchy(text, motion.found);
    const samples = readSamples(bytes, motion.start + 6, motion.line, hierarchy);
    return assemble(name, hierarchy, samples);
  } catch (error) {
    throw asFaultError(error, name);
  }
}

/** Finds the line that says MOTION. */
function findMotion(bytes: Uint8Array): { start: number; line: number; found: boolean } {
  if (bytes.length === 0) fail('file/empty', 'the file is empty');
  let line = 1;
  let fresh = true;
  for (let i = 0; i < bytes.length; i++) {
    const c = bytes[i];
    if (c === 10 || (c === 13 && bytes[i + 1] !== 10)) {
      line++;
      fresh = true;
    } else if (c > 32) {
      // M or m at the start of a line, then "otion" in any case.
      if (fresh && (c | 32) === 109 && matches(bytes, i, 'motion')) return { start: i, line, found: true };
      fresh = c === 125;
    }
  }
  return { start: bytes.length, line, found: false };
}

function matches(bytes: Uint8Array, at: number, word: string): boolean {
  for (let k = 0; k < word.length; k++) if ((bytes[at + k] | 32) !== word.charCodeAt(k)) return false;
  const after = bytes[at + word.length];
  return after === undefined || after <= 32;
}

function assemble(name: string, hierarchy: BvhHierarchy, samples: BvhSamples): MotionFile {
  const { names, parents, offsets, channels } = hierarchy;
  const joints = names.length;
  const warnings: Fault[] = [...samples.warnings];
  const seen = new Set<string>();
  for (let j = 0; j < joints; j++) {
    if (seen.has(names[j])) {
      warnings.push({
        code: 'skeleton/names',
        message: 'two joints have this name; both are kept and told apart by their place',
        where: { joint: names[j], line: hierarchy.lines[j] },
      });
    }
    seen.add(names[j]);
  }
  const { frames, values } = samples;
  const width = frames === 0 ? 0 : values.length / frames;
  const rotations = new Float32Array(frames * joints * 4);
  const moves: TranslationTrack[] = [];
  const fromOffset = new Uint8Array(joints);
  const restT = Float64Array.from(offsets);
  const q = new Float64Array(8);

  let column = 0;
  for (let j = 0; j < joints; j++) {
    const list = channels[j];
    const positions = list.filter((c) => c < 3);
    let track: Float32Array | undefined;
    if (positions.length > 0 && frames > 0) {
      track = new Float32Array(frames * 3);
      fromOffset[j] = countsFromOffset(values, column, list, offsets, j) ? 1 : 0;
      moves.push({ joint: j, values: track });
    }
    for (let f = 0; f < frames; f++) {
      const at = f * width + column;
      identity(q, 0);
      if (track) {
        for (let c = 0; c < 3; c++) track[f * 3 + c] = fromOffset[j] || !list.includes(c) ? offsets[j * 3 + c] : 0;
      }
      for (let i = 0; i < list.length; i++) {
        const code = list[i];
        if (code < 3) track![f * 3 + code] += values[at + i];
        else {
          fromAxisAngle(q, 4, code === 3 ? 1 : 0, code === 4 ? 1 : 0, code === 5 ? 1 : 0, values[at + i] * DEG);
          mul(q, 0, q, 0, q, 4);
        }
      }
      normalize(q, 0);
      const o = (f * joints + j) * 4;
      rotations[o] = q[0];
      rotations[o + 1] = q[1];
      rotations[o + 2] = q[2];
      rotations[o + 3] = q[3];
    }
    column += list.length;
  }
  makeContinuous(rotations, joints);
  const skeleton = makeSkeleton({ names, parents, restT, tips: tipsOf(hierarchy) });
  const layout: BvhLayout = { format: 'bvh', channels, offsets: Float64Array.from(offsets), fromOffset, endSites: hierarchy.endSites };
  const clips: Clip[] = frames > 0 ? [{ name: clipName(name), frameTime: samples.frameTime, frames, rotations, moves }] : [];
  return { name, skeleton, clips, warnings, layout };
}

/**
 * Writers differ on whether position channels replace OFFSET or add to it. They replace it when the first frame
 * lies nearer to the OFFSET than to zero; with an OFFSET of zero both mean the same.
 */
function countsFromOffset(values: Float64Array, column: number, list: readonly number[], offsets: readonly number[], j: number): boolean {
  let toOffset = 0;
  let toZero = 0;
  list.forEach((code, i) => {
    if (code > 2) return;
    const v = values[column + i];
    toOffset += (v - offsets[j * 3 + code]) ** 2;
    toZero += v * v;
  });
  return toOffset > toZero;
}

function tipsOf({ names, endSites }: BvhHierarchy): Float64Array {
  const tips = new Float64Array(names.length * 3).fill(NaN);
  endSites.forEach((site, j) => {
    if (site.length >= 3) tips.set(site.slice(-3), j * 3);
  });
  return tips;
}

function clipName(file: string): string {
  return file.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');
}
