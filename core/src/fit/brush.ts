import { square } from '../math/numbers';
import { distance } from '../math/vec';
import type { FitStroke } from '../recipe';
import type { MeshBody } from './body';
import { evenOut } from './evenOut';
import { mirrored, type Place } from './landmarks';
import type { WeldedWeights } from './welded';

/** A stroke carries weights about half its radius far, in so many rounds at most. */
const MOST_ROUNDS = 60;

/**
 * Draws strokes of the brush over weights: points near a place go towards the mean of their neighbours, most in the middle of the stroke.
 * @param middle of the body from left to right where strokes hold on both sides, undefined where they do not
 */
export function brush(body: MeshBody, weights: WeldedWeights, strokes: readonly FitStroke[], middle: number | undefined): void {
  if (strokes.length === 0) return;
  const { positions, shells } = body;
  const amount = new Float32Array(shells.points);
  const edge = meanEdge(body);
  for (const { at, radius, strength } of strokes) {
    const places: Place[] = middle === undefined ? [at] : [at, mirrored(at, middle)];
    amount.fill(0);
    let touched = false;
    for (let i = 0; i < shells.welded.length; i++) {
      for (const place of places) {
        const far = square(positions[i * 3] - place[0]) + square(positions[i * 3 + 1] - place[1]) + square(positions[i * 3 + 2] - place[2]);
        const t = 1 - far / square(radius);
        if (t <= 0) continue;
        touched = true;
        const w = shells.welded[i];
        amount[w] = Math.max(amount[w], strength * t);
      }
    }
    // Evening out goes about an edge's length times the root of half the rounds.
    const rounds = Math.min(MOST_ROUNDS, Math.max(1, Math.round(square(radius / edge) / 2)));
    if (touched) for (let round = 0; round < rounds; round++) evenOut(body, weights, amount);
  }
}

/** Mean length of the mesh's edges. */
function meanEdge({ positions, triangles }: MeshBody): number {
  let sum = 0;
  for (let i = 0; i < triangles.length; i += 3) sum += distance(positions, triangles[i] * 3, positions, triangles[i + 1] * 3);
  return Math.max(1e-6, (3 * sum) / Math.max(1, triangles.length));
}
