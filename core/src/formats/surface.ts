/** One piece of a mesh as a file has it: a primitive on a node. */
export interface SurfacePart {
  readonly name: string;
  /** Where it stands in the file, as its writer needs it. */
  readonly node: number;
  readonly mesh: number;
  readonly primitive: number;
  /** Column-major 4 × 4: the piece's own space to the space of `positions`. */
  readonly matrix: Float64Array;
  /** Its points within the surface. */
  readonly first: number;
  readonly count: number;
}

/** The surface of a mesh without regard to any skeleton: points in the file's axes and unit, triangles, and the pieces they come from. */
export interface Surface {
  readonly name: string;
  readonly positions: Float32Array;
  readonly triangles: Uint32Array;
  readonly parts: readonly SurfacePart[];
  /** The file as GLB, which a skeleton is bound to. */
  readonly glb: Uint8Array;
  /** Metres per unit as the format says; none where it says nothing. */
  readonly inMetres: boolean;
}

/** Most points of a mesh that a skeleton is fitted to. */
export const MAX_SURFACE_POINTS = 1_000_000;
/** Most triangles. */
export const MAX_SURFACE_TRIANGLES = 2_000_000;
