import { BufferAttribute, BufferGeometry, Group, LineBasicMaterial, LineSegments, Matrix4, Quaternion, Vector3 } from 'three';
import type { Pose } from '@hollow-stride/core';
import type { Capsule, DisplayBody } from '../solver/messages';

/** Corners of a ring. */
const CORNERS = 28;
const UP = new Vector3(0, 1, 0);

interface Ring {
  readonly lines: LineSegments;
  readonly place: (pose: Pose) => void;
}

/** The room that a body keeps free, as rings: ellipsoids about trunk, head and thighs, capsules along the legs. */
export class Rooms {
  readonly group = new Group();
  private readonly rings: readonly Ring[];
  private readonly material: LineBasicMaterial;

  constructor({ about }: DisplayBody, colour: string) {
    this.material = new LineBasicMaterial({ color: colour, transparent: true, opacity: 0.85, depthTest: false });
    const volumes = about?.volumes ?? [];
    this.rings = [...volumes.map((volume) => this.ellipsoid(volume)), ...(about?.capsules ?? []).map((capsule) => this.capsule(capsule))];
    this.group.renderOrder = 2;
  }

  pose(pose: Pose): void {
    for (const { place } of this.rings) place(pose);
  }

  dispose(): void {
    for (const { lines } of this.rings) lines.geometry.dispose();
    this.material.dispose();
    this.group.removeFromParent();
  }

  private ellipsoid({ joint, turn, middle, half }: NonNullable<DisplayBody['about']>['volumes'][number]): Ring {
    const lines = this.add(sphereRings(1));
    // The joint's frame, then the middle, then back from the ellipsoid's own axes.
    const own = new Matrix4()
      .makeTranslation(middle[0], middle[1], middle[2])
      .multiply(new Matrix4().makeRotationFromQuaternion(new Quaternion(...turn).invert()))
      .multiply(new Matrix4().makeScale(half[0], half[1], half[2]));
    const [position, rotation, one] = [new Vector3(), new Quaternion(), new Vector3(1, 1, 1)];
    return {
      lines,
      place: ({ positions, rotations }) => {
        position.fromArray(positions, joint * 3);
        rotation.fromArray(rotations, joint * 4);
        lines.matrix.compose(position, rotation, one).multiply(own);
      },
    };
  }

  private capsule({ from, to, radius }: Capsule): Ring {
    const lines = this.add(tubeRings());
    const [a, b, turn, size] = [new Vector3(), new Vector3(), new Quaternion(), new Vector3()];
    return {
      lines,
      place: ({ positions }) => {
        a.fromArray(positions, from * 3);
        b.fromArray(positions, to * 3).sub(a);
        const length = b.length();
        turn.setFromUnitVectors(UP, b.divideScalar(length || 1));
        lines.matrix.compose(a, turn, size.set(radius, length, radius));
      },
    };
  }

  private add(points: Float32Array): LineSegments {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(points, 3));
    const lines = new LineSegments(geometry, this.material);
    lines.frustumCulled = false;
    lines.matrixAutoUpdate = false;
    lines.renderOrder = 2;
    this.group.add(lines);
    return lines;
  }
}

/** Points of a circle of radius 1, pairs of ends, each put somewhere. */
function ring(place: (x: number, y: number) => readonly [number, number, number]): number[] {
  return Array.from({ length: CORNERS }, (_, i) => [i, i + 1])
    .flat()
    .flatMap((i) => place(Math.cos((2 * Math.PI * i) / CORNERS), Math.sin((2 * Math.PI * i) / CORNERS)));
}

function sphereRings(radius: number): Float32Array {
  const around = [-0.6, 0, 0.6].flatMap((h) => {
    const r = Math.sqrt(1 - h * h);
    return ring((x, z) => [x * r, h, z * r]);
  });
  return Float32Array.from([...around, ...ring((x, y) => [x, y, 0]), ...ring((y, z) => [0, y, z])], (v) => v * radius);
}

/** Along a bone of length 1, of radius 1. */
function tubeRings(): Float32Array {
  const rings = [0, 1 / 3, 2 / 3, 1].flatMap((h) => ring((x, z) => [x, h, z]));
  const along = [0, 1, 2, 3].flatMap((i) => {
    const [x, z] = [Math.cos((i * Math.PI) / 2), Math.sin((i * Math.PI) / 2)];
    return [x, 0, z, x, 1, z];
  });
  return Float32Array.from([...rings, ...along]);
}
