import { Group, Mesh, MeshBasicMaterial, Quaternion, SphereGeometry, Vector3 } from 'three';
import type { Pose } from '@hollow-stride/core';
import type { DisplayBody } from '../solver/messages';

/** The points of a body that are watched, seen through everything. */
export class PointMarks {
  readonly group = new Group();
  private readonly geometry = new SphereGeometry(1, 10, 8);
  private readonly material: MeshBasicMaterial;
  private readonly marks: readonly { readonly mesh: Mesh; readonly joint: number; readonly local: Float64Array }[];
  private readonly at = new Vector3();
  private readonly turn = new Quaternion();

  constructor({ about, height }: DisplayBody, colour: string) {
    this.material = new MeshBasicMaterial({ color: colour, depthTest: false, transparent: true, opacity: 0.9 });
    this.marks = (about?.points ?? []).map(({ joint, local }) => {
      const mesh = new Mesh(this.geometry, this.material);
      mesh.scale.setScalar(height * 0.009);
      mesh.renderOrder = 3;
      this.group.add(mesh);
      return { mesh, joint, local };
    });
  }

  pose({ positions, rotations }: Pose): void {
    for (const { mesh, joint, local } of this.marks) {
      mesh.position.fromArray(local).applyQuaternion(this.turn.fromArray(rotations, joint * 4));
      mesh.position.add(this.at.fromArray(positions, joint * 3));
    }
  }

  dispose(): void {
    this.geometry.dispose();
    this.material.dispose();
    this.group.removeFromParent();
  }
}
