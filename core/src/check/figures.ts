import { ClipReader } from '../clip/clip';
import { SIDES, type Role } from '../label/roles';
import { limbSegments, unlikeLegs } from '../match';
import { percentile } from '../math/filter';
import { angleBetween as vectorAngle } from '../math/vec';
import { angleBetween as rotationAngle, invMul, mulInv, twistAngle } from '../math/quat';
import { DEG } from '../math/trig';
import { pointInWorld } from '../skeleton/pose';
import type { Plant, Transfer } from '../solve';
import type { Body, Foot } from '../body';

/** The slide of one plant. */
export interface PlantFigure extends Plant {
  /** Path of the probe over the floor, mm. */
  readonly slide: number;
  /** Mean height of the probe over the floor, mm. */
  readonly height: number;
}

/** The measured quality of a transfer. Lengths in millimetres, angles in degrees; frames count from 0. */
export interface Figures {
  readonly frames: number;
  readonly plants: readonly PlantFigure[];
  readonly slide: { readonly sum: number; readonly worst: number; readonly perSecond: number; readonly worstFrame: number };
  /** Slide over the performer's own slide × stride; NaN when the performer does not slide. */
  readonly slideRatio: number;
  readonly performerSlide: number;
  readonly sink: { readonly worst: number; readonly frame: number };
  readonly float: number;
  readonly likeness: { readonly all: number; readonly arms: number; readonly legs: number };
  readonly pop: { readonly ratio: number; readonly knees: number; readonly elbows: number; readonly frame: number };
  readonly flips: { readonly count: number; readonly first: { readonly joint: string; readonly frame: number } | undefined };
  readonly twist: { readonly worst: number; readonly joint: string; readonly frame: number; readonly over: number };
  readonly reach: { readonly stretched: number; readonly worstMiss: number; readonly deepestDrop: number };
}

/** A turn about a bone beyond this, in degrees, wrings a mesh. */
const TWIST_LIMIT = 120;
const FLIP = 30;
/** Angular accelerations below this, degrees per frame², are the noise of rounding and not a pop. */
const STILL = 0.02;

/**
 * Measures a transfer against the take that it came from. Contacts are the performer's.
 * @param transfer solved, pinned or plain
 */
export function measure(transfer: Transfer): Figures {
  const { pairing, take, clip, contacts, floor } = transfer;
  const { performer, character } = pairing;
  const frames = clip.frames;
  const source = new ClipReader(performer.skeleton, take);
  const result = new ClipReader(character.skeleton, clip);
  const performerFeet = performer.feet.map((foot) => new FootTrace(foot, frames));
  const characterFeet = character.feet.map((foot) => new FootTrace(foot, frames));

  const wholeLegs = unlikeLegs(performer, character);
  const performerSegments = new Map(limbSegments(performer, wholeLegs).map((s) => [s.role, s]));
  const segments = limbSegments(character, wholeLegs).flatMap((c) => {
    const p = performerSegments.get(c.role);
    return p && !/thumb|index|middle|ring|little/.test(c.role) ? [{ c, p, sum: 0 }] : [];
  });
  const bends = SIDES.flatMap((side) => [
    bendOf(performer, character, `${side}.upperArm`, `${side}.lowerArm`, `${side}.hand`, frames, 'elbow'),
    bendOf(
      performer,
      character,
      `${side}.upperLeg`,
      `${side}.lowerLeg`,
      character.roles.has(`${side}.hock`) ? `${side}.hock` : `${side}.foot`,
      frames,
      'knee',
    ),
  ]);
  const turning = linkedJoints(transfer);
  const wrists = twistJoints(character);

  const before = { p: new Float64Array(performer.skeleton.names.length * 4), c: new Float64Array(character.skeleton.names.length * 4) };
  const pd = new Float64Array(3);
  const cd = new Float64Array(3);
  let flips = 0;
  let firstFlip: { joint: string; frame: number } | undefined;
  let twist = { worst: 0, joint: '', frame: 0, over: 0 };
  let sink = { worst: 0, frame: 0 };
  const q = new Float64Array(4);

  for (let f = 0; f < frames; f++) {
    const P = source.at(f);
    const C = result.at(f);
    for (const foot of performerFeet) foot.record(P, f);
    for (const foot of characterFeet) {
      const depth = (floor - foot.record(C, f)) * 1000;
      if (depth > sink.worst) sink = { worst: depth, frame: f };
    }
    for (const s of segments) {
      for (let c = 0; c < 3; c++) {
        pd[c] = P.positions[s.p.end * 3 + c] - P.positions[s.p.joint * 3 + c];
        cd[c] = C.positions[s.c.end * 3 + c] - C.positions[s.c.joint * 3 + c];
      }
      s.sum += vectorAngle(pd, 0, cd, 0);
    }
    for (const bend of bends) bend.record(P.positions, C.positions, f);
    if (f > 0) {
      for (const { joint, source: from } of turning) {
        const c = rotationAngle(before.c, joint * 4, C.rotations, joint * 4);
        if (c < FLIP * DEG) continue;
        if (c - rotationAngle(before.p, from * 4, P.rotations, from * 4) > FLIP * DEG) {
          flips++;
          firstFlip ??= { joint: character.skeleton.names[joint], frame: f };
        }
      }
    }
    before.p.set(P.rotations);
    before.c.set(C.rotations);
    for (const { joint, axis, inParent } of wrists) {
      const o = (f * character.skeleton.names.length + joint) * 4;
      if (inParent) mulInv(q, 0, clip.rotations, o, character.skeleton.restR, joint * 4);
      else invMul(q, 0, character.skeleton.restR, joint * 4, clip.rotations, o);
      const a = Math.abs(twistAngle(q, 0, axis[0], axis[1], axis[2])) / DEG;
      if (a > TWIST_LIMIT) twist.over++;
      if (a > twist.worst) twist = { ...twist, worst: a, joint: character.skeleton.names[joint], frame: f };
    }
  }

  const plants: PlantFigure[] = contacts.plants.map((plant) => {
    const i = character.feet.findIndex((foot) => foot.side === plant.side);
    return { ...plant, ...characterFeet[i].over(plant, floor) };
  });
  const own = contacts.plants.map((plant) => {
    const i = performer.feet.findIndex((foot) => foot.side === plant.side);
    return performerFeet[i].over(plant, contacts.floor).slide;
  });
  const sum = plants.reduce((s, p) => s + p.slide, 0);
  const performerSlide = own.reduce((s, x) => s + x, 0);
  const seconds = plants.reduce((s, p) => s + (p.last - p.first + 1) * clip.frameTime, 0);
  const worst = plants.reduce<PlantFigure | undefined>((w, p) => (w === undefined || p.slide > w.slide ? p : w), undefined);
  const planted = plants.reduce((s, p) => s + p.last - p.first + 1, 0);
  const mean = (list: readonly number[]): number => (list.length === 0 ? 0 : list.reduce((a, b) => a + b, 0) / list.length);
  const likeness = (pattern: RegExp): number =>
    mean(segments.filter((s) => pattern.test(s.c.role)).map((s) => s.sum / Math.max(1, frames) / DEG));
  const pops = (kind: 'knee' | 'elbow' | undefined): number => {
    const of = bends.filter((b) => kind === undefined || b.kind === kind);
    const p = percentile(
      of.flatMap((b) => b.accelerations('p')),
      0.999,
    );
    const c = percentile(
      of.flatMap((b) => b.accelerations('c')),
      0.999,
    );
    return frames < 3 ? 1 : Math.max(c, STILL) / Math.max(p, STILL);
  };
  return {
    frames,
    plants,
    slide: { sum, worst: worst?.slide ?? 0, perSecond: seconds > 0 ? sum / seconds : 0, worstFrame: worst?.first ?? 0 },
    slideRatio: performerSlide > 1e-6 ? sum / (performerSlide * pairing.scale.stride) : NaN,
    performerSlide,
    sink,
    float: planted > 0 ? plants.reduce((s, p) => s + p.height * (p.last - p.first + 1), 0) / planted : 0,
    likeness: { all: likeness(/./), arms: likeness(/upperArm|lowerArm/), legs: likeness(/Leg|hock/) },
    pop: {
      ratio: pops(undefined),
      knees: pops('knee'),
      elbows: pops('elbow'),
      frame: bends.reduce((w, b) => (b.worst().value > w.value ? b.worst() : w), { value: -1, frame: 0 }).frame,
    },
    flips: { count: flips, first: firstFlip },
    twist,
    reach: {
      stretched: transfer.stretched,
      worstMiss: transfer.worstMiss * 1000,
      deepestDrop: Math.max(0, ...chunkMax(transfer.drop)) * 1000,
    },
  };
}

/**
 * Poses every frame of a transfer's result by forward kinematics and does nothing with it: what the cost of a solve is
 * measured against.
 */
export function plainPass({ pairing, clip }: Transfer): void {
  const reader = new ClipReader(pairing.character.skeleton, clip);
  for (let f = 0; f < clip.frames; f++) reader.at(f);
}

/** Maximum by pieces, as an argument list has a limit. */
function chunkMax(values: Float64Array): number[] {
  let max = 0;
  for (const value of values) if (value > max) max = value;
  return [max];
}

/** Probe positions of one foot over time. */
class FootTrace {
  private readonly heel: Float64Array;
  private readonly ball: Float64Array;
  private readonly point = new Float64Array(3);

  constructor(
    private readonly foot: Foot,
    frames: number,
  ) {
    this.heel = new Float64Array(frames * 3);
    this.ball = new Float64Array(frames * 3);
  }

  /** Records a frame and returns the height of the lowest probe. */
  record(pose: Parameters<typeof pointInWorld>[2], f: number): number {
    const { foot, point } = this;
    pointInWorld(this.heel, f * 3, pose, foot.foot, foot.heel, 0);
    pointInWorld(this.ball, f * 3, pose, foot.foot, foot.ball, 0);
    pointInWorld(point, 0, pose, foot.toes >= 0 ? foot.toes : foot.foot, foot.tip, 0);
    return Math.min(this.heel[f * 3 + 1], this.ball[f * 3 + 1], point[1]);
  }

  /** Slide and mean height over a plant, in mm. */
  over(plant: Plant, floor: number): { slide: number; height: number } {
    const p = plant.part === 'heel' ? this.heel : this.ball;
    let slide = 0;
    let height = 0;
    for (let f = plant.first; f <= plant.last; f++) {
      height += p[f * 3 + 1] - floor;
      if (f === plant.first) continue;
      const x = p[f * 3] - p[f * 3 - 3];
      const z = p[f * 3 + 2] - p[f * 3 - 1];
      slide += Math.sqrt(x * x + z * z);
    }
    return { slide: slide * 1000, height: (height / (plant.last - plant.first + 1)) * 1000 };
  }
}

/** The bend of one knee or elbow on both sides of a transfer. */
class Bend {
  private readonly p: Float64Array;
  private readonly c: Float64Array;

  constructor(
    readonly kind: 'knee' | 'elbow',
    private readonly jp: readonly number[],
    private readonly jc: readonly number[],
    frames: number,
  ) {
    this.p = new Float64Array(frames);
    this.c = new Float64Array(frames);
  }

  record(P: Float64Array, C: Float64Array, f: number): void {
    this.p[f] = bendAngle(P, this.jp);
    this.c[f] = bendAngle(C, this.jc);
  }

  /** Sizes of the second differences, degrees per frame². */
  accelerations(which: 'p' | 'c'): number[] {
    const a = this[which];
    const out: number[] = [];
    for (let f = 1; f < a.length - 1; f++) out.push(Math.abs(a[f + 1] - 2 * a[f] + a[f - 1]));
    return out;
  }

  worst(): { value: number; frame: number } {
    const list = this.accelerations('c');
    let frame = 0;
    list.forEach((v, i) => {
      if (v > list[frame]) frame = i;
    });
    return { value: list[frame] ?? 0, frame: frame + 1 };
  }
}

const U = new Float64Array(3);
const W = new Float64Array(3);

function bendAngle(p: Float64Array, [top, mid, end]: readonly number[]): number {
  for (let c = 0; c < 3; c++) {
    U[c] = p[mid * 3 + c] - p[top * 3 + c];
    W[c] = p[end * 3 + c] - p[mid * 3 + c];
  }
  return vectorAngle(U, 0, W, 0) / DEG;
}

function bendOf(performer: Body, character: Body, a: Role, b: Role, c: Role, frames: number, kind: 'knee' | 'elbow'): Bend {
  const of = (body: Body): number[] => [a, b, body.roles.has(c) ? c : c.replace('hock', 'foot')].map((role) => body.roles.get(role)!);
  return new Bend(kind, of(performer), of(character), frames);
}

function linkedJoints({ pairing }: Transfer): { joint: number; source: number }[] {
  return pairing.links.map(({ joint, a, b, t }) => ({ joint, source: t > 0.5 ? b : a }));
}

interface Wrist {
  readonly joint: number;
  /** Unit axis of the bone: in the joint's own frame, or, for a hand or foot, in the frame of the bone that carries it. */
  readonly axis: Float64Array;
  readonly inParent: boolean;
}

/** Joints whose turn about a bone is watched: each limb joint about its own bone, hands and feet about the one before. */
function twistJoints({ roles, skeleton }: Body): Wrist[] {
  const out: Wrist[] = [];
  const add = (joint: number | undefined, end: number | undefined, isEnd: boolean): void => {
    if (joint === undefined || end === undefined) return;
    const axis = skeleton.restT.slice(end * 3, end * 3 + 3);
    const n = Math.sqrt(axis[0] ** 2 + axis[1] ** 2 + axis[2] ** 2);
    if (n < 1e-6) return;
    for (let c = 0; c < 3; c++) axis[c] /= n;
    out.push({ joint, axis, inParent: false });
    if (isEnd && skeleton.parents[end] === joint) out.push({ joint: end, axis, inParent: true });
  };
  for (const side of SIDES) {
    add(roles.get(`${side}.upperArm`), roles.get(`${side}.lowerArm`), false);
    add(roles.get(`${side}.lowerArm`), roles.get(`${side}.hand`), true);
    add(roles.get(`${side}.upperLeg`), roles.get(`${side}.lowerLeg`), false);
    add(roles.get(`${side}.lowerLeg`), roles.get(`${side}.foot`), true);
  }
  return out;
}
