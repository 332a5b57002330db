import type { Shape } from './structure';

/** Which of two like limbs is the left one, and how sure that is. */
export interface SideVerdict {
  /** True when the first of the pair is the left one. */
  readonly firstIsLeft: boolean;
  /** 0…1. */
  readonly confidence: number;
}

/** The sides that names give a limb pair, or undefined when they say nothing or contradict themselves. */
export function sidesByName(shape: Shape, a: readonly number[], b: readonly number[]): SideVerdict | undefined {
  const count = (path: readonly number[], side: string): number => path.filter((j) => shape.hints[j].side === side).length;
  const forFirst = count(a, 'left') + count(b, 'right');
  const against = count(a, 'right') + count(b, 'left');
  if (forFirst === against) return undefined;
  return { firstIsLeft: forFirst > against, confidence: Math.abs(forFirst - against) / (forFirst + against) };
}

/**
 * The sides from the shape of poses: left is up × forward, where up runs from hips to chest and forward is where feet
 * point, or, for feet without toes, where knees bend.
 * @param poses world positions, 3 per joint, of a few poses
 */
export function sidesByShape(
  poses: readonly Float64Array[],
  hips: number,
  chest: number,
  legs: readonly [first: LegPoints, second: LegPoints],
): SideVerdict | undefined {
  let vote = 0;
  let weight = 0;
  for (const p of poses) {
    const v = (from: number, to: number): [number, number, number] => [
      p[to * 3] - p[from * 3],
      p[to * 3 + 1] - p[from * 3 + 1],
      p[to * 3 + 2] - p[from * 3 + 2],
    ];
    const up = unit(v(hips, chest));
    const across = v(legs[1].top, legs[0].top);
    const forward: [number, number, number] = [0, 0, 0];
    for (const { top, knee, ankle, toe } of legs) {
      const shin = v(knee, ankle);
      const size = length(v(top, knee)) + length(shin);
      const foot = toe === undefined ? undefined : square(v(ankle, toe), up);
      // Only a foot that stands out from the shin shows where it points.
      if (foot && length(foot) > 0.03 * size) add(forward, unit(foot));
      else {
        const bend = square(v(top, knee), unit(v(top, ankle)));
        if (length(bend) > 0.02 * size)
          add(
            forward,
            square(unit(bend), up).map((x) => x * 0.5),
          );
      }
    }
    const side = dot(cross(up, forward), across);
    const scale = length(forward) * length(across);
    if (scale < 1e-9) continue;
    vote += side / scale;
    weight++;
  }
  if (weight === 0 || vote === 0) return undefined;
  return { firstIsLeft: vote > 0, confidence: Math.min(1, Math.abs(vote) / weight) };
}

export interface LegPoints {
  readonly top: number;
  readonly knee: number;
  readonly ankle: number;
  readonly toe: number | undefined;
}

type V = readonly number[];
const dot = (a: V, b: V): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const length = (a: V): number => Math.sqrt(dot(a, a));
const unit = (a: V): number[] => {
  const n = length(a);
  return n < 1e-12 ? [0, 0, 0] : a.map((x) => x / n);
};
const cross = (a: V, b: V): number[] => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
/** The part of a that is square to the unit vector n. */
const square = (a: V, n: V): number[] => a.map((x, i) => x - dot(a, n) * n[i]);
const add = (a: number[], b: V): void => b.forEach((x, i) => (a[i] += x));
