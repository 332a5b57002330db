import type { MeshBody, PointWeights } from '@hollow-stride/core';
import type { Picture, PictureScale, PictureView } from './messages';

/** Room about the body in a picture, share of its size. */
const ROOM = 1.06;
/** Plain clay, and what a joint's weight is shown in. */
const CLAY: Colour = [204, 196, 180];
const WEIGHT: Colour = [154, 62, 20];
/** How dark a face is that turns away from the viewer. */
const SHADE = 0.42;

type Colour = readonly [red: number, green: number, blue: number];

/** Directions of a picture: to its right, and towards the viewer. */
export function axesOf(yaw: number): { right: readonly [number, number, number]; near: readonly [number, number, number] } {
  return { right: [Math.cos(yaw), 0, -Math.sin(yaw)], near: [Math.sin(yaw), 0, Math.cos(yaw)] };
}

/** How the whole of a body fits a picture; the same from all sides, so that views beside each other agree. */
export function scaleOf({ low, high }: { low: ArrayLike<number>; high: ArrayLike<number> }, width: number, height: number): PictureScale {
  const centre = [0, 1, 2].map((c) => (low[c] + high[c]) / 2) as [number, number, number];
  const across = Math.max(high[0] - low[0], high[2] - low[2]);
  return { perMetre: Math.min(width / (across * ROOM), height / ((high[1] - low[1]) * ROOM)), centre };
}

/** Pixel of a place, from the picture's upper left corner, and how near it is. */
export function pixelOf(
  place: ArrayLike<number>,
  { yaw, width, height }: PictureView,
  { perMetre, centre }: PictureScale,
): [number, number, number] {
  const { right, near } = axesOf(yaw);
  const [x, y, z] = [0, 1, 2].map((c) => place[c] - centre[c]);
  return [width / 2 + (x * right[0] + z * right[2]) * perMetre, height / 2 - y * perMetre, x * near[0] + z * near[2]];
}

/** The place of a pixel at a nearness. */
export function placeOf(
  x: number,
  y: number,
  nearness: number,
  { yaw, width, height }: PictureView,
  { perMetre, centre }: PictureScale,
): [number, number, number] {
  const { right, near } = axesOf(yaw);
  const [u, v] = [(x - width / 2) / perMetre, (height / 2 - y) / perMetre];
  return [centre[0] + u * right[0] + nearness * near[0], centre[1] + v, centre[2] + u * right[2] + nearness * near[2]];
}

/** Draws a mesh from the side: the nearest triangle of each pixel, shaded by how it faces the viewer. */
export function drawBody(body: MeshBody, view: PictureView, colours: Uint8Array | undefined): Picture {
  const { width, height, yaw } = view;
  const scale = scaleOf(body, width, height);
  const pixels = new Uint8ClampedArray(width * height * 4);
  const depth = new Float32Array(width * height).fill(-Infinity);
  const { positions: p, triangles } = body;
  const { right, near } = axesOf(yaw);
  const count = p.length / 3;
  const at = new Float32Array(count * 3);
  for (let i = 0; i < count; i++) {
    const [x, y, z] = [p[i * 3] - scale.centre[0], p[i * 3 + 1] - scale.centre[1], p[i * 3 + 2] - scale.centre[2]];
    at[i * 3] = width / 2 + (x * right[0] + z * right[2]) * scale.perMetre;
    at[i * 3 + 1] = height / 2 - y * scale.perMetre;
    at[i * 3 + 2] = x * near[0] + z * near[2];
  }
  for (let t = 0; t < triangles.length; t += 3) fill(triangles[t], triangles[t + 1], triangles[t + 2]);
  return { view, pixels, depth, scale };

  function fill(i: number, j: number, k: number): void {
    const [ax, ay, az] = [at[i * 3], at[i * 3 + 1], at[i * 3 + 2]];
    const [bx, by, bz] = [at[j * 3], at[j * 3 + 1], at[j * 3 + 2]];
    const [cx, cy, cz] = [at[k * 3], at[k * 3 + 1], at[k * 3 + 2]];
    const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
    if (area === 0) return;
    // How much the triangle faces the viewer: the share of its own area that is seen.
    const [ux, uy, uz] = [bx - ax, by - ay, (bz - az) * scale.perMetre];
    const [vx, vy, vz] = [cx - ax, cy - ay, (cz - az) * scale.perMetre];
    const n = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, area);
    const light = SHADE + (1 - SHADE) * (Math.abs(area) / n);
    const [x0, x1] = [Math.max(0, Math.ceil(Math.min(ax, bx, cx) - 0.5)), Math.min(width - 1, Math.floor(Math.max(ax, bx, cx) - 0.5))];
    const [y0, y1] = [Math.max(0, Math.ceil(Math.min(ay, by, cy) - 0.5)), Math.min(height - 1, Math.floor(Math.max(ay, by, cy) - 0.5))];
    for (let y = y0; y <= y1; y++) {
      for (let x = x0; x <= x1; x++) {
        const wa = ((bx - x - 0.5) * (cy - y - 0.5) - (by - y - 0.5) * (cx - x - 0.5)) / area;
        const wb = ((cx - x - 0.5) * (ay - y - 0.5) - (cy - y - 0.5) * (ax - x - 0.5)) / area;
        const wc = 1 - wa - wb;
        if (wa < 0 || wb < 0 || wc < 0) continue;
        const o = y * width + x;
        const z = wa * az + wb * bz + wc * cz;
        if (z <= depth[o]) continue;
        depth[o] = z;
        for (let c = 0; c < 3; c++) {
          const colour = colours ? wa * colours[i * 3 + c] + wb * colours[j * 3 + c] + wc * colours[k * 3 + c] : CLAY[c];
          pixels[o * 4 + c] = colour * light;
        }
        pixels[o * 4 + 3] = 255;
      }
    }
  }
}

/** A colour for each point: how much of it a joint moves, or a colour of its own for each joint, mixed. */
export function coloursOf({ joints, values }: PointWeights, names: readonly string[], shown: string): Uint8Array {
  const count = joints.length / 4;
  const out = new Uint8Array(count * 3);
  const joint = names.indexOf(shown);
  const own = names.map((_, j) => hue(j));
  for (let i = 0; i < count; i++) {
    for (let c = 0; c < 3; c++) {
      let value = 0;
      if (shown === 'all') for (let k = 0; k < 4; k++) value += values[i * 4 + k] * own[joints[i * 4 + k]][c];
      else {
        let weight = 0;
        for (let k = 0; k < 4; k++) if (joints[i * 4 + k] === joint) weight += values[i * 4 + k];
        value = CLAY[c] + weight * (WEIGHT[c] - CLAY[c]);
      }
      out[i * 3 + c] = value;
    }
  }
  return out;
}

/** Colours far apart for neighbours in a list: steps of the golden angle around the circle of hues. */
function hue(j: number): Colour {
  const turn = j * 2.399963;
  const tint = (shift: number): number => 150 + 62 * Math.cos(turn + shift) - 16 * (j % 3);
  return [tint(0), tint(2.0944), tint(4.18879)];
}
