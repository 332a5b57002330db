import { ClipReader, type Clip } from '../clip';
import { SIDES } from '../label';
import type { Case, Figure, JointCase } from '../judge';
import { acos, DEG } from '../math/trig';
import type { Rig } from '../rig';
import type { Skeleton } from '../skeleton';

/** A quantity over the take, both bodies beside each other; plain numbers, fit for JSON. */
export interface Series {
  readonly name: string;
  readonly unit: string;
  readonly theirs: readonly number[];
  readonly mine: readonly number[];
}

/** Both bodies in one frame from the front and the side, as lines: x and y of both ends of each bone, millimetres. */
export interface Picture {
  readonly figure: string;
  readonly frame: number;
  readonly theirs: readonly number[];
  readonly mine: readonly number[];
}

/** Pictures and series of a check sheet, beside its figures. */
export interface Looked {
  readonly series: readonly Series[];
  readonly pictures: readonly Picture[];
  /** Seconds from sample to sample of the series. */
  readonly every: number;
}

const SAMPLES = 100;
const MOST_PICTURES = 3;

/** Quantities over the take, and the worst frames, of a case that has been judged. @param samples most of each series */
export function lookedAt({ performer, character, take, result, scale }: Case, figures: readonly Figure[], samples = SAMPLES): Looked {
  const step = Math.max(1, Math.ceil(result.frames / samples));
  const [P, C] = [new ClipReader(performer.skeleton, take), new ClipReader(character.skeleton, result)];
  const wanted: { name: string; unit: string; of: (rig: Rig, p: Float64Array) => number; scaled: boolean }[] = [
    ...SIDES.map((side) => ({ name: `${side} ankle, height`, unit: 'cm', of: heightOf(`${side}.foot`), scaled: true })),
    ...SIDES.map((side) => ({
      name: `${side} knee, bend`,
      unit: '°',
      of: bendOf(`${side}.upperLeg`, `${side}.lowerLeg`, `${side}.foot`),
      scaled: false,
    })),
    ...SIDES.map((side) => ({
      name: `${side} elbow, bend`,
      unit: '°',
      of: bendOf(`${side}.upperArm`, `${side}.lowerArm`, `${side}.hand`),
      scaled: false,
    })),
    { name: 'hips, height', unit: 'cm', of: heightOf('hips'), scaled: true },
  ];
  const out = wanted.map(({ name, unit }) => ({ name, unit, theirs: [] as number[], mine: [] as number[] }));
  for (let f = 0; f < result.frames; f += step) {
    const [p, c] = [P.at(f).positions, C.at(f).positions];
    wanted.forEach(({ of, scaled }, i) => {
      out[i].theirs.push(round(of(performer, p) * (scaled ? scale.lift : 1)));
      out[i].mine.push(round(of(character, c)));
    });
  }
  return {
    series: out,
    every: step * result.frameTime,
    pictures: picturesOf(figures, result.frames, (frame) => ({
      theirs: bonesOf(performer, take, frame),
      mine: bonesOf(character, result, frame),
    })),
  };
}

/** Joints of a pairing joint by joint that are shown over the take: those that turn the most. */
const MOST_SERIES = 6;

/** As `lookedAt`, of a pairing joint by joint: how far joints are turned from the first frame, theirs beside the character's. */
export function lookedAtJoints(
  { performer, character, take, result, channels }: JointCase,
  figures: readonly Figure[],
  samples = SAMPLES,
): Looked {
  const step = Math.max(1, Math.ceil(result.frames / samples));
  const turns = (clip: Clip, joint: number): number[] => {
    const joints = clip.rotations.length / clip.frames / 4;
    const out: number[] = [];
    for (let f = 0; f < clip.frames; f += step) out.push(round(quatAngle(clip.rotations, joint * 4, (f * joints + joint) * 4) / DEG));
    return out;
  };
  const series = channels
    .map(({ joint, sources }) => ({ joint, source: sources[0].joint, theirs: turns(take, sources[0].joint) }))
    .sort((a, b) => Math.max(...b.theirs) - Math.max(...a.theirs))
    .slice(0, MOST_SERIES)
    .map(({ joint, theirs }) => ({ name: character.skeleton.names[joint].slice(0, 50), unit: '°', theirs, mine: turns(result, joint) }));
  const bones = ({ skeleton }: JointCase['performer'], clip: Clip, frame: number): number[] =>
    linesOf(skeleton, clip, frame, { left: SIDE, forward: AHEAD, middle: 0, gap: reachOf(character) }, () => true);
  return {
    series,
    every: step * result.frameTime,
    pictures: picturesOf(figures, result.frames, (frame) => ({
      theirs: bones(performer, take, frame),
      mine: bones(character, result, frame),
    })),
  };
}

/** Half of what a rig reaches across at rest, so that both views lie beside each other. */
function reachOf({ restPose: { positions } }: JointCase['character']): number {
  let most = 0.3;
  for (let i = 0; i < positions.length; i++) if (i % 3 !== 1) most = Math.max(most, Math.abs(positions[i] - positions[i % 3]));
  return most;
}

const SIDE = Float64Array.of(1, 0, 0);
const AHEAD = Float64Array.of(0, 0, 1);

/** Angle between two rotations of one array. */
function quatAngle(q: Float32Array, a: number, b: number): number {
  let dot = 0;
  for (let c = 0; c < 4; c++) dot += q[a + c] * q[b + c];
  return 2 * acos(Math.min(1, Math.abs(dot)));
}

/** The worst frames of figures over their limits; the middle of the take where there are none. */
function picturesOf(figures: readonly Figure[], frames: number, drawn: (frame: number) => Pick<Picture, 'theirs' | 'mine'>): Picture[] {
  const bad = figures.filter(({ mark, frame }) => frame !== undefined && (mark === 'fault' || mark === 'caution'));
  const worst = [...new Map(bad.map(({ frame, name }) => [frame!, name]))].slice(0, MOST_PICTURES);
  const shown: [number, string][] = worst.length > 0 ? worst : [[frames >> 1, 'middle of the take']];
  return shown.map(([frame, figure]) => ({ figure, frame, ...drawn(frame) }));
}

const round = (value: number): number => Math.round(value * 10) / 10;

function heightOf(role: string): (rig: Rig, p: Float64Array) => number {
  return ({ roles }, p) => p[(roles.get(role) ?? 0) * 3 + 1] * 100;
}

function bendOf(top: string, mid: string, end: string): (rig: Rig, p: Float64Array) => number {
  return ({ roles }, p) => {
    const [a, b, c] = [top, mid, end].map((role) => (roles.get(role) ?? 0) * 3);
    let dot = 0;
    let u = 0;
    let w = 0;
    for (let i = 0; i < 3; i++) {
      const [x, y] = [p[b + i] - p[a + i], p[c + i] - p[b + i]];
      dot += x * y;
      u += x * x;
      w += y * y;
    }
    return u * w < 1e-18 ? 0 : acos(dot / Math.sqrt(u * w)) / DEG;
  };
}

/** Bones of labelled joints, front view and side view beside it, about the hips over the floor. */
function bonesOf({ skeleton, roles, left, forward }: Rig, clip: Clip, frame: number): number[] {
  const labelled = new Set(roles.values());
  return linesOf(skeleton, clip, frame, { left, forward, middle: roles.get('hips') ?? 0, gap: 0.6 }, (joint) => labelled.has(joint));
}

/** Bones as lines, seen along two level axes beside each other. */
function linesOf(
  skeleton: Skeleton,
  clip: Clip,
  frame: number,
  { left, forward, middle, gap }: { left: Float64Array; forward: Float64Array; middle: number; gap: number },
  isDrawn: (joint: number) => boolean,
): number[] {
  const { positions } = new ClipReader(skeleton, clip).at(Math.min(frame, clip.frames - 1));
  const out: number[] = [];
  for (const axis of [left, forward]) {
    const across = (joint: number): number =>
      (positions[joint * 3] - positions[middle * 3]) * axis[0] + (positions[joint * 3 + 2] - positions[middle * 3 + 2]) * axis[2];
    for (let j = 0; j < skeleton.parents.length; j++) {
      const parent = skeleton.parents[j];
      if (parent < 0 || !isDrawn(j) || !isDrawn(parent)) continue;
      const aside = axis === left ? -gap : gap;
      for (const joint of [parent, j]) out.push(Math.round((across(joint) + aside) * 1000), Math.round(positions[joint * 3 + 1] * 1000));
    }
  }
  return out;
}
