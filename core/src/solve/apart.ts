import { gaussian } from '../math/filter';
import { fromAxisAngle, mul, rotate } from '../math/quat';
import { length } from '../math/vec';
import type { Rig } from '../rig';
import { addBones, makeLimbTrack, type LimbTrack } from './limbTrack';
import { coverCurve, unbroken } from '../math/leastCurve';
import { square } from '../math/numbers';

/** Share of the skin's thickness that gives way. */
const GIVE = 0.2;
const PARTS = ['upperLeg', 'lowerLeg'] as const;
/** Half the thickness of lean legs, of which no mesh says more, in shares of a leg. */
const LEAN = { upperLeg: 0.07, lowerLeg: 0.05 } as const;
/** How slowly the turns bend that part legs, and the smoothing of the way that they go (standard deviation): seconds. */
const AROUND = 0.12;
const SOFT = 0.15;
/** A leg goes aside by no more than this, radians. */
const MOST = 0.3;
/** Rounds in which legs part. */
const ROUNDS = 4;
/** A place nearer to its own hip than this share of the leg turns it for nothing. */
const NEAR = 0.25;

/**
 * Parts legs that would be in each other: both turn aside about their hip joints, by half each, as far as their skin is thick, or lean legs are; feet
 * keep their turn in the world. Legs that overlap at rest already are let be by as much.
 * @returns the same tracks where none are
 */
export function keepApart(character: Rig, legs: readonly LimbTrack[], frameTime: number): readonly LimbTrack[] {
  const { roles, thickness, restPose, legLength } = character;
  if (legs.length < 2) return legs;
  const radii = legs.map(({ plan: { side } }) =>
    PARTS.map((part) => (1 - GIVE) * (thickness[roles.get(`${side}.${part}`)!] || LEAN[part] * legLength)),
  );
  const { frames } = legs[0];
  const turns = legs.map(() => new Float64Array(frames * 3));
  const bones = [new Float64Array(9), new Float64Array(9)];
  const allowed = new Float64Array(4);
  legs.forEach(({ plan }, k) => {
    const { joints, end } = plan;
    const at = [joints[0], joints[1], joints[end]];
    at.forEach((joint, i) => bones[k].set(restPose.positions.subarray(joint * 3, joint * 3 + 3), i * 3));
    addBones(bones[k], 3, restPose.positions, plan);
  });
  for (let pair = 0; pair < 4; pair++) allowed[pair] = Math.max(0, overlap(bones, radii, pair, contact));
  let any = false;
  for (let f = 0; f < frames; f++) {
    for (let k = 0; k < 2; k++) {
      const { data, stride, at } = legs[k];
      const o = f * stride;
      for (let c = 0; c < 3; c++) {
        bones[k][c] = data[o + at.top + c];
        bones[k][3 + c] = data[o + at.mid + c];
        bones[k][6 + c] = data[o + at.end + c];
      }
    }
    for (let round = 0; round < ROUNDS; round++) {
      let deepest = 0;
      let worst = -1;
      for (let pair = 0; pair < 4; pair++) {
        const depth = overlap(bones, radii, pair, contact) - allowed[pair];
        if (depth <= deepest) continue;
        deepest = depth;
        worst = pair;
      }
      if (worst < 0) break;
      any = true;
      overlap(bones, radii, worst, contact);
      toOwnSide(bones, contact, deepest);
      for (let k = 0; k < 2; k++) {
        part(bones[k], contact, k, deepest / 2);
        for (let c = 0; c < 3; c++) turns[k][f * 3 + c] += axis[c];
      }
    }
  }
  if (!any) return legs;
  return legs.map((leg, k) => turned(leg, inTime(turns[k], frameTime)));
}

/** Turns that come and go without a corner and are nowhere less than what is needed. */
function inTime(turns: Float64Array, frameTime: number): Float64Array {
  const frames = turns.length / 3;
  const need = new Float64Array(frames);
  for (let f = 0; f < frames; f++) need[f] = length(turns, f * 3);
  const size = coverCurve(need, AROUND, unbroken(frames, frameTime)) ?? need;
  const direction = gaussian(turns, 3, SOFT / frameTime);
  for (let f = 0; f < frames; f++) {
    const now = length(direction, f * 3);
    const share = now > 1e-12 ? size[f] / now : 0;
    for (let c = 0; c < 3; c++) direction[f * 3 + c] *= share;
  }
  return direction;
}

/** Where two bones are nearest: the place on each, and the unit way from the second to the first. */
interface Touching {
  readonly on: readonly [Float64Array, Float64Array];
  readonly direction: Float64Array;
}

const contact: Touching = { on: [new Float64Array(3), new Float64Array(3)], direction: new Float64Array(3) };
const axis = new Float64Array(3);
const q = new Float64Array(4);
const arm = new Float64Array(3);

/** How deep two bones' skins are in each other; negative apart. Pairs: thigh and shin of the first with those of the second. */
function overlap(bones: readonly Float64Array[], radii: readonly (readonly number[])[], pair: number, out: Touching): number {
  const i = pair >> 1;
  const j = pair & 1;
  const d = nearest(bones[0], i * 3, bones[1], j * 3, out);
  return radii[0][i] + radii[1][j] - d;
}

/** Nearest places of two segments (Ericson, Real-Time Collision Detection, 5.1.9). @returns their distance */
function nearest(a: Float64Array, ao: number, b: Float64Array, bo: number, { on, direction }: Touching): number {
  let aa = 0;
  let bb = 0;
  let ab = 0;
  let ac = 0;
  let bc = 0;
  for (let c = 0; c < 3; c++) {
    const u = a[ao + 3 + c] - a[ao + c];
    const w = b[bo + 3 + c] - b[bo + c];
    const r = a[ao + c] - b[bo + c];
    aa += u * u;
    bb += w * w;
    ab += u * w;
    ac += u * r;
    bc += w * r;
  }
  const clamp = (v: number): number => Math.max(0, Math.min(1, v));
  const den = aa * bb - ab * ab;
  let s = den > 1e-12 ? clamp((ab * bc - ac * bb) / den) : 0;
  let t = bb > 1e-12 ? (ab * s + bc) / bb : 0;
  if (t < 0 || t > 1) {
    t = clamp(t);
    s = aa > 1e-12 ? clamp((ab * t - ac) / aa) : 0;
  }
  let d = 0;
  for (let c = 0; c < 3; c++) {
    on[0][c] = a[ao + c] + s * (a[ao + 3 + c] - a[ao + c]);
    on[1][c] = b[bo + c] + t * (b[bo + 3 + c] - b[bo + c]);
    direction[c] = on[0][c] - on[1][c];
    d += direction[c] * direction[c];
  }
  d = Math.sqrt(d);
  for (let c = 0; c < 3; c++) direction[c] = d > 1e-9 ? direction[c] / d : 0;
  return d;
}

/** The deeper legs are in each other, the less their own places say which way is out: each goes to the side of its hip. */
function toOwnSide(bones: readonly Float64Array[], { direction, on }: Touching, depth: number): void {
  let size = 0;
  let apart = 0;
  for (let c = 0; c < 3; c++) {
    arm[c] = bones[0][c] - bones[1][c];
    size += arm[c] * arm[c];
    apart += square(on[0][c] - on[1][c]);
  }
  size = Math.sqrt(size) || 1;
  const share = depth / (depth + Math.sqrt(apart));
  let n = 0;
  for (let c = 0; c < 3; c++) {
    direction[c] = (1 - share) * direction[c] + (share * arm[c]) / size;
    n += direction[c] * direction[c];
  }
  n = Math.sqrt(n);
  if (n > 1e-9) for (let c = 0; c < 3; c++) direction[c] /= n;
}

/** Turns one leg's bones about its hip so that the place at which it is touched goes out; `axis` is the rotation vector then. */
function part(bones: Float64Array, { on, direction }: Touching, k: number, by: number): void {
  const sign = k === 0 ? 1 : -1;
  let size = 0;
  let whole = 0;
  for (let c = 0; c < 3; c++) {
    arm[c] = on[k][c] - bones[c];
    size += arm[c] * arm[c];
    whole += square(bones[6 + c] - bones[c]);
  }
  size = Math.max(Math.sqrt(size), NEAR * Math.sqrt(whole));
  axis[0] = sign * (arm[1] * direction[2] - arm[2] * direction[1]);
  axis[1] = sign * (arm[2] * direction[0] - arm[0] * direction[2]);
  axis[2] = sign * (arm[0] * direction[1] - arm[1] * direction[0]);
  const n = Math.sqrt(axis[0] * axis[0] + axis[1] * axis[1] + axis[2] * axis[2]);
  if (n < 1e-9 || size < 1e-9) {
    axis.fill(0);
    return;
  }
  const angle = Math.min(by / size, MOST);
  for (let c = 0; c < 3; c++) axis[c] /= n;
  fromAxisAngle(q, 0, axis[0], axis[1], axis[2], angle);
  for (let o = 3; o <= 6; o += 3) {
    for (let c = 0; c < 3; c++) arm[c] = bones[o + c] - bones[c];
    rotate(arm, 0, q, 0, arm, 0);
    for (let c = 0; c < 3; c++) bones[o + c] = bones[c] + arm[c];
  }
  for (let c = 0; c < 3; c++) axis[c] *= angle;
}

/** A leg's track turned about its hip, frame by frame; foot and toes keep their turn in the world. @param turns rotation vectors */
function turned(leg: LimbTrack, turns: Float64Array): LimbTrack {
  const out = makeLimbTrack(leg.plan, leg.frames);
  const { data, stride, at } = out;
  data.set(leg.data);
  const { joints, end } = leg.plan;
  for (let f = 0; f < leg.frames; f++) {
    const angle = length(turns, f * 3);
    if (angle < 1e-7) continue;
    fromAxisAngle(q, 0, turns[f * 3] / angle, turns[f * 3 + 1] / angle, turns[f * 3 + 2] / angle, Math.min(angle, MOST));
    const o = f * stride;
    for (let i = 0; i < joints.length; i++) {
      const p = o + at.top + i * (at.mid - at.top);
      for (let c = 0; c < 3; c++) arm[c] = data[p + c] - data[o + at.top + c];
      rotate(arm, 0, q, 0, arm, 0);
      for (let c = 0; c < 3; c++) data[p + c] = data[o + at.top + c] + arm[c];
      if (i < end) mul(data, p + 3, q, 0, data, p + 3);
    }
  }
  return out;
}
