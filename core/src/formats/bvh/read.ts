import { asFaultError, fail, type Fault } from '../../errors';
import type { Clip } from '../../clip';
import { makeSkeleton } from '../../skeleton';
import type { MotionFile } from '../motionFile';
import { readHierarchy, type BvhHierarchy } from './hierarchy';
import { readSamples, type BvhSamples } from './samples';
import type { BvhLayout } from './layout';
import { RowReader } from './rows';

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
    const rows = new RowReader(hierarchy);
    const samples = readSamples(bytes, motion.start + 6, motion.line, hierarchy, rows);
    return assemble(name, hierarchy, samples, rows);
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

function assemble(name: string, hierarchy: BvhHierarchy, samples: BvhSamples, rows: RowReader): MotionFile {
  const { names, parents, offsets, channels } = hierarchy;
  const warnings: Fault[] = [...samples.warnings];
  const seen = new Set<string>();
  for (let j = 0; j < names.length; j++) {
    if (seen.has(names[j])) {
      warnings.push({
        code: 'skeleton/names',
        message: 'two joints have this name; both are kept and told apart by their place',
        where: { joint: names[j], line: hierarchy.lines[j] },
      });
    }
    seen.add(names[j]);
  }
  const { frames, frameTime } = samples;
  const skeleton = makeSkeleton({ names, parents, restT: Float64Array.from(offsets), tips: tipsOf(hierarchy) });
  const layout: BvhLayout = {
    format: 'bvh',
    channels,
    offsets: Float64Array.from(offsets),
    fromOffset: rows.fromOffset,
    endSites: hierarchy.endSites,
  };
  const clips: Clip[] = frames > 0 ? [{ name: clipName(name), frameTime, frames, ...rows.motion(frames) }] : [];
  return { name, skeleton, clips, warnings, layout };
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
