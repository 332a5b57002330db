import { BufferAttribute, BufferGeometry, Group, Line, LineBasicMaterial, LineDashedMaterial, type Material } from 'three';
import { ClipReader, type Clip } from '@hollow-stride/core';
import type { DisplayBody } from '../solver/messages';

/** Points of a trail: a long take is not drawn finer than this. */
const POINTS = 500;

/** The ways of feet, hands and hips through the whole take: what belongs to the left solid, to the right dashed. */
export class Trails {
  readonly group = new Group();
  private readonly lines: readonly Line[];

  constructor(body: DisplayBody, clip: Clip, colour: string) {
    const reader = new ClipReader(body.skeleton, clip);
    const step = Math.max(1, Math.ceil(clip.frames / POINTS));
    const count = Math.ceil(clip.frames / step);
    const places = body.ends.map(() => new Float32Array(count * 3));
    for (let i = 0; i < count; i++) {
      const { positions } = reader.at(i * step);
      body.ends.forEach(({ joint }, k) => places[k].set(positions.subarray(joint * 3, joint * 3 + 3), i * 3));
    }
    const size = body.height * 0.02;
    this.lines = body.ends.map(({ side }, k) => {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(places[k], 3));
      const line = new Line(
        geometry,
        side === 'right'
          ? new LineDashedMaterial({ color: colour, dashSize: size, gapSize: size })
          : new LineBasicMaterial({ color: colour, transparent: side === undefined, opacity: side === undefined ? 0.5 : 1 }),
      );
      line.frustumCulled = false;
      if (side === 'right') line.computeLineDistances();
      this.group.add(line);
      return line;
    });
  }

  dispose(): void {
    for (const line of this.lines) {
      line.geometry.dispose();
      (line.material as Material).dispose();
    }
    this.group.removeFromParent();
  }
}
