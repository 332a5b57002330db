import { type PerspectiveCamera, Vector3 } from 'three';
import type { Pose } from '@hollow-stride/core';

/** What a pixel is worth where watched joints are: ways of the world to the right and up on the canvas, and metres a pixel at each joint. */
export interface Gauge {
  readonly right: readonly number[];
  readonly up: readonly number[];
  readonly metres: Float64Array;
}

/** Places of watched joints on the canvas, x and y of each in CSS pixels; NaN where they are not shown. */
export type Watcher = (places: Float64Array, gauge: Gauge) => void;

const PLACE = new Vector3();

/** Joints whose places on the canvas are told each time that they have been drawn. */
export class WatchedJoints {
  private readonly places: Float64Array;
  private readonly metres: Float64Array;

  constructor(
    private readonly joints: readonly number[],
    private readonly watcher: Watcher,
  ) {
    this.places = new Float64Array(joints.length * 2);
    this.metres = new Float64Array(joints.length);
  }

  /**
   * @param pose as it was drawn; undefined where it was not
   * @param part of the canvas that it was drawn in, CSS pixels
   */
  tell(
    pose: Pose | undefined,
    camera: PerspectiveCamera,
    part: { readonly left: number; readonly width: number; readonly height: number },
  ): void {
    const { joints, places, metres, watcher } = this;
    const { elements } = camera.matrixWorld;
    places.fill(NaN);
    for (let i = 0; pose && i < joints.length; i++) {
      PLACE.fromArray(pose.positions, joints[i] * 3).applyMatrix4(camera.matrixWorldInverse);
      metres[i] = (-PLACE.z * 2 * Math.tan((camera.fov * Math.PI) / 360)) / part.height;
      PLACE.applyMatrix4(camera.projectionMatrix);
      if (PLACE.z > 1) continue;
      places[i * 2] = part.left + ((PLACE.x + 1) / 2) * part.width;
      places[i * 2 + 1] = ((1 - PLACE.y) / 2) * part.height;
    }
    watcher(places, { right: elements.slice(0, 3), up: elements.slice(4, 7), metres });
  }
}
