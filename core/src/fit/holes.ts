import type { MeshBody } from './body';

/** Edges that only one triangle has: the rims of holes. */
export function meshHoles({ triangles, shells }: MeshBody): number {
  const edges = new Map<number, number>();
  for (let i = 0; i < triangles.length; i++) {
    const base = i - (i % 3);
    const [a, b] = [shells.welded[triangles[i]], shells.welded[triangles[base + ((i + 1) % 3)]]];
    if (a === b) continue;
    const key = Math.min(a, b) * shells.points + Math.max(a, b);
    edges.set(key, (edges.get(key) ?? 0) + 1);
  }
  let rims = 0;
  for (const count of edges.values()) if (count === 1) rims++;
  return rims;
}
