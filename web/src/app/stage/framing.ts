import type { Pose } from '@hollow-stride/core';
import { Matrix4, Quaternion, Vector3 } from 'three';
import type { DisplayBody } from '../solver/messages';
import type { MeshFigure } from './mesh-figure';

const PLACE = new Vector3();
const CORNER = new Vector3();
const TURN = new Quaternion();
const SIZE = new Vector3();
const MATRIX = new Matrix4();

/** Points of one or more bodies that must be in sight, relative to the place that a view is aimed at, metres. */
export class Sight {
  private values: number[] = [];
  /** Lowest and highest of them. */
  low = Infinity;
  high = -Infinity;

  get points(): readonly number[] {
    return this.values;
  }

  /**
   * Adds a body in a pose: its skin, where it has a mesh, else its joints with some flesh around them.
   * @param from what is to be seen from, subtracted from each point
   * @param flesh metres around a joint that has no skin
   * @param body tips of bones that end in no joint, in their joints' frames, NaN for none; joints that are in sight whether they carry skin or not
   * @param across scale of the body over the floor, `up` of its heights
   */
  add(
    { positions, rotations }: Pose,
    mesh: MeshFigure | undefined,
    from: Vector3,
    flesh: number,
    { skeleton: { tips }, labelled }: Pick<DisplayBody, 'labelled'> & { readonly skeleton: Pick<DisplayBody['skeleton'], 'tips'> },
    across = 1,
    up = 1,
  ): void {
    for (let j = 0; j < positions.length / 3; j++) {
      PLACE.fromArray(positions, j * 3);
      const box = mesh?.boxes[j];
      if (mesh && !box && !labelled[j]) continue;
      if (box && mesh) {
        MATRIX.compose(PLACE, TURN.fromArray(rotations, j * 4), SIZE.setScalar(mesh.scales[j]));
        for (let c = 0; c < 8; c++) {
          CORNER.set((c & 1 ? box.max : box.min).x, (c & 2 ? box.max : box.min).y, (c & 4 ? box.max : box.min).z).applyMatrix4(MATRIX);
          this.put(CORNER, from, across, up);
        }
      } else {
        for (const by of [-flesh, flesh]) this.put(CORNER.copy(PLACE).addScalar(by), from, across, up);
        if (Number.isNaN(tips[j * 3])) continue;
        this.put(
          CORNER.fromArray(tips, j * 3)
            .applyQuaternion(TURN.fromArray(rotations, j * 4))
            .add(PLACE),
          from,
          across,
          up,
        );
      }
    }
  }

  /** Leaves a share of the view's height free at its top, for words that stand there. */
  keepFree(share: number): void {
    if (!(this.high > this.low)) return;
    this.high += ((this.high - this.low) * share) / (1 - share);
    this.values.push(0, this.high, 0);
  }

  private put({ x, y, z }: Vector3, from: Vector3, across: number, up: number): void {
    const height = y * up - from.y;
    this.values.push(x * across - from.x, height, z * across - from.z);
    this.low = Math.min(this.low, height);
    this.high = Math.max(this.high, height);
  }
}

/** A little room around what is in sight. */
const MARGIN = 1.06;
const AHEAD = new Vector3();
const RIGHT = new Vector3();
const UP = new Vector3();

/**
 * The least distance from which a camera sees all points.
 * @param middle height of the place that it is aimed at, above that which the points are seen from
 * @param toCamera direction from that place to the camera
 * @param fov vertical, degrees
 */
export function distanceFor({ points }: Pick<Sight, 'points'>, middle: number, toCamera: Vector3, fov: number, aspect: number): number {
  AHEAD.copy(toCamera).normalize();
  RIGHT.crossVectors(UP.set(0, 1, 0), AHEAD);
  // From straight above no side is up: the picture's own is.
  if (RIGHT.lengthSq() < 1e-6) RIGHT.set(1, 0, 0);
  RIGHT.normalize();
  UP.crossVectors(AHEAD, RIGHT);
  const tall = Math.tan((fov * Math.PI) / 360) / MARGIN;
  const wide = tall * aspect;
  let most = 0;
  for (let i = 0; i < points.length; i += 3) {
    PLACE.set(points[i], points[i + 1] - middle, points[i + 2]);
    const nearer = PLACE.dot(AHEAD);
    most = Math.max(most, Math.abs(PLACE.dot(RIGHT)) / wide + nearer, Math.abs(PLACE.dot(UP)) / tall + nearer);
  }
  return most;
}
