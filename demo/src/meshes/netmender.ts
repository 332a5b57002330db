import { Human } from '../puppets/human';
import type { MeshBuilder } from '../mesh';
import type { V3 } from '../vectors';

/**
 * The Netmender: carved, painted and never jointed. A mesh without a skeleton, in centimetres with Z up; arms a little down, mittens, an
 * apron, a hat, and a coil of net over the left shoulder that the right one has not.
 */
function netmenderPlan(): Human {
  return new Human({
    name: (part) => part,
    axes: 'world',
    hips: [0, 0.9, 0],
    spine: [
      [0, 0.98, -0.005],
      [0, 1.1, -0.01],
      [0, 1.22, -0.008],
    ],
    neck: [[0, 1.36, 0]],
    head: [0, 1.43, 0.015],
    crown: [0, 1.65, 0.02],
    clavicle: [0.03, 1.31, 0.005],
    arm: [
      [0.178, 1.32, -0.008],
      [0.385, 1.17, -0.014],
      [0.575, 1.03, 0.002],
    ],
    fingers: {},
    leg: [
      [0.094, 0.86, 0],
      [0.1, 0.475, 0.01],
      [0.104, 0.088, -0.014],
    ],
    ball: [0.112, 0.024, 0.118],
    toeTip: [0.116, 0.02, 0.19],
  });
}

export const NETMENDER_JOINTS = netmenderPlan().rig.joints;

/** The Netmender as the text of an OBJ file. */
export function netmender(): Uint8Array {
  const p = netmenderPlan();
  const { mesh: m } = p;
  m.tube(
    'smock',
    [
      p.ring(0.78, 0.16, 0.135),
      p.ring(0.8, 0.175, 0.15),
      p.ring(0.92, 0.168, 0.14),
      p.ring(1.02, 0.15, 0.122),
      p.ring(1.14, 0.165, 0.13),
      p.ring(1.25, 0.182, 0.13),
      p.ring(1.32, 0.17, 0.112),
      p.ring(1.355, 0.09, 0.08),
    ],
    [0, 0, 1],
    28,
  );
  const apron = (y: number, across: number, z: number): ReturnType<Human['ring']> => p.ring(y, across, 0.012, p.trunk(y), z);
  m.tube('apron', [apron(0.62, 0.13, 0.15), apron(0.78, 0.13, 0.155), apron(1.0, 0.11, 0.132), apron(1.2, 0.09, 0.134)], [0, 0, 1], 14);
  const centre: V3 = [0, 1.52, 0.022];
  p.face('skin', 'eyes', centre, 0.108);
  const head = p.w(['head', 1]);
  m.tube(
    'hat',
    [
      { at: [0, 1.575, 0.005], across: 0.16, deep: 0.16, weights: head },
      { at: [0, 1.59, 0.005], across: 0.155, deep: 0.155, weights: head },
      { at: [0, 1.6, 0.003], across: 0.1, deep: 0.104, weights: head },
      { at: [0, 1.68, 0], across: 0.085, deep: 0.088, weights: head },
      { at: [0, 1.69, 0], across: 0.05, deep: 0.05, weights: head },
    ],
    [0, 0, 1],
    24,
  );
  for (const [i, r] of [0.2, 0.215, 0.2].entries()) coil(m, [0.09, 1.2, 0.0], r, 0.022, i * 0.035 - 0.035);
  for (const side of ['L', 'R'] as const) {
    p.limbs(side, { sleeve: 'smock', cuff: 'apron', leg: 'hose', shank: 'hose' }, [0.064, 0.054, 0.044], [0.088, 0.068, 0.05]);
    mitten(p, side);
    p.shoe(side, 'boots', 1);
  }
  return objText('netmender', m);
}

/** A ring of net that hangs from the left shoulder to the right hip. */
function coil(m: MeshBuilder, at: V3, radius: number, thick: number, ahead: number): void {
  const rings = Array.from({ length: 25 }, (_, i) => {
    const a = (i / 24) * Math.PI * 1.96;
    const [u, v] = [Math.cos(a) * radius, Math.sin(a) * radius * 0.8];
    return {
      at: [at[0] + 0.75 * u - 0.3 * v, at[1] + 0.65 * u + 0.5 * v, at[2] + ahead + 0.8 * v] as V3,
      across: thick,
      deep: thick,
      weights: [],
    };
  });
  m.tube('net', rings, [0, 0, 1], 8);
}

function mitten(p: Human, side: 'L' | 'R'): void {
  const wrist = p.at(`${side}.hand`);
  const s = side === 'L' ? 1 : -1;
  const along = (d: number, z = 0): V3 => [wrist[0] + s * d * 0.8, wrist[1] - d * 0.6, wrist[2] + z];
  const ring = (d: number, across: number, deep: number) => ({ at: along(d), across, deep, weights: [] });
  p.mesh.tube('skin', [
    ring(-0.01, 0.03, 0.03),
    ring(0.04, 0.026, 0.042),
    ring(0.09, 0.024, 0.044),
    ring(0.14, 0.02, 0.036),
    ring(0.17, 0.01, 0.018),
  ]);
  p.mesh.tube(
    'skin',
    [0.02, 0.05, 0.08, 0.1].map((d, i) => ({
      at: along(d, 0.03 + 0.012 * i),
      across: 0.015 - 0.002 * i,
      deep: 0.015 - 0.002 * i,
      weights: [],
    })),
  );
}

/** Meshes by colour as an OBJ file in centimetres with Z up. */
function objText(name: string, mesh: MeshBuilder): Uint8Array {
  const lines = [`# ${name}: made by the demo of Hollow Stride; centimetres, Z up`];
  let first = 1;
  const figure = (v: number): string => (Math.round(v * 1e4) / 1e4).toString();
  for (const [colour, { positions: v, normals: n, triangles }] of mesh.parts) {
    lines.push(`g ${colour}`, `usemtl ${colour}`);
    for (let i = 0; i < v.length; i += 3) lines.push(`v ${figure(v[i] * 100)} ${figure(-v[i + 2] * 100)} ${figure(v[i + 1] * 100)}`);
    for (let i = 0; i < n.length; i += 3) lines.push(`vn ${figure(n[i])} ${figure(-n[i + 2])} ${figure(n[i + 1])}`);
    const corner = (k: number): string => `${triangles[k] + first}//${triangles[k] + first}`;
    for (let i = 0; i < triangles.length; i += 3) lines.push(`f ${corner(i)} ${corner(i + 1)} ${corner(i + 2)}`);
    first += v.length / 3;
  }
  return new TextEncoder().encode(`${lines.join('\n')}\n`);
}
