import { BoxGeometry, EdgesGeometry, Group, LineBasicMaterial, LineSegments, Mesh, MeshLambertMaterial, Quaternion } from 'three';
import { restPose, type Pose } from '@hollow-stride/core';
import type { DisplayBody } from '../solver/messages';

/** Edge of a thing whose size nobody knows, in share of the body's height. */
const SIZE = 0.13;

/** Things beside a body, as boxes: the performer's solid, the character's as edges. They stand as they do at rest, turned as they turn. */
export class PropMarks {
  readonly group = new Group();
  private readonly marks: readonly { readonly joint: number; readonly shape: Mesh | LineSegments; readonly back: Quaternion }[];
  private readonly turn = new Quaternion();

  constructor({ skeleton, height, props = [] }: DisplayBody, colour: string, solid: boolean) {
    const rest = props.length > 0 ? restPose(skeleton).rotations : undefined;
    const box = (): BoxGeometry => new BoxGeometry(SIZE * height, SIZE * height, SIZE * height);
    this.marks = props.map((joint) => {
      const edges = (): LineSegments => {
        const whole = box();
        const lines = new LineSegments(new EdgesGeometry(whole), new LineBasicMaterial({ color: colour }));
        whole.dispose();
        return lines;
      };
      const shape = solid ? new Mesh(box(), new MeshLambertMaterial({ color: colour, transparent: true, opacity: 0.75 })) : edges();
      this.group.add(shape);
      return { joint, shape, back: new Quaternion().fromArray(rest!, joint * 4).invert() };
    });
  }

  pose({ positions, rotations }: Pose): void {
    for (const { joint, shape, back } of this.marks) {
      shape.position.fromArray(positions, joint * 3);
      shape.quaternion.copy(this.turn.fromArray(rotations, joint * 4).multiply(back));
    }
  }

  dispose(): void {
    for (const { shape } of this.marks) {
      shape.geometry.dispose();
      (shape.material as MeshLambertMaterial | LineBasicMaterial).dispose();
    }
  }
}
