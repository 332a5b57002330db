import type { PointWeights } from '../formats';
import { square } from '../math/numbers';
import type { MeshBody } from './body';
import { KEPT } from './geodesic';
import { largest, type WeldedWeights } from './welded';
import type { Frame } from './bones';

/** Weights smaller than this are left out. */
const LEAST = 0.01;

/**
 * From welded points back to all points of the mesh: at most four joints, a bone's weight passed on to the joints along it that share its
 * twist.
 * @param whole joint of each piece of the mesh that moves whole, by the piece's place in the surface
 * @returns for each point four joints and their weights, largest first, adding up to 1
 */
export function spread(body: MeshBody, weights: WeldedWeights, frame: Frame, whole: ReadonlyMap<number, number> = new Map()): PointWeights {
  const count = body.shells.welded.length;
  const out = { joints: new Uint16Array(count * 4), values: new Float32Array(count * 4) };
  const twists = twistsOf(frame);
  const sum = new Map<number, number>();
  body.surface.parts.forEach(({ first, count: own }, part) => {
    const joint = whole.get(part);
    for (let i = first; i < first + own; i++) {
      sum.clear();
      const w = body.shells.welded[i] * KEPT;
      if (joint !== undefined) sum.set(joint, 1);
      else for (let k = w; k < w + KEPT && weights.joints[k] >= 0; k++) add(weights.joints[k], weights.values[k], i);
      const kept = largest(sum, 4).filter(([, value]) => value >= LEAST);
      const total = kept.reduce((s, [, value]) => s + value, 0);
      kept.forEach(([j, value], k) => {
        out.joints[i * 4 + k] = j;
        out.values[i * 4 + k] = value / total;
      });
    }
  });
  return out;

  /** A bone's weight, passed on to the joints along it that share its twist. */
  function add(joint: number, value: number, point: number): void {
    const along = twists.get(joint);
    if (!along) {
      sum.set(joint, (sum.get(joint) ?? 0) + value);
      return;
    }
    const { from, way, stops } = along;
    let t = 0;
    for (let c = 0; c < 3; c++) t += (body.positions[point * 3 + c] - from[c]) * way[c];
    let k = 0;
    while (k + 1 < stops.length && stops[k + 1].at <= t) k++;
    const next = stops[k + 1] as (typeof stops)[number] | undefined;
    const f = next ? Math.min(1, Math.max(0, (t - stops[k].at) / (next.at - stops[k].at))) : 0;
    sum.set(stops[k].joint, (sum.get(stops[k].joint) ?? 0) + value * (1 - f));
    if (next && f > 0) sum.set(next.joint, (sum.get(next.joint) ?? 0) + value * f);
  }
}

interface Twisted {
  readonly from: Float64Array;
  /** Over the length squared, so that the product with it runs from 0 to 1. */
  readonly way: Float64Array;
  readonly stops: readonly { readonly joint: number; readonly at: number }[];
}

function twistsOf({ skeleton: { parents }, places, twistOf }: Frame): Map<number, Twisted> {
  const out = new Map<number, Twisted>();
  twistOf.forEach((bone) => {
    if (bone < 0 || out.has(bone)) return;
    const end = parents.findIndex((parent, j) => parent === bone && twistOf[j] < 0);
    if (end < 0) return;
    const from = places.slice(bone * 3, bone * 3 + 3);
    const way = Float64Array.from(from, (v, c) => places[end * 3 + c] - v);
    const squared = square(way[0]) + square(way[1]) + square(way[2]);
    const scaled = way.map((v) => v / Math.max(1e-12, squared));
    const at = (j: number): number => [0, 1, 2].reduce((sum, c) => sum + (places[j * 3 + c] - from[c]) * scaled[c], 0);
    const stops = [...twistOf.keys()].filter((j) => twistOf[j] === bone).map((joint) => ({ joint, at: at(joint) }));
    out.set(bone, { from, way: scaled, stops: [{ joint: bone, at: 0 }, ...stops].sort((a, b) => a.at - b.at) });
  });
  return out;
}
