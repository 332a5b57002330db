/** Filters over series with several channels: `values[frame * stride + channel]`. All are zero phase. */
import { exp } from './trig';

/**
 * Gaussian smoothing, mirrored at the ends, in place of a copy.
 * @param sigma standard deviation in frames; below 0.3 the series is copied unchanged
 */
export function gaussian(values: Float64Array, stride: number, sigma: number): Float64Array {
  const frames = values.length / stride;
  if (sigma < 0.3 || frames < 3) return values.slice();
  const radius = Math.min(Math.ceil(sigma * 3), frames - 1);
  const kernel = new Float64Array(radius + 1);
  let sum = 0;
  for (let i = 0; i <= radius; i++) {
    kernel[i] = exp((-0.5 * i * i) / (sigma * sigma));
    sum += i === 0 ? kernel[i] : 2 * kernel[i];
  }
  for (let i = 0; i <= radius; i++) kernel[i] /= sum;
  const out = new Float64Array(values.length);
  const last = frames - 1;
  if (stride >= 3) smoothPlaces(out, values, stride, kernel);
  for (let f = 0; f < frames; f++) {
    const inside = f >= radius && f + radius <= last;
    for (let c = inside && stride >= 3 ? 3 : 0; c < stride; c++) {
      const o = f * stride + c;
      let s = kernel[0] * values[o];
      if (inside) for (let i = 1, step = stride; i <= radius; i++, step += stride) s += kernel[i] * (values[o - step] + values[o + step]);
      else s += mirrored(f, c);
      out[o] = s;
    }
  }
  return out;

  function mirrored(f: number, c: number): number {
    let s = 0;
    for (let i = 1; i <= radius; i++) {
      const a = Math.abs(f - i);
      const b = f + i > last ? 2 * last - f - i : f + i;
      s += kernel[i] * (values[a * stride + c] + values[b * stride + c]);
    }
    return s;
  }
}

/**
 * The common case, the first three numbers of frames that lie a kernel's reach inside the series, in one go. A series that is zero as far as
 * the kernel reaches stays so: corrections are mostly of that kind.
 */
function smoothPlaces(out: Float64Array, values: Float64Array, stride: number, kernel: Float64Array): void {
  const reach = (kernel.length - 1) * stride;
  let busy = -1;
  for (let o = 0; o < 2 * reach && o + 2 < values.length; o += stride) if (isSome(values, o)) busy = o;
  for (let o = reach; o < values.length - reach; o += stride) {
    if (isSome(values, o + reach)) busy = o + reach;
    if (busy < o - reach) continue;
    let x = kernel[0] * values[o];
    let y = kernel[0] * values[o + 1];
    let z = kernel[0] * values[o + 2];
    for (let i = 1, a = o - stride, b = o + stride; i < kernel.length; i++, a -= stride, b += stride) {
      const k = kernel[i];
      x += k * (values[a] + values[b]);
      y += k * (values[a + 1] + values[b + 1]);
      z += k * (values[a + 2] + values[b + 2]);
    }
    out[o] = x;
    out[o + 1] = y;
    out[o + 2] = z;
  }
}

function isSome(values: Float64Array, o: number): boolean {
  return values[o] !== 0 || values[o + 1] !== 0 || values[o + 2] !== 0;
}

/** Mean over ±radius frames, counting only frames that exist. */
export function movingMean(values: Float64Array, radius: number): Float64Array {
  const n = values.length;
  const out = new Float64Array(n);
  const sums = new Float64Array(n + 1);
  for (let f = 0; f < n; f++) sums[f + 1] = sums[f] + values[f];
  for (let f = 0; f < n; f++) {
    const a = Math.max(0, f - radius);
    const b = Math.min(n, f + radius + 1);
    out[f] = (sums[b] - sums[a]) / (b - a);
  }
  return out;
}

/** The value at fraction p (0…1) of the sorted values, linear between neighbours; NaN for none. */
export function percentile(values: ArrayLike<number>, p: number): number {
  // The constructor copies; `from` would walk an iterator.
  return valueAt(new Float64Array(values), p);
}

/** The middle value; sorts the list in part. */
export function median(list: Float64Array): number {
  return valueAt(list, 0.5);
}

function valueAt(list: Float64Array, p: number): number {
  const count = list.length;
  if (count === 0) return NaN;
  const at = p * (count - 1);
  const i = Math.floor(at);
  const low = select(list, i);
  if (i + 1 >= count || at === i) return low;
  // Behind the i-th smallest stand only larger ones: the next is the least of them.
  let next = list[i + 1];
  for (let k = i + 2; k < count; k++) if (list[k] < next) next = list[k];
  return low + (next - low) * (at - i);
}

/** Moves the k-th smallest value to its place, smaller ones before it (Hoare's quickselect, median of three). */
function select(list: Float64Array, k: number): number {
  let left = 0;
  let right = list.length - 1;
  while (right > left) {
    const mid = (left + right) >> 1;
    const a = list[left];
    const b = list[mid];
    const c = list[right];
    const pivot = a < b ? (b < c ? b : a < c ? c : a) : a < c ? a : b < c ? c : b;
    let i = left;
    let j = right;
    while (i <= j) {
      while (list[i] < pivot) i++;
      while (list[j] > pivot) j--;
      if (i <= j) {
        const t = list[i];
        list[i++] = list[j];
        list[j--] = t;
      }
    }
    if (k <= j) right = j;
    else if (k >= i) left = i;
    else break;
  }
  return list[k];
}

/** Cubic Hermite between two values with end slopes per unit, at t in 0…1 over a span of `width`. */
export function hermite(a: number, slopeA: number, b: number, slopeB: number, width: number, t: number): number {
  const t2 = t * t;
  const t3 = t2 * t;
  return (2 * t3 - 3 * t2 + 1) * a + (t3 - 2 * t2 + t) * width * slopeA + (3 * t2 - 2 * t3) * b + (t3 - t2) * width * slopeB;
}

/** 0 below 0, 1 above 1, and 3t² − 2t³ between. */
export function smoothstep(t: number): number {
  return t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t);
}

/** 6t⁵ − 15t⁴ + 10t³ from 0 to 1, still and without curvature at both ends; with s(t) + s(1 − t) = 1. */
export function smootherstep(t: number): number {
  return t <= 0 ? 0 : t >= 1 ? 1 : t * t * t * (t * (6 * t - 15) + 10);
}

/**
 * A length that nears a limit: about itself where there is room, never more than the room.
 * @param late how late it slows down: what it stays short by is about x^(2^late) of it, x the share of the room that it would take, over 2^late
 */
export function eased(length: number, room: number, late = 2): number {
  if (room <= 1e-9) return 0;
  let power = length / room;
  for (let i = 0; i < late; i++) power *= power;
  let size = 1 + power;
  for (let i = 0; i < late; i++) size = Math.sqrt(size);
  return length / size;
}
