import {
  CanvasTexture,
  Group,
  Mesh,
  MeshBasicMaterial,
  Quaternion,
  SphereGeometry,
  Sprite,
  SpriteMaterial,
  SRGBColorSpace,
  Vector3,
} from 'three';
import type { Pose } from '@hollow-stride/core';
import type { DisplayBody } from '../solver/messages';
import { pointName } from './point-names';

/** Height of a name in share of the view's height, at the distance of 1 that sprites of constant size are measured at. */
const TEXT = 0.026;
const PIXELS = 40;
/** The three points of a foot stand close together: their names spread up and down, in heights of a line. */
const RAISED: Readonly<Record<string, number>> = { heel: 0.9, ball: 0, tip: -0.9 };

interface Mark {
  readonly mesh: Mesh;
  readonly name: Sprite | undefined;
  readonly joint: number;
  readonly local: Float64Array;
}

/** The touch points of a body with their names, seen through everything. */
export class PointMarks {
  readonly group = new Group();
  private readonly geometry = new SphereGeometry(1, 10, 8);
  private readonly material: MeshBasicMaterial;
  private readonly marks: readonly Mark[];
  private readonly at = new Vector3();
  private readonly turn = new Quaternion();

  constructor({ about, height }: DisplayBody, colour: string) {
    this.material = new MeshBasicMaterial({ color: colour, depthTest: false, transparent: true, opacity: 0.9 });
    this.marks = (about?.points ?? []).map(({ name, joint, local }) => {
      const mesh = new Mesh(this.geometry, this.material);
      mesh.scale.setScalar(height * 0.009);
      mesh.renderOrder = 3;
      this.group.add(mesh);
      const text = spelled(pointName(name), colour);
      if (text) {
        const [side, part] = name.split('.');
        // Beside the body: its left is on the right of who looks at its front.
        text.center.set(side === 'left' ? -0.06 : side === 'right' ? 1.06 : 0.5, 0.5 + (RAISED[part] ?? (part ? 0 : -1)));
        this.group.add(text);
      }
      return { mesh, name: text, joint, local };
    });
  }

  pose({ positions, rotations }: Pose): void {
    for (const { mesh, name, joint, local } of this.marks) {
      mesh.position.fromArray(local).applyQuaternion(this.turn.fromArray(rotations, joint * 4));
      mesh.position.add(this.at.fromArray(positions, joint * 3));
      name?.position.copy(mesh.position);
    }
  }

  dispose(): void {
    for (const { name } of this.marks) {
      name?.material.map?.dispose();
      name?.material.dispose();
    }
    this.geometry.dispose();
    this.material.dispose();
    this.group.removeFromParent();
  }
}

/** A word as a picture of constant size on the screen; undefined where the browser draws none. */
function spelled(word: string, colour: string): Sprite | undefined {
  const canvas = document.createElement('canvas');
  const pen = canvas.getContext('2d');
  if (!pen) return undefined;
  const font = `600 ${PIXELS * 0.62}px ${getComputedStyle(document.body).fontFamily}`;
  pen.font = font;
  canvas.width = Math.ceil(pen.measureText(word).width) + PIXELS / 2;
  canvas.height = PIXELS;
  pen.font = font;
  pen.fillStyle = 'rgb(251 249 244 / 86%)';
  pen.beginPath();
  pen.roundRect(0, 0, canvas.width, canvas.height, 5);
  pen.fill();
  pen.fillStyle = colour;
  pen.textBaseline = 'middle';
  pen.fillText(word, PIXELS / 4, PIXELS / 2 + 1);
  const map = new CanvasTexture(canvas);
  map.colorSpace = SRGBColorSpace;
  const sprite = new Sprite(new SpriteMaterial({ map, depthTest: false, fog: false, sizeAttenuation: false }));
  sprite.scale.set((TEXT * canvas.width) / canvas.height, TEXT, 1);
  sprite.renderOrder = 4;
  return sprite;
}
