import { Color, DirectionalLight, Fog, HemisphereLight, Scene, WebGLRenderer } from 'three';
import { Floor } from './floor';

export const BACKGROUND = new Color('#E3DED3');
const MAX_PIXEL_RATIO = 1.5;

/** A lit scene with its floor. */
export function makeScene(): { scene: Scene; floor: Floor } {
  const scene = new Scene();
  scene.background = BACKGROUND;
  scene.fog = new Fog('#E3DED3', 9, 26);
  const floor = new Floor();
  const sun = new DirectionalLight('#fff6e6', 2.1);
  sun.position.set(2.5, 5, 4);
  scene.add(new HemisphereLight('#f6f3ec', '#8f887a', 1.9), sun, floor.group);
  return { scene, floor };
}

/** A renderer for a canvas. @throws Error where there is no WebGL */
export function makeRenderer(canvas: HTMLCanvasElement): WebGLRenderer {
  const renderer = new WebGLRenderer({ canvas, antialias: !drawsInSoftware() });
  renderer.autoClear = false;
  return renderer;
}

export function fit(renderer: WebGLRenderer, width: number, height: number): void {
  renderer.setPixelRatio(Math.min(devicePixelRatio, MAX_PIXEL_RATIO));
  renderer.setSize(Math.max(1, width), Math.max(1, height), false);
}

/** True where WebGL is drawn by the processor: smoothing edges would cost more than it gives. */
function drawsInSoftware(): boolean {
  const probe = document.createElement('canvas').getContext('webgl2');
  const info = probe?.getExtension('WEBGL_debug_renderer_info');
  const name = probe && info ? String(probe.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
  probe?.getExtension('WEBGL_lose_context')?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name);
}
