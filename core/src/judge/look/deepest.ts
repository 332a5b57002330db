import type { Pose } from '../../skeleton';
import { heightOf, lowestOf, type Skin, type SkinPart } from './skin';

/** The deepest place of a part of the skin. */
export interface Deepest {
  height: number;
  frame: number;
  joint: number;
}

const nowhere = (): Deepest => ({ height: Infinity, frame: 0, joint: -1 });

/** The deepest place of feet, hands and the rest of the skin. */
export class SkinWatch {
  readonly deepest: Readonly<Record<SkinPart, Deepest>> = { feet: nowhere(), hands: nowhere(), body: nowhere() };

  constructor(private readonly skin: Skin) {}

  /** Joints that cannot be deeper are passed over. @param near skin higher than this cannot be below what the body rests on */
  see(f: number, pose: Pose, near: number): void {
    const { skin, deepest } = this;
    for (let g = 0; g < skin.groups.length; g++) {
      const group = skin.groups[g];
      const { joint, part, points } = group;
      const worst = deepest[part];
      if (lowestOf(group, pose) >= Math.min(worst.height, near)) continue;
      for (let k = 0; k < points.length; k++) {
        const height = heightOf(skin, points[k], pose);
        if (height >= worst.height) continue;
        worst.height = height;
        worst.frame = f;
        worst.joint = joint;
      }
    }
  }
}
