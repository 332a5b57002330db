import { bakeSizes, clipFromBasis, clipToBasis, ClipReader, type Clip } from '../clip';
import { fail } from '../errors';
import {
  bareGlb,
  bvhParts,
  flattenRest,
  joinParts,
  motionParts,
  readMotionFile,
  writeGlb,
  type FaceWeights,
  type WrittenWith,
  type MotionFile,
  type OutputFormat,
} from '../formats';
import type { DeliveryChoices } from '../recipe';
import { propsOf, type Rig } from '../rig';
import { fromBasis, makeBasis, toBasis, type Basis } from '../skeleton';
import { loopWeights, makeLoop } from './loop';
import { labelledOnly } from './prune';
import { reduceKeys } from './reduce';
import { square } from '../math/numbers';

/** A motion as it is delivered. */
export interface Output extends OutputMotion {
  readonly bytes: Uint8Array<ArrayBuffer>;
}

/** A motion as it will be delivered. */
export interface OutputMotion {
  /** The motion that the file holds, metres, Y up: what is judged. */
  readonly clip: Clip;
  readonly format: OutputFormat;
  /** Keys that were left, as a share of all, and the farthest that hands, feet and head are off for it, metres. */
  readonly reduced: { readonly share: number; readonly worst: number } | undefined;
  /** The largest turn by which first and last pose differed before they were drawn together, radians. */
  readonly loopGap: number | undefined;
  /** Weights of the face shapes that the file will hold; files without meshes hold none. */
  readonly face: FaceWeights | undefined;
  /** How the file's space lies in ours. */
  readonly basis: Basis;
  /** The file's bytes, part by part. @throws FaultError option, clip/not-finite */
  readonly parts: () => Iterable<Uint8Array<ArrayBuffer>>;
}

const WATCHED = ['left.hand', 'right.hand', 'left.foot', 'right.foot', 'left.toes', 'right.toes', 'head'];

/**
 * A solved motion as it goes into a file, which is written apart: who judges it first need not hold the text meanwhile.
 * @param file that the character came from
 * @param clip metres, Y up
 * @param beside weights of its face shapes; whether the clip ends where it begins already
 */
export function makeOutput(
  file: MotionFile,
  rig: Rig,
  clip: Clip,
  format: OutputFormat,
  decisions: DeliveryChoices,
  { face: weights, isLoop = decisions.loop > 0 }: Pick<WrittenWith, 'face' | 'isLoop'> = {},
): OutputMotion {
  const { skeleton, roles, carrier } = rig;
  // A BVH file knows places and turns alone.
  const known = format === 'bvh' ? bakeSizes(skeleton, clip) : clip;
  const titled = decisions.title === null ? known : { ...known, name: decisions.title };
  const carriers = new Set<number>();
  for (let j = carrier; j >= 0; j = skeleton.parents[j]) carriers.add(j);
  // Things beside the body travel with it, and are held as exactly as hands are.
  const props = propsOf(rig).map(({ joint }) => joint);
  for (const joint of props) carriers.add(joint);
  const looped = decisions.loop > 0 ? makeLoop(skeleton, titled, decisions.loop, carriers) : undefined;
  const whole = looped?.clip ?? titled;
  const watched = [...WATCHED.flatMap((role) => roles.get(role) ?? []), ...props];
  const reduced =
    format === 'glb' && decisions.tolerance !== null ? reduceKeys(skeleton, whole, watched, decisions.tolerance / 1000) : undefined;
  const made = reduced?.clip ?? whole;
  const basis = format === 'bvh' ? makeBasis(decisions.unit ?? rig.basis.metres, decisions.up ?? rig.basis.up) : rig.basis;
  const hasMesh = format === 'glb' && !decisions.bare && (file.shapes?.length ?? 0) > 0;
  const face = weights && hasMesh ? (decisions.loop > 0 ? loopWeights(weights, decisions.loop) : weights) : undefined;
  return {
    clip: made,
    format,
    face,
    reduced: reduced && { share: reduced.share, worst: reduced.worst },
    loopGap: looped?.gap,
    basis,
    parts,
  };

  function* parts(): Generator<Uint8Array<ArrayBuffer>, void> {
    const { layout } = file;
    if (format === 'glb') {
      if (layout.format !== 'glb') {
        fail('option', 'a character that came as BVH has no GLB file to add the motion to; write .bvh', { file: file.name });
      }
      const own = decisions.bare ? { ...layout, bytes: bareGlb(layout.bytes) } : layout;
      // Keys hold the motion's own values: those of the clip that was reduced.
      yield writeGlb(file.skeleton, clipFromBasis(file.skeleton, whole, rig.basis), own, { keys: reduced?.keys, face, isLoop });
      return;
    }
    const isOwnSpace = basis.metres === rig.basis.metres && basis.up === rig.basis.up;
    if (isOwnSpace && decisions.unlabelled) yield* motionParts(file, rig.basis, whole, 'bvh');
    else
      yield* bvhParts(whole, (part) => {
        const own = decisions.unlabelled ? { skeleton, clip: part } : labelledOnly(skeleton, part, roles);
        return flattenRest(fromBasis(own.skeleton, basis), clipFromBasis(own.skeleton, own.clip, basis), 'channels');
      });
  }
}

/** Writes a motion into its file. @throws FaultError option, clip/not-finite */
export function writeOutput(motion: OutputMotion): Output {
  return { ...motion, bytes: joinParts(motion.parts()) };
}

/** A joint of a written file that is farther than this from where it was solved, metres, says that the file is not what was solved. */
export const READ_BACK = 5e-4;
export const NOT_AS_SOLVED = 'the written file does not hold the motion that was solved; this is a fault of the program: please report it';

/** Result of reading a written file back. */
export interface ReadBack {
  readonly frames: number;
  /** Farthest that a joint is from where it should be, metres. */
  readonly worst: number;
  readonly joints: number;
}

/**
 * Reads a written file again and holds every joint of every frame against the motion that it should hold.
 * @throws FaultError what the readers throw; option where a joint or frames are missing
 */
export async function readBack(
  { bytes, clip, basis }: Pick<Output, 'bytes' | 'clip' | 'basis'>,
  rig: Rig,
  name: string,
): Promise<ReadBack> {
  const file = await readMotionFile(bytes, name, false, clip.frameTime);
  const motion = file.clips.at(-1);
  if (!motion) fail('option', 'the written file holds no motion', { file: name });
  // A motion that stands still in all has one key and no rate.
  const still = motion.frames === 1;
  if (
    !still &&
    (motion.frames !== clip.frames ||
      Math.abs(motion.frameTime * (clip.frames - 1) - (clip.frames - 1) * clip.frameTime) > 0.05 * clip.frameTime)
  ) {
    fail(
      'option',
      `the written file holds ${motion.frames} frames of ${motion.frameTime} s where ${clip.frames} of ${clip.frameTime} s were solved`,
      { file: name },
    );
  }
  const written = clipToBasis(file.skeleton, motion, basis);
  const places = new Map(file.skeleton.names.map((joint, j) => [joint, j]));
  const pairs = rig.skeleton.names.flatMap((joint, j) => (places.has(joint) ? [[j, places.get(joint)!] as const] : []));
  const labelled = [...rig.roles.values()].find((joint) => !places.has(rig.skeleton.names[joint]));
  if (labelled !== undefined) fail('option', 'the written file lacks this joint', { file: name, joint: rig.skeleton.names[labelled] });
  const skeleton = toBasis(file.skeleton, basis);
  const [mine, theirs] = [new ClipReader(rig.skeleton, clip), new ClipReader(skeleton, written)];
  let worst = 0;
  for (let f = 0; f < clip.frames; f++) {
    const [p, q] = [mine.at(f).positions, theirs.at(still ? 0 : f).positions];
    for (const [a, b] of pairs) {
      let d = 0;
      for (let c = 0; c < 3; c++) d += square(p[a * 3 + c] - q[b * 3 + c]);
      if (d > worst) worst = d;
    }
  }
  return { frames: written.frames, worst: Math.sqrt(worst), joints: pairs.length };
}
