import { type InstancedMesh, Matrix4, type Mesh, PerspectiveCamera, Vector3 } from 'three';
import { type LineSegments2 } from 'three/addons/lines/LineSegments2.js';
import { emptyPose, forward, type Pose } from '@hollow-stride/core';
import { makeSolved } from '../testing/solved';
import { HollowSkeleton, SolidSkeleton } from './skeleton-figure';

describe('the figures on the stage', () => {
  const body = makeSolved().performer;
  const { skeleton } = body;

  function rest(): Pose {
    const pose = emptyPose(skeleton);
    forward(pose, skeleton.parents, skeleton.restT, skeleton.restR);
    return pose;
  }

  /** Bones that are long enough to be drawn, tips included. */
  const boneCount =
    skeleton.names.filter((_, j) => {
      const length = (values: Float64Array): number => Math.hypot(values[j * 3], values[j * 3 + 1], values[j * 3 + 2]);
      return skeleton.parents[j] >= 0 && length(skeleton.restT) > body.height * 0.004;
    }).length + skeleton.names.filter((_, j) => Number.isFinite(skeleton.tips[j * 3])).length;

  it('draw the performer solid: a peg from each joint to the next', () => {
    const figure = new SolidSkeleton(body, '#3A5A95');
    const pose = rest();
    figure.pose(pose);
    const [pegs, balls] = figure.group.children as [InstancedMesh, InstancedMesh];
    expect([pegs.count, balls.count]).toEqual([boneCount, skeleton.names.length]);
    const matrix = new Matrix4();
    pegs.getMatrixAt(0, matrix);
    const end = new Vector3(0, 1, 0).applyMatrix4(matrix);
    // The first bone runs from the hips to the first joint that hangs on them.
    const child = skeleton.parents.indexOf(0);
    expect(end.distanceTo(new Vector3().fromArray(pose.positions, child * 3))).toBeLessThan(1e-5);
    figure.dispose();
  });

  it('draw things beside the body as boxes that go and turn with them', () => {
    for (const [Figure, edges] of [
      [SolidSkeleton, false],
      [HollowSkeleton, true],
    ] as const) {
      const figure = new Figure({ ...body, props: [2] }, '#3A5A95');
      const box = figure.group.children.at(-1)!.children[0] as Mesh;
      expect(box.type).toBe(edges ? 'LineSegments' : 'Mesh');
      const pose = rest();
      figure.pose(pose);
      expect(Math.abs(box.quaternion.w)).toBeCloseTo(1, 9);
      pose.positions.set([1, 2, 3], 6);
      pose.rotations.set([0, 1, 0, 0], 8);
      figure.pose(pose);
      expect(box.position.toArray()).toEqual([1, 2, 3]);
      expect(Math.abs(box.quaternion.w)).toBeLessThan(0.99);
      figure.dispose();
    }
  });

  it('draw the character hollow: outlines on both flanks of a bone, facing the camera', () => {
    const figure = new HollowSkeleton(body, '#C2602A');
    const pose = rest();
    figure.pose(pose);
    const camera = new PerspectiveCamera();
    camera.position.set(0, 1, 5);
    camera.lookAt(0, 1, 0);
    camera.updateMatrixWorld();
    figure.face(camera);
    const outline = figure.group.children[0] as LineSegments2;
    const start = outline.geometry.getAttribute('instanceStart');
    // Seven segments a flank, two flanks a bone.
    expect(start.count).toBe(boneCount * 14);
    // Seen from the front, both flanks of a bone lie in a plane square to the view: mirrored about the bone.
    const p = (i: number): Vector3 => new Vector3(start.getX(i), start.getY(i), start.getZ(i));
    const middle = p(0).add(p(7)).multiplyScalar(0.5);
    expect(middle.distanceTo(new Vector3().fromArray(pose.positions, 0))).toBeLessThan(1e-4);
    figure.dispose();
  });

  it('leave nothing behind when they are disposed of', () => {
    const figure = new SolidSkeleton(body, '#3A5A95');
    const freed: string[] = [];
    for (const part of figure.group.children as InstancedMesh[]) part.geometry.addEventListener('dispose', () => freed.push(part.type));
    figure.dispose();
    expect(freed.length).toBe(2);
  });
});
