import { KEPT } from './geodesic';

/** Weights of welded points: KEPT joints each, −1 for none. */
export interface WeldedWeights {
  readonly joints: Int16Array;
  readonly values: Float64Array;
}

/** The largest of some weights, adding up to 1. */
export function largest(sum: ReadonlyMap<number, number>, most = KEPT): [joint: number, weight: number][] {
  const list = [...sum].sort((a, b) => b[1] - a[1] || a[0] - b[0]).slice(0, most);
  const total = list.reduce((s, [, weight]) => s + weight, 0);
  return list.map(([joint, weight]) => [joint, weight / total]);
}

/** Gives a welded point its weights. */
export function setWeights(
  { joints, values }: WeldedWeights,
  w: number,
  list: readonly (readonly [joint: number, weight: number])[],
): void {
  for (let k = 0; k < KEPT; k++) {
    joints[w * KEPT + k] = k < list.length ? list[k][0] : -1;
    values[w * KEPT + k] = k < list.length ? list[k][1] : 0;
  }
}
