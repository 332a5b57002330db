import { between, mul, normalize, rotate } from '../math/quat';
import { distance } from '../math/vec';
import type { Foot } from '../rig';
import type { LimbTrack } from './limbTrack';

/** How a foot's sole lies over time, as it is copied, and its means over spans of frames, both ends included. */
export class SoleTrack {
  /** Way from heel to ball, 3 per frame. */
  private readonly ways: Float64Array;
  private readonly span: number;
  private readonly sole: Float64Array;

  constructor(
    private readonly leg: LimbTrack,
    private readonly foot: Foot,
  ) {
    const { data, stride, at, frames } = leg;
    this.sole = foot.ball.map((v, c) => v - foot.heel[c]);
    this.span = distance(foot.ball, 0, foot.heel, 0);
    this.ways = new Float64Array(frames * 3);
    for (let f = 0; f < frames; f++) rotate(this.ways, f * 3, data, f * stride + at.endQ, this.sole, 0);
  }

  /** How it rises over its length. */
  rise(first: number, last: number): number {
    let y = 0;
    for (let f = first; f <= last; f++) y += this.ways[f * 3 + 1] / this.span;
    return y / (last - first + 1);
  }

  /** Its heading over the floor, unit. */
  heading(first: number, last: number): readonly [x: number, z: number] {
    let [x, z] = [0, 0];
    for (let o = first * 3; o <= last * 3; o += 3) {
      const [hx, hz] = [this.ways[o], this.ways[o + 2]];
      const n = Math.sqrt(hx * hx + hz * hz) || 1;
      x += hx / n;
      z += hz / n;
    }
    const n = Math.sqrt(x * x + z * z);
    return n < 1e-9 ? [this.foot.heading[0], this.foot.heading[2]] : [x / n, z / n];
  }

  /** The foot's rotation, its sole along a unit way. */
  turn(first: number, last: number, direction: Float64Array): Float64Array {
    const { leg, sole, ways } = this;
    const mean = new Float64Array(4);
    const q = new Float64Array(4);
    const way = new Float64Array(3);
    for (let f = first; f <= last; f++) {
      between(q, 0, ways, f * 3, direction, 0);
      mul(q, 0, q, 0, leg.data, f * leg.stride + leg.at.endQ);
      const sign = q[0] * mean[0] + q[1] * mean[1] + q[2] * mean[2] + q[3] * mean[3] < 0 ? -1 : 1;
      for (let c = 0; c < 4; c++) mean[c] += sign * q[c];
    }
    normalize(mean, 0);
    rotate(way, 0, mean, 0, sole, 0);
    between(q, 0, way, 0, direction, 0);
    mul(mean, 0, q, 0, mean, 0);
    return mean;
  }
}
