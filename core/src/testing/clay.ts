import { random } from '../math/random';

type P = readonly [number, number, number];

/** A round piece of clay from one place to another, thick at both ends. */
interface Roll {
  readonly a: P;
  readonly b: P;
  readonly ra: number;
  readonly rb: number;
}

/** A body of clay in one closed surface, and where its joints are. */
export interface ClayBody {
  readonly positions: Float32Array;
  readonly triangles: Uint32Array;
  readonly joints: Readonly<Record<string, P>>;
  readonly height: number;
}

/** What a body of clay is like; lengths in metres. */
export interface ClayShape {
  readonly leg: number;
  readonly trunk: number;
  readonly arm: number;
  readonly head: number;
  readonly stout: number;
  /** Degrees of the arms under the level. */
  readonly droop: number;
}

/** A shape by a seed: from child to giant, lean to stout, arms level to well down. */
export function clayShape(seed: number): ClayShape {
  const r = random(seed);
  const size = r.range(0.7, 1.2);
  return {
    leg: size * r.range(0.72, 0.92),
    trunk: size * r.range(0.48, 0.56),
    arm: size * r.range(0.5, 0.6),
    head: r.range(0.2, 0.25) * (0.5 + 0.5 * size),
    stout: size * r.range(0.9, 1.15),
    droop: r.range(0, 55),
  };
}

/** A body of clay: rolls melted into each other, as one surface without anything inside. */
export function clayBody(shape: ClayShape, cell = 0.014): ClayBody {
  const { leg, trunk, arm, head, stout, droop } = shape;
  const ankleY = 0.085 * stout;
  const hip: P = [0.095 * stout, ankleY + leg, 0];
  const knee: P = [hip[0] + 0.004, ankleY + leg * 0.5, 0.012];
  const ankle: P = [hip[0] + 0.008, ankleY, -0.012];
  const ball: P = [ankle[0] + 0.006, 0.022 * stout, 0.13 * stout];
  const toe: P = [ankle[0] + 0.01, 0.018 * stout, 0.2 * stout];
  const neck: P = [0, hip[1] + trunk, 0];
  const chin: P = [0, neck[1] + 0.075, 0.01];
  const skull: P = [0, chin[1] + head * 0.5, 0.015];
  const shoulder: P = [0.175 * stout, neck[1] - 0.045, 0];
  const angle = (droop * Math.PI) / 180;
  const out = (from: P, length: number): P => [from[0] + length * Math.cos(angle), from[1] - length * Math.sin(angle), from[2] - 0.004];
  const elbow = out(shoulder, arm * 0.53);
  const wrist = out(elbow, arm * 0.47);
  const fingertip = out(wrist, arm * 0.33);
  const rolls: Roll[] = [];
  const both = (a: P, b: P, ra: number, rb: number): void => {
    for (const s of [1, -1]) rolls.push({ a: [s * a[0], a[1], a[2]], b: [s * b[0], b[1], b[2]], ra: ra * stout, rb: rb * stout });
  };
  both(hip, knee, 0.078, 0.056);
  both(knee, ankle, 0.054, 0.04);
  both([ankle[0], 0.04 * stout, -0.05 * stout], ball, 0.036, 0.03);
  both(ball, [toe[0], toe[1], toe[2] - 0.02], 0.026, 0.018);
  both(ankle, [ankle[0], 0.045 * stout, -0.02], 0.04, 0.036);
  both([0.04, hip[1] + 0.02 * stout, 0], [0.06, hip[1] + trunk * 0.55, 0], 0.1, 0.085);
  both([0.06, hip[1] + trunk * 0.55, 0], [0.08, hip[1] + trunk * 0.85, 0], 0.085, 0.075);
  both([0.03, neck[1] - 0.05, 0], shoulder, 0.06, 0.055);
  both(shoulder, elbow, 0.052, 0.042);
  both(elbow, wrist, 0.042, 0.03);
  both(wrist, out(wrist, arm * 0.15), 0.03, 0.036);
  both(out(wrist, arm * 0.15), out(wrist, arm * 0.33 - 0.02 * stout), 0.036, 0.02);
  rolls.push({ a: [0, hip[1], 0], b: [0, neck[1] - 0.06, 0], ra: 0.09 * stout, rb: 0.07 * stout });
  rolls.push({ a: neck, b: skull, ra: 0.05 * stout, rb: 0.05 * stout });
  rolls.push({ a: [0, skull[1] - head * 0.12, 0.02], b: [0, skull[1] + head * 0.12, 0.005], ra: head * 0.38, rb: head * 0.4 });
  const { positions, triangles } = melt(rolls, cell);
  let [low, high] = [Infinity, -Infinity];
  for (let i = 1; i < positions.length; i += 3) [low, high] = [Math.min(low, positions[i]), Math.max(high, positions[i])];
  const joints = { hip, knee, ankle, ball, toe, neck, head: chin, shoulder, elbow, wrist, fingertip };
  const raised = Object.fromEntries(Object.entries(joints).map(([name, [x, y, z]]) => [name, [x, y - low, z] as const]));
  return { positions: positions.map((v, i) => (i % 3 === 1 ? v - low : v)), triangles, joints: raised, height: high - low };
}

/** The surface of rolls that run together (naive surface nets, Gibson 1998, over a smooth minimum of distances). */
function melt(rolls: readonly Roll[], cell: number): { positions: Float32Array; triangles: Uint32Array } {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const { a, b, ra, rb } of rolls) {
    for (let c = 0; c < 3; c++) {
      low[c] = Math.min(low[c], a[c] - ra, b[c] - rb);
      high[c] = Math.max(high[c], a[c] + ra, b[c] + rb);
    }
  }
  // Off the grid's own middle, so that no cell boundary falls on the plane between the sides.
  const origin = low.map((v, c) => v - 2.37 * cell - c * 0.11 * cell);
  const n = high.map((v, c) => Math.ceil((v - origin[c]) / cell) + 3);
  const field = new Float32Array(n[0] * n[1] * n[2]);
  for (let z = 0, i = 0; z < n[2]; z++)
    for (let y = 0; y < n[1]; y++)
      for (let x = 0; x < n[0]; x++, i++) field[i] = distanceTo(rolls, origin[0] + x * cell, origin[1] + y * cell, origin[2] + z * cell);
  const steps = [1, n[0], n[0] * n[1]];
  const vertex = new Int32Array(field.length).fill(-1);
  const positions: number[] = [];
  for (let z = 0; z + 1 < n[2]; z++) {
    for (let y = 0; y + 1 < n[1]; y++) {
      for (let x = 0; x + 1 < n[0]; x++) {
        const at = x + y * steps[1] + z * steps[2];
        const sum = [0, 0, 0];
        let crossings = 0;
        for (let corner = 0; corner < 8; corner++) {
          for (let axis = 0; axis < 3; axis++) {
            if ((corner >> axis) & 1) continue;
            const offset = (corner & 1) + ((corner >> 1) & 1) * steps[1] + (corner >> 2) * steps[2];
            const [p, q] = [field[at + offset], field[at + offset + steps[axis]]];
            if (p < 0 === q < 0) continue;
            crossings++;
            for (let c = 0; c < 3; c++) sum[c] += ((corner >> c) & 1) + (c === axis ? p / (p - q) : 0);
          }
        }
        if (crossings === 0) continue;
        vertex[at] = positions.length / 3;
        [x, y, z].forEach((v, c) => positions.push(origin[c] + cell * (v + sum[c] / crossings)));
      }
    }
  }
  const triangles: number[] = [];
  for (let z = 1; z + 1 < n[2]; z++) {
    for (let y = 1; y + 1 < n[1]; y++) {
      for (let x = 1; x + 1 < n[0]; x++) {
        const at = x + y * steps[1] + z * steps[2];
        for (let axis = 0; axis < 3; axis++) {
          const isIn = field[at] < 0;
          if (isIn === field[at + steps[axis]] < 0) continue;
          const [u, v] = [steps[(axis + 1) % 3], steps[(axis + 2) % 3]];
          const quad = [vertex[at], vertex[at - u], vertex[at - u - v], vertex[at - v]];
          const [a, b, c, d] = isIn ? quad : [...quad].reverse();
          triangles.push(a, b, c, a, c, d);
        }
      }
    }
  }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) };
}

const MELT = 0.012;

function distanceTo(rolls: readonly Roll[], x: number, y: number, z: number): number {
  let sum = Infinity;
  for (const { a, b, ra, rb } of rolls) {
    const [bx, by, bz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
    const [px, py, pz] = [x - a[0], y - a[1], z - a[2]];
    const t = Math.min(1, Math.max(0, (bx * px + by * py + bz * pz) / Math.max(1e-9, bx * bx + by * by + bz * bz)));
    const [fx, fy, fz] = [px - t * bx, py - t * by, pz - t * bz];
    const far = Math.sqrt(fx * fx + fy * fy + fz * fz) - (ra + t * (rb - ra));
    const h = Math.max(0, MELT - Math.abs(sum - far)) / MELT;
    sum = Math.min(sum, far) - (h * h * MELT) / 4;
  }
  return sum;
}

/** A body of clay as the text of an OBJ file. @param place where a point is written, for other axes and units */
export function clayObj({ positions, triangles }: Pick<ClayBody, 'positions' | 'triangles'>, place: (p: P) => P = (p) => p): Uint8Array {
  const lines: string[] = ['o clay'];
  for (let i = 0; i < positions.length; i += 3)
    lines.push(
      `v ${place([positions[i], positions[i + 1], positions[i + 2]])
        .map((v) => v.toFixed(6))
        .join(' ')}`,
    );
  for (let i = 0; i < triangles.length; i += 3) lines.push(`f ${triangles[i] + 1} ${triangles[i + 1] + 1} ${triangles[i + 2] + 1}`);
  return new TextEncoder().encode(lines.join('\n'));
}
