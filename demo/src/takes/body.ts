import { gaussian, random, type Random } from '@hollow-stride/core';
import { footAt, FOOT, kneeOf, type FootState, type Step } from '../gait';
import { performerRig, Performance } from '../performer';
import { apply, arcBetween, compose, frameTurn, turn, type Turn } from '../turns';
import { add, cross, scale, sub, type V3 } from '../vectors';

const RIG = performerRig();
const joint = (name: string): V3 => RIG.joints[RIG.index.get(name)!].at;
const bone = (a: string, b: string): V3 => sub(joint(b), joint(a));
const UPPER_LEG = Math.hypot(...bone('femur_l', 'tibia_l'));
const UPPER_ARM = Math.hypot(...bone('humerus_l', 'radius_l'));
const LOWER_ARM = Math.hypot(...bone('radius_l', 'wrist_l'));
const LOWER_LEG = Math.hypot(...bone('tibia_l', 'ankle_l'));

/** A take's pose at a moment; degrees. */
export interface Moment {
  readonly pelvisYaw: number;
  readonly pelvisList: number;
  readonly pelvisTilt: number;
  /** Bend, side bend and turn of the whole spine over the pelvis, shared by its joints. */
  readonly spine: { readonly bend: number; readonly side: number; readonly turn: number };
  readonly head: { readonly nod: number; readonly turn: number };
  readonly arms: Readonly<Record<'l' | 'r', ArmMoment | ArmReach>>;
  /** Both knees outwards from ahead; none by default. */
  readonly splay?: number;
}

/** An arm that reaches for a place: the wrist in the world, and the way the elbow points. */
export interface ArmReach {
  readonly wrist: V3;
  readonly elbow: V3;
  /** The way that the fingers point, and how far the hand is bent that way: 0 goes on along the fore arm. */
  readonly hand?: { readonly along: V3; readonly share: number };
}

export interface ArmMoment {
  /** Down from level, forward of the side, bend of the elbow, turn of the fore arm. */
  readonly down: number;
  readonly forward: number;
  readonly elbow: number;
  readonly roll: number;
}

/** Builds a performance from footprints and a description of the upper body. */
export function perform(options: {
  fps: number;
  seconds: number;
  steps: readonly Step[];
  sway: number;
  moment: (t: number, feet: Readonly<Record<'l' | 'r', FootState>>) => Moment;
  /** Hips place over the support, metres, beside what the steps give. */
  lean?: (t: number) => V3;
  /** How high feet are lifted between steps, metres. */
  clearance?: number;
}): Performance {
  const { fps, seconds, steps, moment, lean } = options;
  const frames = Math.round(seconds * fps);
  const left = steps.filter((s) => s.side === 'l');
  const right = steps.filter((s) => s.side === 'r');
  const feet = Array.from({ length: frames }, (_, f) => ({
    l: footAt(left, f / fps, options.clearance),
    r: footAt(right, f / fps, options.clearance),
  }));
  const support = supportPath(feet, options.sway, fps);
  const heights = hipHeights(feet, support, fps);
  const performance = new Performance(RIG, fps);
  feet.forEach((state, f) => {
    const t = f / fps;
    const m = moment(t, state);
    const extra = lean?.(t) ?? [0, 0, 0];
    const place: V3 = [
      support[f * 2] + extra[0],
      heights[f] + (joint('pelvis')[1] - joint('femur_l')[1]) + extra[1],
      support[f * 2 + 1] + extra[2],
    ];
    performance.add(place, pose(place, m, state));
  });
  return performance;
}

/** The middle of the body over the floor: between the feet, drawn to the one that bears weight, smooth. */
function supportPath(feet: readonly Readonly<Record<'l' | 'r', FootState>>[], sway: number, fps: number): Float64Array {
  const path = new Float64Array(feet.length * 2);
  feet.forEach(({ l, r }, f) => {
    const wl = 0.5 + sway * (l.weight - r.weight);
    path[f * 2] = wl * l.ankle[0] + (1 - wl) * r.ankle[0];
    path[f * 2 + 1] = (l.ankle[2] + r.ankle[2]) / 2 + 0.03;
  });
  return gaussian(gaussian(path, 2, 0.1 * fps), 2, 0.06 * fps);
}

/** Hip joint heights: as high as the standing legs allow, a little bent, smooth: an inverted pendulum. */
function hipHeights(feet: readonly Readonly<Record<'l' | 'r', FootState>>[], support: Float64Array, fps: number): Float64Array {
  const reach = 0.99 * (UPPER_LEG + LOWER_LEG);
  const high = new Float64Array(feet.length);
  feet.forEach((state, f) => {
    let y = 0.985 * (UPPER_LEG + LOWER_LEG) + FOOT.ankle + Math.min(state.l.ground, state.r.ground);
    for (const side of ['l', 'r'] as const) {
      const { ankle } = state[side];
      const s = side === 'l' ? 1 : -1;
      const dx = support[f * 2] + s * 0.092 - ankle[0];
      const dz = support[f * 2 + 1] - ankle[2];
      y = Math.min(y, ankle[1] + Math.sqrt(Math.max(0.01, reach * reach - dx * dx - dz * dz)));
    }
    high[f] = y;
  });
  const low = gaussian(high, 1, 0.045 * fps);
  return gaussian(
    low.map((y, f) => Math.min(y, high[f]) - 0.004),
    1,
    0.03 * fps,
  );
}

/** World turns of all joints for hips in a place. */
export function pose(place: V3, m: Moment, feet: Readonly<Record<'l' | 'r', FootState>>): Map<string, Turn> {
  const world = new Map<string, Turn>();
  const pelvis = compose(turn('y', m.pelvisYaw), turn('z', m.pelvisList), turn('x', m.pelvisTilt));
  world.set('pelvis', pelvis);
  const spine = (share: number): Turn =>
    compose(pelvis, turn('y', m.spine.turn * share), turn('z', m.spine.side * share), turn('x', m.spine.bend * share));
  world.set('lumbar', spine(0.45));
  const thorax = spine(1);
  world.set('thorax', thorax);
  world.set('neck', compose(thorax, turn('x', m.head.nod * 0.4), turn('y', m.head.turn * 0.4)));
  world.set('skull', compose(thorax, turn('x', m.head.nod), turn('y', m.head.turn)));
  for (const side of ['l', 'r'] as const) {
    const arm = m.arms[side];
    if ('wrist' in arm) reach(side, arm);
    else swing(side, arm);
    leg(side);
  }
  return world;

  function swing(side: 'l' | 'r', arm: ArmMoment): void {
    const s = side === 'l' ? 1 : -1;
    const collar = compose(thorax, turn('z', -s * 0.06 * arm.down), turn('y', -s * 0.08 * arm.forward));
    world.set(`collar_${side}`, collar);
    // From level at the side: down about the front axis, then forward about the side axis.
    const humerus = compose(thorax, turn('x', -arm.forward), turn('z', -s * arm.down), turn('x', arm.roll * 0.3));
    world.set(`humerus_${side}`, humerus);
    const radius = compose(humerus, turn('y', -s * arm.elbow), turn('x', arm.roll * 0.7));
    world.set(`radius_${side}`, radius);
    world.set(`wrist_${side}`, radius);
  }

  /** Bends the arm so that its wrist comes to a place, or as near as it can. */
  function reach(side: 'l' | 'r', { wrist, elbow, hand }: ArmReach): void {
    const s = side === 'l' ? 1 : -1;
    world.set(`collar_${side}`, thorax);
    const lumbar = world.get('lumbar')!;
    // Down the chain from the pelvis to the shoulder.
    const chest = add(add(place, apply(pelvis, bone('pelvis', 'lumbar'))), apply(lumbar, bone('lumbar', 'thorax')));
    const shoulder = add(chest, apply(thorax, add(bone('thorax', `collar_${side}`), bone(`collar_${side}`, `humerus_${side}`))));
    const way = sub(wrist, shoulder);
    const far = Math.hypot(...way);
    const most = 0.995 * (UPPER_ARM + LOWER_ARM);
    const end = far > most ? add(shoulder, scale(way, most / far)) : wrist;
    const bend = kneeOf(shoulder, end, UPPER_ARM, LOWER_ARM, elbow);
    // The bend's axis keeps both arm bones in one plane: across the body for a level arm that bends ahead.
    const across = cross(sub(bend, shoulder), sub(end, bend));
    const axis: V3 = Math.hypot(...across) < 1e-6 ? [0, -s, 0] : across;
    world.set(`humerus_${side}`, frameTurn(bone(`humerus_${side}`, `radius_${side}`), [0, -s, 0], sub(bend, shoulder), axis));
    const radius = frameTurn(bone(`radius_${side}`, `wrist_${side}`), [0, -s, 0], sub(end, bend), axis);
    world.set(`radius_${side}`, radius);
    const straight = apply(radius, [s, 0, 0]);
    const along = hand && add(scale(straight, 1 - hand.share), scale(hand.along, hand.share));
    world.set(`wrist_${side}`, along ? compose(arcBetween(straight, along), radius) : radius);
  }

  function leg(side: 'l' | 'r'): void {
    const hip = add(place, apply(pelvis, sub(joint(`femur_${side}`), joint('pelvis'))));
    const foot = feet[side];
    const own = compose(turn('z', foot.over ?? 0), turn('y', foot.heading * 0.7 + m.pelvisYaw * 0.3));
    // A knee goes where a hinge across the body takes it: ahead under a body that stands, up before one that sits.
    const way = sub(foot.ankle, hip);
    const ahead = cross(way, apply(own, [1, 0, 0]));
    const out = ((side === 'l' ? 1 : -1) * (m.splay ?? 0) * Math.PI) / 180;
    const faces = add(scale(ahead, Math.cos(out)), scale(cross(ahead, way), Math.sin(out) / Math.hypot(...way)));
    const knee = kneeOf(hip, foot.ankle, UPPER_LEG, LOWER_LEG, faces);
    const across = cross(faces, way);
    world.set(`femur_${side}`, frameTurn(bone(`femur_${side}`, `tibia_${side}`), [1, 0, 0], sub(knee, hip), across));
    world.set(`tibia_${side}`, frameTurn(bone(`tibia_${side}`, `ankle_${side}`), [1, 0, 0], sub(foot.ankle, knee), across));
    // The rest foot points a few degrees outwards already.
    const restHeading =
      (Math.atan2(...([bone(`ankle_${side}`, `ball_${side}`)[0], bone(`ankle_${side}`, `ball_${side}`)[2]] as const)) * 180) / Math.PI;
    const yaw = compose(turn('z', (foot.over ?? 0) * (1 - foot.weight)), turn('y', foot.heading - restHeading));
    world.set(`ankle_${side}`, compose(yaw, turn('x', -foot.pitch)));
    world.set(`ball_${side}`, compose(yaw, turn('x', -foot.pitch - foot.toes)));
  }
}

/** A T-pose over the place where the take begins, for the leading frames of a capture. */
function tPose(): Map<string, Turn> {
  return new Map(RIG.joints.map(({ name }) => [name, turn('y', 0)]));
}

/** Faults that real captures have. */
export interface Faults {
  readonly seed: number;
  /** Degrees and metres of sensor noise. */
  readonly jitter: number;
  readonly shake: number;
  /** Frames of rest pose put before the take. */
  readonly leadIn: number;
  readonly floor: number;
  /** Degrees by which the heading has drifted at the end. */
  readonly drift: number;
  /** A span in which the system lost the performer and repeated the last frame. */
  readonly dropout?: { readonly at: number; readonly frames: number };
  /** Single frames in which one joint was read wrong. */
  readonly spikes?: readonly { readonly at: number; readonly joint: string; readonly degrees: number }[];
}

/** Lays the faults of a capture over a clean performance. */
export function capture(clean: Performance, faults: Faults): Performance {
  const { rig, fps } = clean;
  const out = new Performance(rig, fps);
  const noise = random(faults.seed);
  const frames = clean.places.length;
  const joints = rig.joints.length;
  const wobble = series(noise, frames, joints * 3, 0.012 * fps, faults.jitter);
  const slow = series(noise, frames, joints * 3, 0.25 * fps, faults.jitter * 2);
  const shake = series(noise, frames, 3, 0.012 * fps, faults.shake);
  const start = clean.places[0];
  for (let f = 0; f < faults.leadIn; f++) {
    out.add([start[0], joint('pelvis')[1] + faults.floor, start[2] - 0.03], tPose());
  }
  for (let f = 0; f < frames; f++) {
    const from = faults.dropout && f >= faults.dropout.at && f < faults.dropout.at + faults.dropout.frames ? faults.dropout.at : f;
    const world = new Map<string, Turn>();
    const yaw = turn('y', (faults.drift * from) / Math.max(1, frames - 1));
    rig.joints.forEach(({ name }, j) => {
      const own = Float64Array.from(clean.rotations[from].subarray(j * 4, j * 4 + 4));
      const o = from * joints * 3 + j * 3;
      const spike = faults.spikes?.find(({ at, joint: hit }) => at === f && hit === name);
      world.set(
        name,
        compose(
          yaw,
          own,
          turn('x', wobble[o] + slow[o]),
          turn('y', wobble[o + 1] + slow[o + 1]),
          turn('z', wobble[o + 2] + slow[o + 2] + (spike?.degrees ?? 0)),
        ),
      );
    });
    const p = add(apply(yaw, sub(clean.places[from], start)), start);
    out.add(add(add(p, [0, faults.floor, 0]), [shake[from * 3], shake[from * 3 + 1], shake[from * 3 + 2]] as V3), world);
  }
  return out;
}

/** Smoothed noise of unit deviation times `size`. */
function series(noise: Random, frames: number, stride: number, sigma: number, size: number): Float64Array {
  const raw = Float64Array.from({ length: frames * stride }, () => noise.normal());
  const smooth = gaussian(raw, stride, sigma);
  // Smoothing shrinks noise by about sqrt(2·σ·√π).
  const gain = sigma < 0.3 ? 1 : Math.sqrt(2 * sigma * Math.sqrt(Math.PI));
  return smooth.map((v) => v * gain * size);
}

export const ease = (t: number, from: number, to: number): number => {
  const u = Math.min(1, Math.max(0, (t - from) / (to - from)));
  return u * u * u * (u * (6 * u - 15) + 10);
};

export { RIG };
