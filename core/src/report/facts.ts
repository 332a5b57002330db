import { labelFile, prepareBody, type Body } from '../body';
import { duration } from '../clip/clip';
import { asFault, type Fault } from '../errors';
import type { MotionFile } from '../formats/motionFile';
import { percentile } from '../math/filter';
import { DEG } from '../math/trig';
import { ClipReader } from '../clip/clip';
import { clipOf } from '../body';
import { commonPrefix, type Skeleton } from '../skeleton/skeleton';
import type { Labels } from '../label';

/** What a person wants to know of a file before anything is done with it. Plain data, fit for JSON. */
export interface Facts {
  readonly format: 'bvh' | 'glb';
  readonly joints: number;
  readonly hasMesh: boolean;
  readonly prefix: string;
  readonly clips: readonly { name: string; frames: number; fps: number; seconds: number }[];
  /** Undefined when the skeleton could not be made ready; `warnings` then say why. */
  readonly body: BodyFacts | undefined;
  readonly labels: LabelFacts | undefined;
  readonly warnings: readonly Fault[];
}

export interface BodyFacts {
  readonly unit: { unit: string; metres: number; reason: string };
  readonly up: { axis: string; reason: string };
  /** Degrees from +Z towards +X. */
  readonly facing: number;
  readonly rest: { source: 'file' | 'frame'; frame: number | null; score: number; clean: boolean; reason: string };
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

/** Collects the facts of a file; what cannot be found out is left out and said in the warnings. */
export function factsOf(file: MotionFile): Facts {
  const warnings: Fault[] = [...file.warnings];
  let body: Body | undefined;
  let labels: Labels | undefined;
  try {
    labels = labelFile(file);
    if (labels.missing.length === 0) body = prepareBody(file, 0, labels);
  } catch (error) {
    warnings.push(asFault(error));
  }
  if (labels) warnings.push(...labels.warnings);
  return {
    format: file.layout.format,
    joints: file.skeleton.names.length,
    hasMesh: file.skin !== undefined,
    prefix: commonPrefix(file.skeleton.names),
    clips: file.clips.map((clip) => ({
      name: clip.name,
      frames: clip.frames,
      fps: round(1 / clip.frameTime, 3),
      seconds: round(duration(clip), 3),
    })),
    body: body && bodyFacts(body),
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

const TRACE_SAMPLES = 60;

function bodyFacts(body: Body): BodyFacts {
  const { positions } = body.restPose;
  let low = Infinity;
  let high = -Infinity;
  for (let j = 1; j < positions.length; j += 3) {
    low = Math.min(low, positions[j]);
    high = Math.max(high, positions[j]);
  }
  const heights: number[] = [];
  const trace: number[] = [];
  if (body.file.clips.length > 0) {
    const clip = clipOf(body);
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

function drawing({ skeleton, restPose, left }: Body): number[] {
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
  const k = 10 ** places;
  return Math.round(value * k) / k;
}
