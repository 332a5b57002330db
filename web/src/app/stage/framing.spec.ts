import { random } from '../../../../core/src/math';
import { PerspectiveCamera, Vector3 } from 'three';
import { cameraOf, rememberCamera } from './cameras';
import { distanceFor, Sight } from './framing';

const FOV = 35;

/** Two joints that carry no role. */
const bodyOf = (tips: Float64Array) => ({ skeleton: { tips }, labelled: new Uint8Array(2) });

describe('framing', () => {
  it('finds the least distance from which all is in sight, from any side and in any shape of a stage', () => {
    const rng = random(20);
    for (let trial = 0; trial < 60; trial++) {
      const points = Array.from({ length: 3 * 24 }, (_, i) => rng.range(-1, 1) * (i % 3 === 1 ? 2 : 1.2));
      const middle = rng.range(-0.5, 0.5);
      const way = new Vector3(rng.range(-1, 1), rng.range(-0.3, 0.9), rng.range(-1, 1)).normalize();
      const aspect = rng.range(0.4, 3);
      const distance = distanceFor({ points }, middle, way, FOV, aspect);
      /** How far out the outermost point lies, 1 at the edge of the picture. */
      const edge = (from: number): number => {
        const camera = new PerspectiveCamera(FOV, aspect, 0.001, 1000);
        camera.position
          .copy(way)
          .multiplyScalar(from)
          .add(new Vector3(0, middle, 0));
        camera.lookAt(0, middle, 0);
        camera.updateMatrixWorld();
        camera.updateProjectionMatrix();
        let most = 0;
        for (let i = 0; i < points.length; i += 3) {
          const { x, y } = new Vector3().fromArray(points, i).project(camera);
          most = Math.max(most, Math.abs(x), Math.abs(y));
        }
        return most;
      };
      expect(edge(distance)).withContext(`trial ${trial}`).toBeLessThanOrEqual(1);
      // No farther than need be: a little room, and no more.
      expect(edge(distance)).withContext(`trial ${trial}`).toBeGreaterThan(0.9);
    }
  });

  it('counts the flesh around joints and the tips of bones, and the scale of the body', () => {
    const pose = { positions: Float64Array.of(0, 1, 0, 0, 2, 0), rotations: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1) };
    const sight = new Sight();
    sight.add(pose, undefined, new Vector3(0, 0.5, 0), 0.1, bodyOf(Float64Array.of(NaN, NaN, NaN, 0, 0.3, 0)), 1, 2);
    // Heights: 2 × (1 − 0.1) − 0.5 up to the tip at 2 × 2.3 − 0.5.
    expect(sight.low).toBeCloseTo(1.3, 9);
    expect(sight.high).toBeCloseTo(4.1, 9);
  });

  it('leaves room for words at the top', () => {
    const tall = { positions: Float64Array.of(0, 0, 0, 0, 2, 0), rotations: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1) };
    const sight = new Sight();
    sight.add(tall, undefined, new Vector3(), 0, bodyOf(new Float64Array(6).fill(NaN)));
    sight.keepFree(0.2);
    const middle = (sight.low + sight.high) / 2;
    const way = new Vector3(0, 0, 1);
    const camera = new PerspectiveCamera(FOV, 1, 0.001, 1000);
    camera.position.set(0, middle, distanceFor(sight, middle, way, FOV, 1));
    camera.lookAt(0, middle, 0);
    camera.updateMatrixWorld();
    // The picture goes from 1 at its top to -1: a fifth of that is 0.4, and a little room.
    expect(new Vector3(0, 2, 0).project(camera).y).toBeLessThan(0.6);
    expect(new Vector3(0, 2, 0).project(camera).y).toBeGreaterThan(0.5);
    // Where nothing is in sight there is nothing to leave room over.
    const empty = new Sight();
    empty.keepFree(0.2);
    expect(empty.points.length).toBe(0);
  });

  it('remembers where a person put the camera of a character', () => {
    rememberCamera('heron', [1, 2, 3]);
    expect(cameraOf('heron')).toEqual([1, 2, 3]);
    expect(cameraOf('tide-king')).toBeUndefined();
    rememberCamera('heron', undefined);
    expect(cameraOf('heron')).toBeUndefined();
  });
});
