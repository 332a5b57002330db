import { add, cross, length, mix, scale, square, sub, unit, type V3 } from './vectors';

/** Joints that move a point, and how much each, adding up to 1; at most four. */
export type Weights = readonly (readonly [joint: string, weight: number])[];

/** One ring of a tube: centre, half widths across and to the front, and what moves it. */
export interface Ring {
  readonly at: V3;
  readonly across: number;
  readonly deep: number;
  readonly weights: Weights;
}

/** Points and triangles of one colour. */
export interface Part {
  readonly positions: number[];
  readonly normals: number[];
  readonly weights: Weights[];
  readonly triangles: number[];
}

/** Collects the parts of a puppet by colour. */
export class MeshBuilder {
  readonly parts = new Map<string, Part>();

  private part(colour: string): Part {
    let part = this.parts.get(colour);
    if (!part) {
      part = { positions: [], normals: [], weights: [], triangles: [] };
      this.parts.set(colour, part);
    }
    return part;
  }

  /**
   * A closed tube through rings. Its sides are laid along the way from ring to ring; `front` says where its front is.
   * @param sides corners of each ring; few corners look carved, many look turned
   */
  tube(colour: string, rings: readonly Ring[], front: V3 = [0, 0, 1], sides = 16): void {
    const part = this.part(colour);
    const base = part.positions.length / 3;
    rings.forEach((ring, i) => {
      const way = sub(rings[Math.min(i + 1, rings.length - 1)].at, rings[Math.max(i - 1, 0)].at);
      const axis = length(way) < 1e-6 ? ([0, 1, 0] as V3) : unit(way);
      const deep = square(axis, front);
      const across = cross(axis, deep);
      for (let k = 0; k < sides; k++) {
        const a = (k / sides) * Math.PI * 2;
        const p = add(ring.at, add(scale(across, Math.cos(a) * ring.across), scale(deep, Math.sin(a) * ring.deep)));
        part.positions.push(...p);
        part.weights.push(ring.weights);
      }
    });
    for (let i = 0; i + 1 < rings.length; i++) {
      for (let k = 0; k < sides; k++) {
        const a = base + i * sides + k;
        const b = base + i * sides + ((k + 1) % sides);
        // Counted against the clock as seen from outside: what is seen of a face is its front.
        part.triangles.push(a, a + sides, b, b, a + sides, b + sides);
      }
    }
    this.cap(part, base, sides, rings[0], true);
    this.cap(part, base + (rings.length - 1) * sides, sides, rings[rings.length - 1], false);
    this.finish(part, base);
  }

  private cap(part: Part, first: number, sides: number, ring: Ring, start: boolean): void {
    const centre = part.positions.length / 3;
    part.positions.push(...ring.at);
    part.weights.push(ring.weights);
    for (let k = 0; k < sides; k++) {
      const a = first + k;
      const b = first + ((k + 1) % sides);
      part.triangles.push(...(start ? [centre, a, b] : [centre, b, a]));
    }
  }

  /** A turned limb from a to b, thickest at `belly` (0…1 of the way); its ends bend with the neighbours. */
  limb(colour: string, a: V3, b: V3, radii: readonly [number, number, number], joint: string, before?: string, after?: string): void {
    const rings: Ring[] = [];
    const profile: readonly (readonly [number, number])[] = [
      [-0.04, 0.35],
      [-0.02, 0.75],
      [0.03, 1],
      [0.15, 1],
      [0.35, 1],
      [0.5, 1],
      [0.65, 1],
      [0.85, 1],
      [0.97, 1],
      [1.02, 0.75],
      [1.04, 0.35],
    ];
    for (const [t, k] of profile) {
      const c = Math.min(1, Math.max(0, t));
      const radius = k * (c < 0.4 ? radii[0] + (radii[1] - radii[0]) * (c / 0.4) : radii[1] + (radii[2] - radii[1]) * ((c - 0.4) / 0.6));
      let weights: Weights = [[joint, 1]];
      if (before && t < 0.08)
        weights = [
          [joint, 0.6],
          [before, 0.4],
        ];
      else if (after && t > 0.94)
        weights = [
          [joint, 0.6],
          [after, 0.4],
        ];
      rings.push({ at: mix(a, b, t), across: radius, deep: radius, weights });
    }
    this.tube(colour, rings);
  }

  /** A ball, or an egg with three half widths. */
  ball(colour: string, at: V3, radii: V3, weights: Weights, rows = 10): void {
    const rings: Ring[] = [];
    for (let i = 0; i <= rows; i++) {
      const a = (i / rows) * Math.PI - Math.PI / 2;
      const k = Math.max(0.02, Math.cos(a));
      rings.push({ at: add(at, [0, Math.sin(a) * radii[1], 0]), across: k * radii[0], deep: k * radii[2], weights });
    }
    this.tube(colour, rings);
  }

  /** Smooth normals of what was added since `from`. */
  private finish(part: Part, from: number): void {
    const { positions: p, triangles: t, normals } = part;
    for (let i = from; i < p.length / 3; i++) normals.push(0, 0, 0);
    const at = (i: number): V3 => [p[i * 3], p[i * 3 + 1], p[i * 3 + 2]];
    for (let i = 0; i < t.length; i += 3) {
      if (t[i] < from) continue;
      const n = cross(sub(at(t[i + 1]), at(t[i])), sub(at(t[i + 2]), at(t[i])));
      for (let k = 0; k < 3; k++) for (let c = 0; c < 3; c++) normals[t[i + k] * 3 + c] += n[c];
    }
    for (let i = from; i < p.length / 3; i++) {
      const n = unit([normals[i * 3], normals[i * 3 + 1], normals[i * 3 + 2]]);
      for (let c = 0; c < 3; c++) normals[i * 3 + c] = n[c];
    }
  }
}
