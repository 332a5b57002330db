import { FiveBand } from './fiveBand';

/** What curves over time are measured by. */
export interface Time {
  readonly frameTime: number;
  /** 1 in frames to which the take jumps: no curve is bent there. */
  readonly breaks: Uint8Array;
}

/** A take without jumps. */
export function unbroken(frames: number, frameTime: number): Time {
  return { frameTime, breaks: new Uint8Array(frames) };
}

/** Second difference: what a bend of a curve is measured by. */
export const BEND = Float64Array.of(1, -2, 1);

/**
 * How a frame goes into the squares of all second differences together with itself and with each of the two after it, 3 per frame.
 * @param breaks 1 in frames to which the take jumps; undefined for none
 * @param weights of the second difference about each frame; undefined for 1
 */
export function bendsOf(frames: number, breaks?: Uint8Array, weights?: Float64Array): Float64Array {
  const out = new Float64Array(frames * 3);
  for (let f = 1; f + 1 < frames; f++) {
    if (breaks && (breaks[f] || breaks[f + 1])) continue;
    const weight = weights ? weights[f] : 1;
    for (let n = 0; n < 3; n++) for (let d = 0; n + d < 3; d++) out[(f - 1 + n) * 3 + d] += weight * BEND[n] * BEND[n + d];
  }
  return out;
}

/** τ⁴ by the frame: weight of a second difference beside the value itself. */
export function stiffnessOf(tau: number, frameTime: number): number {
  const frames = tau / frameTime;
  return frames * frames * frames * frames;
}

/**
 * Fills a curve between given values, in place: least Σ |v|² + τ⁴ |v″|², the given values equal. A correction so dies out within some
 * τ where nothing asks for it, without a corner, and goes over from one given stretch to the next.
 * @param values frames × stride
 * @param given 1 in frames whose values stand
 * @param tau seconds
 */
export function fillCurve(values: Float64Array, stride: number, given: Uint8Array, tau: number, { frameTime, breaks }: Time): void {
  const frames = given.length;
  const band = new FiveBand(frames);
  const rights = Array.from({ length: stride }, () => new Float64Array(frames));
  band.begin(stiffnessOf(tau, frameTime), breaks);
  for (let c = 0; c < stride; c++) band.rightOf(values, c, stride, given, rights[c]);
  band.factor(given);
  for (let c = 0; c < stride; c++) {
    const right = rights[c];
    band.solve(right);
    for (let f = 0; f < frames; f++) values[f * stride + c] = right[f];
  }
}

/** An active set that does not settle in so many rounds is taken as it is; most settle in five or six. */
const MOST_ROUNDS = 20;
/** So many τ from what it clears a covering curve is as good as zero: e to the power of −12 / √2. */
const AROUND = 12;

/**
 * The least curve that nowhere lies under given bounds: least Σ v² + τ⁴ v″² with v ≥ bounds, so that it comes to what it has to clear and leaves it
 * along it, and does nothing more. Found by the primal-dual active set method (Hintermüller, Ito and Kunisch 2002).
 * @param bounds one a frame; −∞ where there is none
 * @param tau seconds
 * @param none 1 in frames in which the curve is 0 and stays so
 * @returns undefined where the bounds ask for nothing
 */
export function coverCurve(bounds: Float64Array, tau: number, { frameTime, breaks }: Time, none?: Uint8Array): Float64Array | undefined {
  const frames = bounds.length;
  const around = Math.ceil((AROUND * tau) / frameTime);
  let out: Float64Array | undefined;
  for (let f = 0; f < frames; f++) {
    if (!(bounds[f] > 0)) continue;
    const first = Math.max(0, f - around);
    let last = f;
    for (let i = f; i < Math.min(frames, last + 2 * around + 1); i++) if (bounds[i] > 0) last = i;
    f = last;
    last = Math.min(frames - 1, last + around);
    out ??= new Float64Array(frames);
    coverStretch(out.subarray(first, last + 1), bounds.subarray(first, last + 1), {
      stiffness: stiffnessOf(tau, frameTime),
      breaks: breaks.subarray(first, last + 1),
      none: none?.subarray(first, last + 1),
    });
  }
  return out;
}

interface Stretch {
  readonly stiffness: number;
  readonly breaks: Uint8Array;
  readonly none: Uint8Array | undefined;
}

/** Writes the covering curve of a stretch of frames, beyond which it is as good as zero. */
function coverStretch(out: Float64Array, bounds: Float64Array, { stiffness, breaks, none }: Stretch): void {
  const frames = bounds.length;
  const band = new FiveBand(frames);
  const touching = Uint8Array.from(bounds, (bound, f) => (bound > 0 || none?.[f] ? 1 : 0));
  const given = none ? bounds.map((bound, f) => (none[f] ? 0 : bound)) : bounds;
  // Of frame f at f + 1, and nothing before the first and behind the last.
  const bend = new Float64Array(frames + 2);
  for (let round = 0; round < MOST_ROUNDS; round++) {
    band.begin(stiffness, breaks);
    band.rightOf(given, 0, 1, touching, out);
    band.factor(touching);
    band.solve(out);
    for (let f = 1; f + 1 < frames; f++) bend[f + 1] = breaks[f] || breaks[f + 1] ? 0 : stiffness * (out[f - 1] - 2 * out[f] + out[f + 1]);
    let isSettled = true;
    for (let f = 0; f < frames; f++) {
      if (none?.[f]) continue;
      // Where it touches, the bound must push the curve up, and not hold it down.
      const push = out[f] + bend[f] - 2 * bend[f + 1] + bend[f + 2];
      const is = touching[f] ? push > 0 : out[f] < given[f];
      if (is === (touching[f] === 1)) continue;
      touching[f] = is ? 1 : 0;
      isSettled = false;
    }
    if (isSettled) break;
  }
  for (let f = 0; f < frames; f++) out[f] = Math.max(out[f], given[f]);
}
