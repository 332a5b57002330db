import { square } from '../math/numbers';
import type { MeshBody } from './body';
import { bonesOf, wayTo, type Bone, type Frame } from './bones';
import { bridge } from './bridges';
import { KEPT, nearestJoints, type Nearest } from './geodesic';
import { evenOut } from './evenOut';
import { largest, setWeights, type WeldedWeights } from './welded';
import { voxelsOf, type Voxels } from './voxels';

/** Cells along the height: a finger is two to three cells thick. */
const CELLS = 200;
/** How fast a joint's weight falls with the way to it: the third power keeps bends about as short as limbs are thick. */
const POWER = 3;
/** Shells no larger than this share of the height, buttons and eyes, move whole. */
const SMALL = 0.05;
/** Times that weights are evened out over neighbouring points. */
const ROUNDS = 8;
/** Tells how far a long computation is, from 0 to 1; it may throw to end it. */
export type OnProgress = (share: number) => void;

/**
 * Binds the points of a mesh to joints: each to the four that are nearest by ways inside the body, nearness counted in the thickness of
 * each joint's own limb, so that a thin arm does not carry a broad breast. After Dionne and de Lasa 2013 (geodesic voxel binding), which
 * works on meshes with holes, of separate shells, and laid over each other.
 * @returns the weights of each welded point
 */
export function bindWeights(body: MeshBody, frame: Frame, report: OnProgress = () => undefined): WeldedWeights {
  const voxels = voxelsOf(body, CELLS);
  report(0.1);
  bridge(voxels);
  const bones = bonesOf(frame);
  const joints = frame.skeleton.parents.length;
  const rough = nearestJoints(voxels, bones, new Float64Array(joints).fill(1), 1, (share) => report(0.1 + 0.15 * share));
  const scale = thicknessOf(voxels, rough, joints, bones);
  const near = nearestJoints(voxels, bones, scale, KEPT, (share) => report(0.25 + 0.45 * share));
  report(0.7);
  const weights = weightsOf(body, voxels, near, scale, bones);
  wholeShells(body, weights);
  report(0.8);
  for (let round = 0; round < ROUNDS; round++) {
    evenOut(body, weights);
    report(0.8 + (0.2 * (round + 1)) / ROUNDS);
  }
  return weights;
}

/** How thick the limb of each joint is: the usual way from its bone to the surface, metres. */
function thicknessOf(
  { size, cell, depth }: Voxels,
  { inside, joints, ways }: Nearest,
  count: number,
  bones: readonly Bone[],
): Float64Array {
  const [nx, ny] = size;
  const found: number[][] = Array.from({ length: count }, () => []);
  for (let i = 0; i < inside.length; i++) {
    const at = inside[i];
    if (at < 0 || joints[at] < 0) continue;
    const isSurface = [-1, 1, -nx, nx, -nx * ny, nx * ny].some((step) => depth[i + step] === 0);
    if (isSurface) found[joints[at]].push(ways[at]);
  }
  const out = Float64Array.from(found, (list) => (list.length === 0 ? NaN : Math.max(cell, list.sort((a, b) => a - b)[list.length >> 1])));
  // A joint that no part of the surface is nearest to is as thick as the thinnest beside it.
  const least = out.reduce((min, v) => (v < min ? v : min), Infinity);
  for (const { joint } of bones) if (Number.isNaN(out[joint])) out[joint] = Number.isFinite(least) ? least : cell;
  return out.map((v) => (Number.isNaN(v) ? cell : v));
}

/** What moves each welded point: by the cells about it, and the way from their middles. */
function weightsOf(
  { positions, shells }: MeshBody,
  { origin, cell, size }: Voxels,
  near: Nearest,
  scale: Float64Array,
  bones: readonly Bone[],
): WeldedWeights {
  const joints = new Int16Array(shells.points * KEPT).fill(-1);
  const values = new Float64Array(shells.points * KEPT);
  const seen = new Uint8Array(shells.points);
  const ways = new Map<number, number>();
  for (let i = 0; i < shells.welded.length; i++) {
    const w = shells.welded[i];
    if (seen[w]) continue;
    seen[w] = 1;
    ways.clear();
    const place = [0, 1, 2].map((c) => (positions[i * 3 + c] - origin[c]) / cell - 0.5);
    const low = place.map(Math.floor);
    for (let corner = 0; corner < 8; corner++) {
      const at = [low[0] + (corner & 1), low[1] + ((corner >> 1) & 1), low[2] + (corner >> 2)];
      if (at.some((index, c) => index < 0 || index >= size[c])) continue;
      const inside = near.inside[(at[2] * size[1] + at[1]) * size[0] + at[0]];
      if (inside < 0) continue;
      const aside = cell * Math.sqrt(square(at[0] - place[0]) + square(at[1] - place[1]) + square(at[2] - place[2]));
      for (let k = inside * KEPT; k < (inside + 1) * KEPT && near.joints[k] >= 0; k++) {
        const way = near.ways[k] + aside / scale[near.joints[k]];
        const known = ways.get(near.joints[k]);
        if (known === undefined || way < known) ways.set(near.joints[k], way);
      }
    }
    if (ways.size === 0) ways.set(nearestBone(bones, positions, i * 3), 1);
    const list = [...ways].sort((a, b) => a[1] - b[1]).slice(0, KEPT);
    const first = Math.max(list[0][1], 1e-6);
    let total = 0;
    list.forEach(([joint, way], k) => {
      let weight = first / Math.max(way, first);
      for (let p = weight, n = 1; n < POWER; n++) weight *= p;
      joints[w * KEPT + k] = joint;
      values[w * KEPT + k] = weight;
      total += weight;
    });
    for (let k = 0; k < list.length; k++) values[w * KEPT + k] /= total;
  }
  return { joints, values };
}

/** The joint whose bone is nearest through the air: for points that lie in no cell. */
function nearestBone(bones: readonly Bone[], positions: Float32Array, at: number): number {
  return bones.reduce((a, b) => (wayTo(b, positions, at) < wayTo(a, positions, at) ? b : a)).joint;
}

/** Small shells get one set of weights for all of their points: their mean. */
function wholeShells({ positions, shells, height }: MeshBody, weights: WeldedWeights): void {
  const low = new Float64Array(shells.count * 3).fill(Infinity);
  const high = new Float64Array(shells.count * 3).fill(-Infinity);
  shells.welded.forEach((w, i) => {
    for (let c = 0; c < 3; c++) {
      const o = shells.shell[w] * 3 + c;
      low[o] = Math.min(low[o], positions[i * 3 + c]);
      high[o] = Math.max(high[o], positions[i * 3 + c]);
    }
  });
  const isSmall = (s: number): boolean => [0, 1, 2].every((c) => high[s * 3 + c] - low[s * 3 + c] < SMALL * height);
  const sums = new Map<number, Map<number, number>>();
  for (let w = 0; w < shells.points; w++) {
    const s = shells.shell[w];
    if (!isSmall(s)) continue;
    const sum = sums.get(s) ?? new Map<number, number>();
    sums.set(s, sum);
    for (let k = w * KEPT; k < (w + 1) * KEPT && weights.joints[k] >= 0; k++) {
      sum.set(weights.joints[k], (sum.get(weights.joints[k]) ?? 0) + weights.values[k]);
    }
  }
  const means = new Map([...sums].map(([s, sum]) => [s, largest(sum)] as const));
  for (let w = 0; w < shells.points; w++) {
    const mean = means.get(shells.shell[w]);
    if (mean) setWeights(weights, w, mean);
  }
}
