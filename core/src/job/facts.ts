import { clipOf, labelFile, prepareRig, type Rig } from '../rig';
import { ClipReader, clipToBasis, duration, type Clip } from '../clip';
import { asFault, type Fault } from '../errors';
import { cautionsOfLabels } from './labels';
import type { FileFormat, MotionFile } from '../formats';
import { percentile } from '../math/filter';
import { DEG } from '../math/trig';
import { DEFAULT_SKELETON, type SkeletonChoices } from '../recipe';
import { commonPrefix, printOf, type Skeleton, type SkeletonPrint } from '../skeleton';
import { findSamplingFaults, type SamplingFault, type SamplingKind } from '../take';
import type { Labels } from '../label';

/** Facts about a file for a person, before anything is done with it. Plain data, fit for JSON. */
export interface Facts {
  readonly format: FileFormat;
  /** Whose labels the skeleton has: found, or from the file's own body map. */
  readonly labelled: 'automatic' | 'file' | 'hand';
  readonly skeleton: SkeletonPrint;
  readonly joints: number;
  readonly hasMesh: boolean;
  /** Face shapes of its meshes. */
  readonly shapes: readonly string[];
  readonly prefix: string;
  readonly clips: readonly ClipFacts[];
  /** Undefined when the skeleton could not be made ready; `warnings` then say why. */
  readonly body: BodyFacts | undefined;
  readonly labels: LabelFacts | undefined;
  readonly warnings: readonly Fault[];
}

export interface ClipFacts {
  readonly name: string;
  readonly frames: number;
  readonly fps: number;
  readonly seconds: number;
  /** Faults of the samples, in order of frames; frames count from 0. */
  readonly faults: readonly ClipFault[];
  /** Channels of the face that moves with it; 0 where none does. */
  readonly faceChannels: number;
}

export interface ClipFault {
  readonly kind: SamplingKind;
  readonly from: number;
  readonly to: number;
  readonly joint: string | null;
  readonly message: string;
}

export interface BodyFacts {
  readonly unit: { unit: string; metres: number; reason: string };
  readonly up: { axis: string; reason: string };
  /** Degrees from +Z towards +X. */
  readonly facing: number;
  readonly rest: { source: 'file' | 'frame' | 'kept'; frame: number | null; score: number; clean: boolean; reason: string };
  /** Metres. */
  readonly legLength: number;
  readonly height: number;
  readonly sole: { depth: number; known: string };
  /** Lowest the feet come in the first clip, metres; null without motion. */
  readonly floor: number | null;
  /** Height of the lower foot over that, frame by frame at about 60 samples, metres: a picture of the take. */
  readonly footTrace: readonly number[];
}

export interface LabelFacts {
  readonly roles: Readonly<Record<string, string>>;
  readonly confidence: Readonly<Record<string, number>>;
  readonly missing: readonly string[];
  /** The skeleton at rest as line segments seen from the front, in body heights: x, y of both ends of each bone. */
  readonly drawing: readonly number[];
}

/**
 * Collects the facts of a file; what cannot be found out is left out and said in the warnings.
 * @param clipIndex which clip speaks for rest pose, up axis and floor
 * @param choices what a person decided in place of the guesses
 */
export function factsOf(file: MotionFile, clipIndex = 0, choices: SkeletonChoices = DEFAULT_SKELETON): Facts {
  const warnings: Fault[] = [...file.warnings];
  let body: Rig | undefined;
  let labels: Labels | undefined;
  try {
    labels = labelFile(file, clipIndex, choices);
    if (labels.missing.length === 0) body = prepareRig(file, clipIndex, choices, labels);
  } catch (error) {
    warnings.push(asFault(error));
  }
  if (labels) warnings.push(...labels.warnings, ...cautionsOfLabels(file, labels, clipIndex));
  return {
    format: file.format ?? file.layout.format,
    labelled: choices.labels ? 'hand' : file.bodyMap ? 'file' : 'automatic',
    skeleton: printOf(file.skeleton),
    joints: file.skeleton.names.length,
    hasMesh: file.skin !== undefined,
    shapes: file.shapes ?? [],
    prefix: commonPrefix(file.skeleton.names),
    clips: file.clips.map((clip, i) => ({
      name: clip.name,
      frames: clip.frames,
      fps: round(1 / clip.frameTime, 3),
      seconds: round(duration(clip), 3),
      faults: clipFaults(file, clip, body),
      faceChannels: file.faces?.[i]?.channels.length ?? 0,
    })),
    body: body && bodyFacts(file, body, clipIndex),
    labels: labels && { ...labelFacts(labels, file.skeleton), drawing: body ? drawing(body) : [] },
    warnings,
  };
}

/** Roles by name, as `label --json` prints them. */
export function labelFacts(labels: Labels, skeleton: Skeleton): Omit<LabelFacts, 'drawing'> {
  const roles: Record<string, string> = {};
  const confidence: Record<string, number> = {};
  for (const [role, joint] of labels.roles) {
    roles[role] = skeleton.names[joint];
    confidence[role] = round(labels.confidence.get(role) ?? 0, 2);
  }
  return { roles, confidence, missing: labels.missing };
}

/**
 * Sampling faults of a clip, as said of the file's joints. Lengths are judged in the body's metres where it is known.
 * @param clip as the file has it
 */
function clipFaults(file: MotionFile, clip: Clip, body: Rig | undefined): ClipFault[] {
  const { skeleton } = file;
  const inMetres = body ? clipToBasis(skeleton, clip, body.basis) : clip;
  // Without a known leg no length can be judged: an endless one lets every way pass.
  const faults = findSamplingFaults(body?.skeleton ?? skeleton, inMetres, body?.roles, body?.legLength ?? Infinity);
  return faults.slice(0, MAX_FAULTS).map((fault) => namedFault(skeleton, fault));
}

/** All sampling faults of a take that was made ready, however many. @param clip metres, Y up */
export function takeFaults({ skeleton, roles, legLength }: Rig, clip: Clip): ClipFault[] {
  return findSamplingFaults(skeleton, clip, roles, legLength).map((fault) => namedFault(skeleton, fault));
}

const namedFault = ({ names }: Skeleton, { joint, ...fault }: SamplingFault): ClipFault => ({
  ...fault,
  joint: joint === undefined ? null : names[joint],
});

/** Faults that a take's facts tell of; its own page lists all. */

const MAX_FAULTS = 60;
const TRACE_SAMPLES = 60;

function bodyFacts(file: MotionFile, body: Rig, clipIndex: number): BodyFacts {
  const { positions } = body.restPose;
  let low = Infinity;
  let high = -Infinity;
  for (let j = 1; j < positions.length; j += 3) {
    low = Math.min(low, positions[j]);
    high = Math.max(high, positions[j]);
  }
  const heights: number[] = [];
  const trace: number[] = [];
  if ((file.clips[clipIndex]?.frames ?? 0) > 0) {
    const clip = clipOf(file, body, clipIndex);
    const reader = new ClipReader(body.skeleton, clip);
    const step = Math.max(1, Math.floor(clip.frames / TRACE_SAMPLES));
    for (let f = 0; f < clip.frames; f += step) {
      const pose = reader.at(f);
      const feet = body.feet.map(({ foot }) => pose.positions[foot * 3 + 1]);
      trace.push(Math.max(...feet) - Math.min(...feet));
      heights.push(Math.min(...feet.map((y, i) => y - body.feet[i].ankleHeight)));
    }
  }
  return {
    unit: { ...body.unit, metres: round(body.unit.metres, 6) },
    up: { axis: body.up, reason: body.upReason },
    facing: round(body.facing / DEG, 1),
    rest: {
      source: body.rest.source,
      frame: body.rest.frame ?? null,
      score: round(body.rest.score, 2),
      clean: body.isRestClean,
      reason: body.rest.reason,
    },
    legLength: round(body.legLength, 4),
    height: round(high - low + body.sole.depth, 3),
    sole: { depth: round(body.sole.depth, 4), known: body.sole.known },
    floor: heights.length > 0 ? round(percentile(heights, 0.05), 4) : null,
    footTrace: trace.map((v) => round(v, 3)),
  };
}

function drawing({ skeleton, restPose, left }: Rig): number[] {
  const { positions } = restPose;
  const x = (j: number): number => positions[j * 3] * left[0] + positions[j * 3 + 2] * left[2];
  const ys = skeleton.names.map((_, j) => positions[j * 3 + 1]);
  const low = Math.min(...ys);
  const size = Math.max(...ys) - low || 1;
  const middle = x(0);
  const out: number[] = [];
  skeleton.parents.forEach((parent, j) => {
    if (parent < 0 || out.length > 400) return;
    for (const k of [parent, j]) out.push(round((x(k) - middle) / size, 3), round((ys[k] - low) / size, 3));
  });
  return out;
}

function round(value: number, places: number): number {
  const k = Number(`1e${places}`);
  return Math.round(value * k) / k;
}
