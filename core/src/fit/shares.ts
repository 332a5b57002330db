import { KEPT } from './geodesic';

/** Shares of welded points: KEPT joints each, −1 for none. */
export interface Shares {
  readonly joints: Int16Array;
  readonly values: Float64Array;
}

/** The largest of some shares, adding up to 1. */
export function largest(sum: ReadonlyMap<number, number>, most = KEPT): [joint: number, share: number][] {
  const list = [...sum].sort((a, b) => b[1] - a[1] || a[0] - b[0]).slice(0, most);
  const total = list.reduce((s, [, share]) => s + share, 0);
  return list.map(([joint, share]) => [joint, share / total]);
}

/** Gives a welded point its shares. */
export function setShares({ joints, values }: Shares, w: number, list: readonly (readonly [joint: number, share: number])[]): void {
  for (let k = 0; k < KEPT; k++) {
    joints[w * KEPT + k] = k < list.length ? list[k][0] : -1;
    values[w * KEPT + k] = k < list.length ? list[k][1] : 0;
  }
}
