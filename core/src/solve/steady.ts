/** Single frames in which the performer's hips are turned elsewhere than before and behind: a marker that jumped, and no motion. */
import { ClipReader, type Clip } from '../clip';
import { chain, SIDES, type RoleMap } from '../label';
import { median } from '../math/filter';
import type { Pairing } from '../match';
import { exp, rotate } from '../math/quat';
import { forwardTurns, withAncestors, type Skeleton } from '../skeleton';

/** A frame is held against those before and behind it, seconds: so long hips, which carry the whole weight, turn along a parabola. */
const AROUND = 0.06;
/** Frames on each side without which nothing is said of a frame. */
const LEAST = 2;
/** Rounds in which frames that are off the parabola lose their say in it. */
const ROUNDS = 3;
/** What is off by more than so many times the usual has none: of Cleveland's weights. */
const OFF = 6;
/** A frame that has lost less of its say than this is left as it is. */
const HEARD = 0.1;
/** Share of their say that the frames before, and those behind, must have kept. */
const AGREED = 0.6;
/** Turns that are off by less are noise that nobody sees, radians: a fifth of a degree. */
const NOISE = 0.0035;

/** How the hips are to be turned back. */
export interface Steady {
  /** Rotation vectors in the world, 3 per frame; zero where hips are as the frames around them say. */
  readonly back: Float64Array;
  /** How far each ankle goes along, left first, 2 per frame: 0 where it is where its own way has it, 1 where it was turned away with the hips. */
  readonly along: Float64Array;
}

/**
 * How the hips are to be turned back in frames that are off.
 * Robust local regression (Cleveland 1979): a parabola through the frames around each, by tricube weights and by bisquare weights of how far each is off
 * it; a frame is turned back by the share of its say that it has lost.
 */
export function steadyHips({ performer: { skeleton, roles }, same }: Pairing, take: Clip): Steady {
  const { frames, rotations } = take;
  const out = new Float64Array(frames * 3);
  const steady = { back: out, along: new Float64Array(frames * 2) };
  const hips = roles.get('hips');
  const around = Math.max(LEAST, Math.round(AROUND / take.frameTime));
  // The performer's own body comes back as it was recorded.
  if (hips === undefined || same.same || frames < 2 * LEAST + 1) return steady;
  const joints = skeleton.parents.length;
  const above = withAncestors(skeleton.parents, [hips]);
  const world = new Float64Array(joints * 4);
  const turns = new Float64Array(frames * 4);
  for (let f = 0; f < frames; f++) {
    forwardTurns(world, skeleton.parents, rotations, f * joints * 4, above);
    for (let c = 0; c < 4; c++) turns[f * 4 + c] = world[hips * 4 + c];
  }
  const fit = new Parabola(2 * around + 1);
  for (let f = LEAST; f + LEAST < frames; f++) fit.at(turns, f, Math.max(0, f - around), Math.min(frames - 1, f + around), out);
  goAlong(steady, skeleton, roles, take);
  return steady;
}

/**
 * How far ankles go along: by as much as brings each nearest to its way from the frame before to the one behind that are not turned back. Some recorders
 * find legs from the hips, and some from the feet.
 */
function goAlong({ back, along }: Steady, skeleton: Skeleton, roles: RoleMap, take: Clip): void {
  const isBack = (f: number): boolean => back[f * 3] !== 0 || back[f * 3 + 1] !== 0 || back[f * 3 + 2] !== 0;
  const ankles = SIDES.map((side) => roles.get(`${side}.foot`)!);
  const about = chain(roles, 'spine')[0] ?? roles.get('hips')!;
  const reader = new ClipReader(skeleton, take, withAncestors(skeleton.parents, [...ankles, about]));
  const [before, now, turned] = [new Float64Array(6), new Float64Array(6), new Float64Array(3)];
  const q = new Float64Array(4);
  const read = (out: Float64Array, f: number): void => {
    const { positions } = reader.at(f);
    ankles.forEach((joint, i) => {
      for (let c = 0; c < 3; c++) out[i * 3 + c] = positions[joint * 3 + c];
    });
  };
  for (let f = 1; f + 1 < take.frames; f++) {
    if (!isBack(f)) continue;
    let [first, last] = [f - 1, f + 1];
    while (first > 0 && isBack(first)) first--;
    while (last + 1 < take.frames && isBack(last)) last++;
    read(before, first);
    read(now, f);
    exp(q, 0, back[f * 3], back[f * 3 + 1], back[f * 3 + 2]);
    const pivot = Array.from(reader.pose.positions.subarray(about * 3, about * 3 + 3));
    const { positions } = reader.at(last);
    const t = (f - first) / (last - first);
    ankles.forEach((joint, i) => {
      for (let c = 0; c < 3; c++) turned[c] = now[i * 3 + c] - pivot[c];
      rotate(turned, 0, q, 0, turned, 0);
      let [gain, size] = [0, 0];
      for (let c = 0; c < 3; c++) {
        const way = turned[c] + pivot[c] - now[i * 3 + c];
        const off = before[i * 3 + c] + t * (positions[joint * 3 + c] - before[i * 3 + c]) - now[i * 3 + c];
        gain += way * off;
        size += way * way;
      }
      along[f * 2 + i] = size > 0 ? Math.max(0, Math.min(1, gain / size)) : 0;
    });
  }
}

/** The parabola about one frame, found again and again without new memory. */
class Parabola {
  private readonly vectors: Float64Array;
  private readonly near: Float64Array;
  private readonly say: Float64Array;
  private readonly off: Float64Array;
  private readonly sorted: Float64Array;
  /** The parabola's value at the frame itself. */
  private readonly middle = new Float64Array(3);

  constructor(most: number) {
    this.vectors = new Float64Array(most * 3);
    this.near = new Float64Array(most);
    this.say = new Float64Array(most);
    this.off = new Float64Array(most);
    this.sorted = new Float64Array(most);
  }

  /** Writes how a frame is to be turned back. @param turns world turns, 4 per frame */
  at(turns: Float64Array, frame: number, first: number, last: number, out: Float64Array): void {
    const { vectors, near, say } = this;
    const count = last - first + 1;
    const reach = Math.max(frame - first, last - frame) + 1;
    for (let i = 0; i < count; i++) {
      between(vectors, i * 3, turns, (first + i) * 4, frame * 4);
      const way = Math.abs(first + i - frame) / reach;
      const room = 1 - way * way * way;
      near[i] = room * room * room;
      say[i] = 1;
    }
    const own = frame - first;
    // Where even neighbours say the same there is nothing to find.
    if (this.isEven(own)) return;
    for (let round = 0; round < ROUNDS; round++) {
      this.fit(count, own);
      const usual = Math.max(NOISE, this.usual(count));
      for (let i = 0; i < count; i++) {
        const by = this.off[i] / (OFF * usual);
        say[i] = by < 1 ? (1 - by * by) * (1 - by * by) : 0;
      }
    }
    // Where one side says nothing the hips turn for good there, and do not come back.
    if (this.agreed(0, own) < AGREED || this.agreed(own + 1, count) < AGREED) return;
    const lost = 1 - say[own];
    if (lost < HEARD) return;
    for (let c = 0; c < 3; c++) out[frame * 3 + c] = lost * this.middle[c];
  }

  /** Share of their weight that frames have kept. */
  private agreed(first: number, until: number): number {
    let [all, kept] = [0, 0];
    for (let i = first; i < until; i++) {
      all += this.near[i];
      kept += this.near[i] * this.say[i];
    }
    return kept / all;
  }

  private isEven(own: number): boolean {
    const { vectors } = this;
    let bend = 0;
    for (let c = 0; c < 3; c++) {
      const by = vectors[(own - 1) * 3 + c] + vectors[(own + 1) * 3 + c];
      bend += by * by;
    }
    return bend < 4 * NOISE * NOISE;
  }

  /** Least squares of a parabola in time, by Cramer's rule, and how far each frame is off it. */
  private fit(count: number, own: number): void {
    const { vectors, near, say, off, middle } = this;
    let [s0, s1, s2, s3, s4] = [0, 0, 0, 0, 0];
    for (let i = 0; i < count; i++) {
      const w = near[i] * say[i];
      const t = i - own;
      s0 += w;
      s1 += w * t;
      s2 += w * t * t;
      s3 += w * t * t * t;
      s4 += w * t * t * t * t;
    }
    const [a, b, c] = [s2 * s4 - s3 * s3, s2 * s3 - s1 * s4, s1 * s3 - s2 * s2];
    const [d, e, g] = [s0 * s4 - s2 * s2, s1 * s2 - s0 * s3, s0 * s2 - s1 * s1];
    const whole = s0 * a + s1 * b + s2 * c;
    off.fill(0, 0, count);
    for (let k = 0; k < 3; k++) {
      let [y0, y1, y2] = [0, 0, 0];
      for (let i = 0; i < count; i++) {
        const w = near[i] * say[i] * vectors[i * 3 + k];
        const t = i - own;
        y0 += w;
        y1 += w * t;
        y2 += w * t * t;
      }
      const [p, q, r] = [(a * y0 + b * y1 + c * y2) / whole, (b * y0 + d * y1 + e * y2) / whole, (c * y0 + e * y1 + g * y2) / whole];
      middle[k] = p;
      for (let i = 0; i < count; i++) {
        const t = i - own;
        const by = vectors[i * 3 + k] - p - q * t - r * t * t;
        off[i] += by * by;
      }
    }
    for (let i = 0; i < count; i++) off[i] = Math.sqrt(off[i]);
  }

  private usual(count: number): number {
    const { sorted, off } = this;
    for (let i = 0; i < count; i++) sorted[i] = off[i];
    return median(count === sorted.length ? sorted : sorted.subarray(0, count));
  }
}

/** The turn from one frame to another as a rotation vector: of small turns, twice the vector part. */
function between(out: Float64Array, o: number, q: Float64Array, a: number, b: number): void {
  const [x, y, z, w] = [q[a], q[a + 1], q[a + 2], q[a + 3]];
  const [u, v, s, t] = [q[b], q[b + 1], q[b + 2], q[b + 3]];
  const twice = x * u + y * v + z * s + w * t < 0 ? -2 : 2;
  out[o] = twice * (t * x - w * u - (y * s - z * v));
  out[o + 1] = twice * (t * y - w * v - (z * u - x * s));
  out[o + 2] = twice * (t * z - w * s - (x * v - y * u));
}
