/** Made-up skin for tests: balls about joints. */
import type { MotionFile, SkinPoints } from '../formats';
import { cos, sin } from '../math/trig';

const AROUND = 24;
const DOWN = 12;

/** A ball of skin about some joints of a file, each moved by its joint alone. @param radii by joint's name, units of the file */
export function ballSkin({ skeleton }: MotionFile, radii: Readonly<Record<string, number>>): SkinPoints {
  const locals: number[] = [];
  const joints: number[] = [];
  for (const [name, radius] of Object.entries(radii)) {
    const joint = skeleton.names.indexOf(name);
    for (let i = 0; i < DOWN; i++) {
      for (let k = 0; k < AROUND; k++) {
        const down = (Math.PI * (i + 0.5)) / DOWN;
        const around = (2 * Math.PI * k) / AROUND;
        locals.push(
          radius * sin(down) * cos(around),
          radius * cos(down),
          radius * sin(down) * sin(around),
          ...new Array<number>(9).fill(0),
        );
        joints.push(joint);
      }
    }
  }
  const count = joints.length;
  return {
    positions: new Float32Array(count * 3),
    joints: Int32Array.from(joints),
    influences: Int32Array.from(joints.flatMap((joint) => [joint, -1, -1, -1])),
    weights: Float32Array.from(joints.flatMap(() => [1, 0, 0, 0])),
    locals: Float32Array.from(locals),
    edges: new Uint32Array(0),
  };
}
