/** Points, triangles and normals of one group of an OBJ file, points that differ in any of them apart. */
export interface ObjPiece {
  readonly name: string;
  readonly material: string;
  readonly positions: number[];
  /** Empty where the file has none for some of the points. */
  readonly normals: number[];
  readonly coordinates: number[];
  readonly triangles: number[];
}
