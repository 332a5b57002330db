import {
  CanvasTexture,
  CircleGeometry,
  Group,
  Mesh,
  MeshBasicMaterial,
  PlaneGeometry,
  Quaternion,
  RepeatWrapping,
  SRGBColorSpace,
  Vector3,
} from 'three';
import type { Incline } from '../solver/messages';

const TILE = 2;
const REACH = 60;
const LEVEL: Incline = { x: 0, z: 0, low: 0 };
/** Both are drawn facing along Z. */
const ACROSS = new Vector3(0, 0, 1);
const NORMAL = new Vector3();
const TILT = new Quaternion();

/** The stage's floor: planks with a mark at each metre, and a soft shade under the figure. */
export class Floor {
  readonly group = new Group();
  private readonly shade: Mesh;
  private readonly planks: Mesh;
  private readonly parts: Mesh[] = [];

  constructor() {
    const planks = new CanvasTexture(drawPlanks());
    planks.wrapS = planks.wrapT = RepeatWrapping;
    planks.repeat.set(REACH / TILE, REACH / TILE);
    planks.colorSpace = SRGBColorSpace;
    planks.anisotropy = 4;
    this.planks = new Mesh(new PlaneGeometry(REACH, REACH), new MeshBasicMaterial({ map: planks }));
    const shadeMap = new CanvasTexture(drawShade());
    this.shade = new Mesh(new CircleGeometry(0.55, 32), new MeshBasicMaterial({ map: shadeMap, transparent: true, depthWrite: false }));
    this.parts.push(this.planks, this.shade);
    this.group.add(...this.parts);
  }

  /** Puts the floor at a height, its shade under a place. @param incline how it slopes */
  place(height: number, x: number, z: number, size: number, incline?: Incline): void {
    const { x: sx, z: sz, low } = incline ?? LEVEL;
    TILT.setFromUnitVectors(ACROSS, NORMAL.set(-sx, 1, -sz).normalize());
    this.planks.quaternion.copy(TILT);
    this.planks.position.set(0, height - low, 0);
    this.shade.quaternion.copy(TILT);
    this.shade.position.set(x, height - low + x * sx + z * sz + 0.002, z);
    this.shade.scale.setScalar(size);
  }

  dispose(): void {
    for (const { geometry, material } of this.parts) {
      geometry.dispose();
      const own = material as MeshBasicMaterial;
      own.map?.dispose();
      own.dispose();
    }
  }
}

function canvas(size: number): { element: HTMLCanvasElement; pen: CanvasRenderingContext2D } {
  const element = document.createElement('canvas');
  element.width = element.height = size;
  return { element, pen: element.getContext('2d')! };
}

/** Two metres square: eight planks along Z, butt joints staggered, a small cross at each metre. */
function drawPlanks(): HTMLCanvasElement {
  const size = 512;
  const { element, pen } = canvas(size);
  const tones = ['#d9d3c5', '#d5cfc0', '#dcd6c9', '#d3ccbd'];
  const plank = size / 8;
  for (let i = 0; i < 8; i++) {
    pen.fillStyle = tones[(i * 3 + (i >> 2)) % 4];
    pen.fillRect(i * plank, 0, plank, size);
    pen.fillStyle = '#c2bba9';
    pen.fillRect(i * plank, 0, 1.5, size);
    pen.fillRect(i * plank, (i * 197) % 512, plank, 1.5);
  }
  pen.strokeStyle = '#7b8488';
  pen.lineWidth = 2;
  for (const x of [0, size / 2, size]) {
    for (const y of [0, size / 2, size]) {
      pen.beginPath();
      pen.moveTo(x - 9, y);
      pen.lineTo(x + 9, y);
      pen.moveTo(x, y - 9);
      pen.lineTo(x, y + 9);
      pen.stroke();
    }
  }
  return element;
}

function drawShade(): HTMLCanvasElement {
  const { element, pen } = canvas(128);
  const gradient = pen.createRadialGradient(64, 64, 4, 64, 64, 64);
  gradient.addColorStop(0, 'rgba(34,48,58,0.34)');
  gradient.addColorStop(1, 'rgba(34,48,58,0)');
  pen.fillStyle = gradient;
  pen.fillRect(0, 0, 128, 128);
  return element;
}
