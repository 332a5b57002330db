import { PerspectiveCamera, type Vector3 } from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import type { Place } from './cameras';
import { distanceFor, type Sight } from './framing';
import type { ViewName } from './options';

const FOV = 30;
const VIEWS: Readonly<Record<ViewName, readonly [number, number, number]>> = {
  front: [0, 0.1, 1],
  side: [1, 0.1, 0],
  top: [0, 1, 0.001],
  free: [0.78, 0.3, 0.85],
};

/** Where the stage is looked at from: turned by pointer, keyboard or a named view; the cameras of its sides follow. */
export class Orbit {
  readonly camera = new PerspectiveCamera(FOV, 1, 0.05, 80);
  /** Orbits the origin; views look at their figures from the same place. */
  private readonly orbit = new PerspectiveCamera(FOV, 1, 0.05, 80);
  private readonly controls: OrbitControls;
  size = 1.8;

  constructor(canvas: HTMLCanvasElement, onFree: () => void, onChange: () => void) {
    this.controls = new OrbitControls(this.orbit, canvas);
    this.controls.enablePan = false;
    this.controls.addEventListener('start', onFree);
    this.controls.addEventListener('change', onChange);
  }

  look(view: ViewName): void {
    const distance = (this.size * 1.32) / (2 * Math.tan((FOV * Math.PI) / 360));
    this.orbit.position
      .set(...VIEWS[view])
      .normalize()
      .multiplyScalar(distance);
    this.controls.target.set(0, 0, 0);
    this.controls.update();
  }

  /** Turns or moves the view by the keyboard: degrees around, degrees up, factor nearer. */
  nudge(around: number, up: number, nearer: number): void {
    const p = this.orbit.position;
    const r = p.length() / nearer;
    const theta = Math.atan2(p.x, p.z) + (around * Math.PI) / 180;
    const phi = Math.min(Math.PI / 2 - 0.01, Math.max(-0.2, Math.asin(p.y / p.length()) + (up * Math.PI) / 180));
    p.set(r * Math.cos(phi) * Math.sin(theta), r * Math.sin(phi), r * Math.cos(phi) * Math.cos(theta));
    this.controls.update();
  }

  /** Steps back, or comes nearer, until all of what must be in sight is, from where it looks. @param middle height that it is aimed at */
  fit(sight: Sight, middle: number, aspect: number): void {
    const distance = distanceFor(sight, middle, this.orbit.position, FOV, aspect);
    if (!(distance > 0)) return;
    this.orbit.position.setLength(distance);
    this.controls.update();
  }

  /** How far the camera is from what it is aimed at. */
  get distance(): number {
    return this.orbit.position.length();
  }

  /** Where the camera is, from what it is aimed at. */
  get place(): Place {
    return this.orbit.position.toArray();
  }

  set place(place: Place) {
    this.orbit.position.set(...place);
    this.controls.target.set(0, 0, 0);
    this.controls.update();
  }

  /** Points the camera at a place, in a picture of an aspect. @param share of the distance that it stands at */
  aim(anchor: Vector3, aspect: number, share = 1): void {
    const { camera } = this;
    camera.aspect = aspect;
    camera.fov = FOV;
    camera.updateProjectionMatrix();
    camera.position.copy(this.orbit.position).multiplyScalar(share).add(anchor);
    camera.lookAt(anchor);
    camera.updateMatrixWorld();
  }

  dispose(): void {
    this.controls.dispose();
  }
}

/**
 * How far the eye goes up with a body that climbs: with its hips, once they are above where a standing one has them; a climber's
 * are in its middle.
 * @param hips height of the hips over the floor
 * @param size height of what is to be in sight
 */
export function climbed(hips: number, size: number): number {
  const over = hips / size - STANDING;
  return over <= 0 ? 0 : size * (over + 0.16 * (1 - Math.exp(-6 * over)));
}

/** Hips of the most long-legged stand at this share of the height. */
const STANDING = 0.65;
