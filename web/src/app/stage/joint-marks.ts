import { type Camera, DoubleSide, Group, Mesh, MeshBasicMaterial, RingGeometry } from 'three';
import type { Pose } from '@hollow-stride/core';

const ACT = '#0E6A64';
const MOST = 8;

/** Rings about chosen joints, drawn over everything: a full one for the joint, a thin one for its partner. */
export class JointMarks {
  readonly group = new Group();
  private readonly material = new MeshBasicMaterial({ color: ACT, depthTest: false, transparent: true, side: DoubleSide });
  private readonly thick = new RingGeometry(0.62, 1, 28);
  private readonly thin = new RingGeometry(0.86, 1, 28);
  private readonly rings = Array.from({ length: MOST }, () => new Mesh(this.thick, this.material));
  private joints: readonly { joint: number; solid: boolean }[] = [];

  constructor() {
    for (const ring of this.rings) {
      ring.renderOrder = 5;
      ring.frustumCulled = false;
      this.group.add(ring);
    }
  }

  set(joints: readonly { joint: number; solid: boolean }[]): void {
    this.joints = joints.slice(0, MOST);
  }

  pose({ positions }: Pose, camera: Camera, height: number): void {
    this.rings.forEach((ring, i) => {
      const mark = this.joints[i] as { joint: number; solid: boolean } | undefined;
      ring.visible = mark !== undefined && mark.joint >= 0 && mark.joint * 3 < positions.length;
      if (!ring.visible || !mark) return;
      ring.geometry = mark.solid ? this.thick : this.thin;
      ring.position.fromArray(positions, mark.joint * 3);
      ring.quaternion.copy(camera.quaternion);
      ring.scale.setScalar(height * (mark.solid ? 0.024 : 0.028));
    });
  }

  dispose(): void {
    this.thick.dispose();
    this.thin.dispose();
    this.material.dispose();
    this.group.removeFromParent();
  }
}
