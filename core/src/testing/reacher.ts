/** Made-up arms for tests: hands that follow given places while the body below them moves as it does. */
import { between } from '../math/quat';
import type { Side } from '../label';

import { positionsOf, type Shape } from './bodies';
import type { Motion } from './motion';

export type Place = readonly [x: number, y: number, z: number];

/** Where a hand's joint shall be in a frame, in the world; undefined leaves the arm as it moves. */
export type Reach = (frame: number, shoulder: Place, arm: number) => Place | undefined;

/** A motion whose arms reach for places; elbows hang. Out of reach they are straight towards it. */
export function reaching(shape: Shape, motion: Motion, reach: Readonly<Partial<Record<Side, Reach>>>): Motion {
  const index = new Map(shape.joints.map(({ role }, j) => [role, j]));
  const count = shape.joints.length;
  const turns = motion.turns.slice();
  const moved = { ...motion, turns };
  const sizeOf = (role: string): number => Math.hypot(...shape.joints[index.get(role)!].offset);
  for (const side of ['left', 'right'] as const) {
    const to = reach[side];
    if (!to) continue;
    const [top, mid, end] = ['upperArm', 'lowerArm', 'hand'].map((part) => index.get(`${side}.${part}`)!);
    const upper = sizeOf(`${side}.lowerArm`);
    const lower = sizeOf(`${side}.hand`);
    for (let f = 0; f < motion.frames; f++) {
      const P = positionsOf(shape, moved, f);
      const shoulder = [P[top * 3], P[top * 3 + 1], P[top * 3 + 2]] as const;
      const target = to(f, shoulder, upper + lower);
      if (!target) continue;
      const way = target.map((x, c) => x - shoulder[c]);
      const size = Math.hypot(...way);
      const d = Math.min(Math.max(size, Math.abs(upper - lower) * 1.05), 0.995 * (upper + lower));
      const unit = way.map((x) => x / size);
      const along = (d * d + upper * upper - lower * lower) / (2 * d);
      const out = Math.sqrt(Math.max(0, upper * upper - along * along));
      // The elbow hangs below the line, square to it.
      const down = [0, -1, 0].map((x, c) => x + unit[1] * unit[c]);
      const n = Math.hypot(...down) || 1;
      const elbow = unit.map((x, c) => x * along + (down[c] / n) * out);
      const fore = unit.map((x, c) => x * d - elbow[c]);
      lay(f, top, mid, elbow);
      lay(f, mid, end, fore);
      for (let j = end; j < count; j++) {
        if (j !== end && !isBelow(j, end)) continue;
        for (let c = 0; c < 4; c++) turns[(f * count + j) * 4 + c] = turns[(f * count + mid) * 4 + c];
      }
    }
  }
  return moved;

  /** Turns a joint so that the bone to the next points along a way. */
  function lay(f: number, joint: number, next: number, way: readonly number[]): void {
    between(turns, (f * count + joint) * 4, Float64Array.from(shape.joints[next].offset), 0, Float64Array.from(way), 0);
  }

  function isBelow(joint: number, above: number): boolean {
    for (let j = joint; j >= 0; j = shape.joints[j].parent) if (j === above) return true;
    return false;
  }
}
