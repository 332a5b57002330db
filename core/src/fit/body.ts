import type { Surface } from '../formats';
import { placeMatrix } from '../math/matrix';
import { fromAxisAngle, mul } from '../math/quat';
import { PI } from '../math/trig';
import type { Stand } from '../recipe';
import { makeBasis } from '../skeleton';
import { shellsOf, type Shells } from './shells';

/** A mesh as it stands: metres, Y up, its front towards +Z, its lowest point on the floor. */
export interface MeshBody {
  readonly surface: Surface;
  /** 3 a point. */
  readonly positions: Float32Array;
  readonly triangles: Uint32Array;
  readonly shells: Shells;
  /** Column-major 4 × 4: the surface's space to this one. */
  readonly toBody: Float64Array;
  readonly low: Float64Array;
  readonly high: Float64Array;
  readonly height: number;
}

const QUARTER = PI / 2;

/** Stands a surface up. */
export function standUp(surface: Surface, { metres, up, quarter }: Stand): MeshBody {
  const { turn } = makeBasis(metres, up);
  // To the left, seen from above: +Z towards +X.
  const left = new Float64Array(4);
  fromAxisAngle(left, 0, 0, 1, 0, quarter * QUARTER);
  mul(left, 0, left, 0, turn, 0);
  const toBody = placeMatrix(left, [0, 0, 0], metres);
  const { positions: given, triangles } = surface;
  const positions = new Float32Array(given.length);
  const [low, high] = [new Float64Array(3).fill(Infinity), new Float64Array(3).fill(-Infinity)];
  const used = new Uint8Array(given.length / 3);
  for (const point of triangles) used[point] = 1;
  for (let i = 0; i < given.length; i += 3) {
    for (let r = 0; r < 3; r++) {
      const value = toBody[r] * given[i] + toBody[4 + r] * given[i + 1] + toBody[8 + r] * given[i + 2];
      positions[i + r] = value;
      if (used[i / 3] === 0) continue;
      if (value < low[r]) low[r] = value;
      if (value > high[r]) high[r] = value;
    }
  }
  // The floor under the lowest point; sideways and ahead the file's own place stays.
  toBody[13] = -low[1];
  for (let i = 1; i < positions.length; i += 3) positions[i] -= low[1];
  high[1] -= low[1];
  low[1] = 0;
  return { surface, positions, triangles, shells: shellsOf(positions, triangles), toBody, low, high, height: Math.max(1e-6, high[1]) };
}
