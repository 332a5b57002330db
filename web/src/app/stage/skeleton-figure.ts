import {
  type Camera,
  Color,
  Group,
  InstancedMesh,
  LatheGeometry,
  Matrix4,
  MeshBasicMaterial,
  MeshLambertMaterial,
  Quaternion,
  RingGeometry,
  SphereGeometry,
  Vector2,
  Vector3,
  type Material,
} from 'three';
import { LineMaterial } from 'three/addons/lines/LineMaterial.js';
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js';
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js';
import type { Pose } from '@hollow-stride/core';
import type { DisplayBody } from '../solver/messages';
import { PropMarks } from './prop-marks';

/** The mark of the product: the performer is solid, the character hollow. */
export interface SkeletonFigure {
  readonly group: Group;
  pose(pose: Pose): void;
  /** Turns what is drawn flat to a camera. */
  face(camera: Camera): void;
  dispose(): void;
}

interface Bone {
  readonly from: number;
  /** Joint at the far end, or −1 for a tip. */
  readonly to: number;
  readonly tip: Vector3 | undefined;
  readonly width: number;
}

/** Half width of a bone along its length: turned like a peg, full near its start and slender at its end. */
const PROFILE: readonly (readonly [along: number, half: number])[] = [
  [0, 0.35],
  [0.05, 0.8],
  [0.16, 1],
  [0.35, 0.86],
  [0.6, 0.66],
  [0.85, 0.5],
  [0.96, 0.42],
  [1, 0.25],
];
const UP = new Vector3(0, 1, 0);

/** The performer: turned pegs with a ball at each labelled joint. */
export class SolidSkeleton implements SkeletonFigure {
  readonly group = new Group();
  private readonly bones: readonly Bone[];
  private readonly pegs: InstancedMesh;
  private readonly balls: InstancedMesh;
  private readonly joints: readonly number[];
  private readonly ballSize: number;
  private readonly props: PropMarks;
  private readonly matrix = new Matrix4();
  private readonly at = new Vector3();
  private readonly way = new Vector3();
  private readonly turn = new Quaternion();
  private readonly size = new Vector3();

  constructor(body: DisplayBody, colour: string) {
    this.bones = bonesOf(body);
    this.joints = labelledJoints(body);
    this.ballSize = body.height * 0.0135;
    this.props = new PropMarks(body, colour, true);
    const peg = new LatheGeometry([new Vector2(0, 0), ...PROFILE.map(([y, x]) => new Vector2(x, y)), new Vector2(0, 1)], 12);
    this.pegs = new InstancedMesh(peg, new MeshLambertMaterial({ color: colour }), Math.max(1, this.bones.length));
    this.balls = new InstancedMesh(
      new SphereGeometry(1, 12, 8),
      new MeshLambertMaterial({ color: new Color(colour).multiplyScalar(0.72) }),
      Math.max(1, this.joints.length),
    );
    for (const part of [this.pegs, this.balls]) {
      part.frustumCulled = false;
      this.group.add(part);
    }
    if (body.props?.length) this.group.add(this.props.group);
  }

  pose(pose: Pose): void {
    this.bones.forEach((bone, i) => {
      const length = layBone(bone, pose, this.at, this.way, this.turn);
      if (length > 1e-9) this.turn.setFromUnitVectors(UP, this.way.divideScalar(length));
      this.size.set(bone.width, length, bone.width);
      this.pegs.setMatrixAt(i, this.matrix.compose(this.at, this.turn, this.size));
    });
    this.size.setScalar(this.ballSize);
    this.turn.identity();
    this.joints.forEach((j, i) => {
      this.at.fromArray(pose.positions, j * 3);
      this.balls.setMatrixAt(i, this.matrix.compose(this.at, this.turn, this.size));
    });
    this.props.pose(pose);
    this.pegs.instanceMatrix.needsUpdate = true;
    this.balls.instanceMatrix.needsUpdate = true;
  }

  face(): void {
    // Solid all round: the same from everywhere.
  }

  dispose(): void {
    for (const part of [this.pegs, this.balls]) {
      part.geometry.dispose();
      (part.material as Material).dispose();
      part.dispose();
    }
    this.props.dispose();
    this.group.removeFromParent();
  }
}

/** The character: the same pegs as outlines, a ring at each labelled joint; drawn over the mesh. */
export class HollowSkeleton implements SkeletonFigure {
  readonly group = new Group();
  private readonly bones: readonly Bone[];
  private readonly joints: readonly number[];
  private readonly outline: LineSegments2;
  private readonly rings: InstancedMesh;
  private readonly points: Float32Array;
  private readonly ringSize: number;
  private readonly props: PropMarks;
  private readonly at = new Vector3();
  private readonly way = new Vector3();
  private readonly side = new Vector3();
  private readonly view = new Vector3();
  private readonly turn = new Quaternion();
  private readonly size = new Vector3();
  private readonly matrix = new Matrix4();
  private current: Pose | undefined;

  constructor(body: DisplayBody, colour: string) {
    this.bones = bonesOf(body);
    this.joints = labelledJoints(body);
    this.ringSize = body.height * 0.0115;
    this.props = new PropMarks(body, colour, false);
    const depthTest = body.mesh === undefined;
    // Two flanks of a bone, each a run of PROFILE.length − 1 segments of two points.
    this.points = new Float32Array(Math.max(1, this.bones.length) * 2 * (PROFILE.length - 1) * 6);
    const geometry = new LineSegmentsGeometry();
    geometry.setPositions(this.points);
    this.outline = new LineSegments2(geometry, new LineMaterial({ color: colour, linewidth: 2, depthTest, transparent: true }));
    this.rings = new InstancedMesh(
      new RingGeometry(0.55, 1, 20),
      new MeshBasicMaterial({ color: colour, depthTest, transparent: true }),
      Math.max(1, this.joints.length),
    );
    for (const part of [this.outline, this.rings]) {
      part.frustumCulled = false;
      part.renderOrder = 2;
      this.group.add(part);
    }
    if (body.props?.length) this.group.add(this.props.group);
  }

  pose(pose: Pose): void {
    this.current = pose;
    this.props.pose(pose);
  }

  face(camera: Camera): void {
    const pose = this.current;
    if (!pose || !this.group.visible) return;
    let o = 0;
    for (const bone of this.bones) {
      layBone(bone, pose, this.at, this.way, this.turn);
      this.view.setFromMatrixPosition(camera.matrixWorld).sub(this.at);
      this.side.crossVectors(this.way, this.view).normalize().multiplyScalar(bone.width);
      for (const flank of [1, -1]) {
        for (let i = 0; i + 1 < PROFILE.length; i++) {
          for (const [along, half] of [PROFILE[i], PROFILE[i + 1]]) {
            this.points[o++] = this.at.x + this.way.x * along + this.side.x * half * flank;
            this.points[o++] = this.at.y + this.way.y * along + this.side.y * half * flank;
            this.points[o++] = this.at.z + this.way.z * along + this.side.z * half * flank;
          }
        }
      }
    }
    const geometry = this.outline.geometry;
    const start = geometry.getAttribute('instanceStart') as unknown as { data: { array: Float32Array; needsUpdate: boolean } };
    start.data.array.set(this.points);
    start.data.needsUpdate = true;
    this.size.setScalar(this.ringSize);
    this.joints.forEach((j, i) => {
      this.at.fromArray(pose.positions, j * 3);
      this.rings.setMatrixAt(i, this.matrix.compose(this.at, camera.quaternion, this.size));
    });
    this.rings.instanceMatrix.needsUpdate = true;
  }

  dispose(): void {
    this.outline.geometry.dispose();
    this.outline.material.dispose();
    this.rings.geometry.dispose();
    (this.rings.material as Material).dispose();
    this.rings.dispose();
    this.props.dispose();
    this.group.removeFromParent();
  }
}

function labelledJoints(body: DisplayBody): number[] {
  return body.skeleton.names.map((_, j) => j).filter((j) => body.labelled[j] === 1);
}

/** Where a bone starts and the way to its end; returns its length. */
function layBone(bone: Bone, { positions, rotations }: Pose, at: Vector3, way: Vector3, turn: Quaternion): number {
  at.fromArray(positions, bone.from * 3);
  if (bone.to >= 0) way.fromArray(positions, bone.to * 3).sub(at);
  else {
    turn.fromArray(rotations, bone.from * 4);
    way.copy(bone.tip!).applyQuaternion(turn);
  }
  return way.length();
}

function bonesOf({ skeleton, height, hips }: DisplayBody): Bone[] {
  const bones: Bone[] = [];
  const widest = height * 0.026;
  const add = (from: number, to: number, tip: Vector3 | undefined, length: number): void => {
    if (length > height * 0.004) bones.push({ from, to, tip, width: Math.min(widest, length * 0.17) });
  };
  skeleton.parents.forEach((parent, j) => {
    const t = new Vector3().fromArray(skeleton.restT, j * 3);
    // The way from a ground joint to the hips is no bone.
    if (parent >= 0 && !(hips > 0 && skeleton.parents[parent] < 0 && t.length() > height * 0.3)) add(parent, j, undefined, t.length());
    const tip = new Vector3().fromArray(skeleton.tips, j * 3);
    if (Number.isFinite(tip.x)) add(j, -1, tip, tip.length());
  });
  return bones;
}
