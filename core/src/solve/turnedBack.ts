import { chain, SIDES } from '../label';
import { between, exp, mul, rotate } from '../math/quat';
import { distance, dot, normalize } from '../math/vec';
import type { Rig } from '../rig';
import type { Pose } from '../skeleton';
import type { Steady } from './steady';

/** The bones of a leg. */
interface Leg {
  readonly top: number;
  readonly mid: number;
  readonly end: number;
  /** The foot and what hangs on it. */
  readonly foot: readonly number[];
}

/** Turns the performer's hips back about the place where the trunk begins: the trunk stays, ankles go as far along as is said, and the legs follow. */
export class TurnedBack {
  /** Joints whose place is needed. */
  readonly joints: readonly number[];
  private readonly hips: number;
  private readonly about: number;
  private readonly legs: readonly Leg[];
  private readonly q = new Float64Array(4);
  private readonly a = new Float64Array(3);
  private readonly b = new Float64Array(3);
  private readonly out = new Float64Array(3);
  /** The bones of the leg at hand, as they lay. */
  private readonly thigh = new Float64Array(3);
  private readonly shin = new Float64Array(3);

  constructor({ roles, skeleton: { parents } }: Pick<Rig, 'roles' | 'skeleton'>) {
    const at = (side: string, part: string): number => roles.get(`${side}.${part}`)!;
    this.hips = roles.get('hips')!;
    this.about = chain(roles, 'spine')[0] ?? this.hips;
    this.legs = SIDES.map((side) => {
      const end = at(side, 'foot');
      const hangs = (j: number): boolean => j >= 0 && (j === end || hangs(parents[j]));
      return { top: at(side, 'upperLeg'), mid: at(side, 'lowerLeg'), end, foot: [...parents.keys()].filter(hangs) };
    });
    this.joints = [this.hips, this.about, ...this.legs.map(({ end }) => end)];
  }

  turn(pose: Pose, { back, along }: Steady, frame: number): void {
    const o = frame * 3;
    if (back[o] === 0 && back[o + 1] === 0 && back[o + 2] === 0) return;
    const { q, hips, legs } = this;
    legs.forEach((leg, i) => this.moveLeg(pose, leg, back, o, along[frame * 2 + i]));
    exp(q, 0, back[o], back[o + 1], back[o + 2]);
    mul(pose.rotations, hips * 4, q, 0, pose.rotations, hips * 4);
    this.turned(pose, hips, q);
  }

  /** Moves a joint about the place where the trunk begins, or by a share of that way. */
  private turned({ positions: P }: Pose, joint: number, q: Float64Array, share = 1): void {
    const { a, about } = this;
    for (let c = 0; c < 3; c++) a[c] = P[joint * 3 + c] - P[about * 3 + c];
    rotate(a, 0, q, 0, a, 0);
    for (let c = 0; c < 3; c++) P[joint * 3 + c] += share * (P[about * 3 + c] + a[c] - P[joint * 3 + c]);
  }

  /** A leg's top goes with the hips, its ankle by a share, and its knee to where both bones keep their lengths, in the plane that it was bent in. */
  private moveLeg(pose: Pose, { top, mid, end, foot }: Leg, back: Float64Array, o: number, share: number): void {
    const { positions: P, rotations: R } = pose;
    const { q, a, b, out, thigh, shin } = this;
    const [upper, lower] = [distance(P, top * 3, P, mid * 3), distance(P, mid * 3, P, end * 3)];
    for (let c = 0; c < 3; c++) {
      thigh[c] = P[mid * 3 + c] - P[top * 3 + c];
      shin[c] = P[end * 3 + c] - P[mid * 3 + c];
    }
    exp(q, 0, back[o], back[o + 1], back[o + 2]);
    this.turned(pose, top, q);
    this.turned(pose, end, q, share);
    for (let c = 0; c < 3; c++) {
      out[c] = P[end * 3 + c] - P[top * 3 + c];
      b[c] = P[mid * 3 + c] - P[top * 3 + c];
    }
    const far = distance(P, end * 3, P, top * 3);
    if (far < 1e-9) return;
    normalize(out, 0);
    const along = (upper * upper - lower * lower + far * far) / (2 * far);
    const aside = Math.sqrt(Math.max(0, upper * upper - along * along));
    const straight = dot(b, 0, out, 0);
    for (let c = 0; c < 3; c++) b[c] -= straight * out[c];
    if (normalize(b, 0) < 1e-9) return;
    for (let c = 0; c < 3; c++) P[mid * 3 + c] = P[top * 3 + c] + along * out[c] + aside * b[c];
    for (const [joint, was, from, to] of [
      [top, thigh, top, mid],
      [mid, shin, mid, end],
    ] as const) {
      for (let c = 0; c < 3; c++) a[c] = P[to * 3 + c] - P[from * 3 + c];
      between(q, 0, was, 0, a, 0);
      mul(R, joint * 4, q, 0, R, joint * 4);
    }
    exp(q, 0, share * back[o], share * back[o + 1], share * back[o + 2]);
    for (const joint of foot) mul(R, joint * 4, q, 0, R, joint * 4);
  }
}
