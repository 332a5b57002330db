import { square } from './numbers';
/** A plane that is not upright: its height at (x, z) is x · plane.x + z · plane.z + height. */
export interface Plane {
  readonly x: number;
  readonly z: number;
  readonly height: number;
}

/**
 * The plane of least squares through places (x, y, z), heights along Y; a direction in which they do not spread is level.
 * @param unsure how far places may be off along the floor: what spreads no wider does not tell how the plane rises
 */
export function planeThrough(places: readonly ArrayLike<number>[], unsure: number): Plane {
  const count = places.length;
  const mean = [0, 1, 2].map((c) => places.reduce((sum, place) => sum + place[c] / count, 0));
  let xx = count * square(unsure);
  let zz = xx;
  let xz = 0;
  let xy = 0;
  let zy = 0;
  for (const place of places) {
    const dx = place[0] - mean[0];
    const dy = place[1] - mean[1];
    const dz = place[2] - mean[2];
    xx += dx * dx;
    xz += dx * dz;
    zz += dz * dz;
    xy += dx * dy;
    zy += dz * dy;
  }
  const size = xx * zz - xz * xz;
  if (!(size > 0)) return { x: 0, z: 0, height: mean[1] };
  const x = (xy * zz - zy * xz) / size;
  const z = (zy * xx - xy * xz) / size;
  return { x, z, height: mean[1] - x * mean[0] - z * mean[2] };
}

/** How far a place is over a plane, along Y. */
export function overPlane({ x, z, height }: Plane, place: ArrayLike<number>): number {
  return place[1] - place[0] * x - place[2] * z - height;
}
