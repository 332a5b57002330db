import { BufferAttribute, BufferGeometry, DoubleSide, Group, LineBasicMaterial, LineLoop, Mesh, MeshBasicMaterial } from 'three';
import type { FloorPlan, Footprint } from '../solver/floor-plan';

const CORNERS = 20;
/** The support of a foot is drawn where it is higher than this over the floor, metres. */
const RAISED = 0.02;
/** Prints lie a little over what they are on, so that neither flickers. */
const OVER = 0.004;

/** Where feet stand through a take, at their own heights and slopes: left filled, right an outline; what is stood on above the floor too. */
export class Footprints {
  readonly group = new Group();
  private readonly line: LineBasicMaterial;
  private readonly fill: MeshBasicMaterial;
  private readonly step: MeshBasicMaterial;
  private readonly geometries: BufferGeometry[] = [];

  /** @param floor height of the floor that the prints are on @param scale by which the plan is larger than the body */
  constructor({ prints }: FloorPlan, colour: string, floor: number, scale = 1) {
    this.line = new LineBasicMaterial({ color: colour });
    this.fill = new MeshBasicMaterial({ color: colour, transparent: true, opacity: 0.45, side: DoubleSide, depthWrite: false });
    this.step = new MeshBasicMaterial({ color: '#8C8677', transparent: true, opacity: 0.35, side: DoubleSide, depthWrite: false });
    for (const print of prints) {
      const corners = outline(print, 1, scale);
      const loop = new LineLoop(this.keep(corners), this.line);
      this.group.add(loop);
      if (print.side === 'left') this.group.add(new Mesh(this.keep(fan(corners)), this.fill));
      if (Math.min(...print.heights) / scale > floor + RAISED)
        this.group.add(new Mesh(this.keep(fan(outline(print, 1.7, scale, -OVER))), this.step));
    }
    for (const child of this.group.children) child.frustumCulled = false;
  }

  dispose(): void {
    for (const geometry of this.geometries) geometry.dispose();
    this.line.dispose();
    this.fill.dispose();
    this.step.dispose();
    this.group.removeFromParent();
  }

  private keep(points: Float32Array): BufferGeometry {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(points, 3));
    this.geometries.push(geometry);
    return geometry;
  }
}

/** The corners of a sole, from behind the heel to before the toes. */
function outline({ heel, ball, heights }: Footprint, wide: number, scale: number, lift = OVER): Float32Array {
  const [dx, dz, rise] = [ball[0] - heel[0], ball[1] - heel[1], heights[1] - heights[0]];
  const out = new Float32Array(CORNERS * 3);
  for (let i = 0; i < CORNERS; i++) {
    const along = 0.6 + wide * 0.85 * Math.cos((2 * Math.PI * i) / CORNERS);
    const across = wide * 0.27 * Math.sin((2 * Math.PI * i) / CORNERS);
    out[i * 3] = (heel[0] + dx * along - dz * across) / scale;
    out[i * 3 + 1] = (heights[0] + rise * along) / scale + lift;
    out[i * 3 + 2] = (heel[1] + dz * along + dx * across) / scale;
  }
  return out;
}

/** Triangles from the first corner to all others. */
function fan(corners: Float32Array): Float32Array {
  const out: number[] = [];
  for (let i = 1; i + 1 < corners.length / 3; i++) {
    for (const k of [0, i, i + 1]) out.push(corners[k * 3], corners[k * 3 + 1], corners[k * 3 + 2]);
  }
  return Float32Array.from(out);
}
