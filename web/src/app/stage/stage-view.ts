import { Color, DirectionalLight, Fog, HemisphereLight, PerspectiveCamera, Scene, Vector3, WebGLRenderer } from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { ClipReader } from '@hollow-stride/core';
import type { DisplayBody, Solved } from '../solver/messages';
import { Floor } from './floor';
import { MeshFigure } from './mesh-figure';
import { HollowSkeleton, SolidSkeleton, type SkeletonFigure } from './skeleton-figure';
import type { StageOptions, ViewName } from './options';

const FOV = 30;
const MAX_PIXEL_RATIO = 1.5;
const VIEWS: Readonly<Record<ViewName, readonly [number, number, number]>> = {
  front: [0, 0.1, 1],
  side: [1, 0.1, 0],
  top: [0, 1, 0.001],
  free: [0.78, 0.3, 0.85],
};

/** One side of the stage: a figure on its floor. */
interface SideView {
  readonly scene: Scene;
  readonly floor: Floor;
  skeleton: SkeletonFigure | undefined;
  mesh: MeshFigure | undefined;
  reader: ClipReader | undefined;
  before: ClipReader | undefined;
  floorHeight: number;
}

/** Owns all that is drawn in 3D and disposes of it. Draws only when something has changed. */
export class StageView {
  private readonly renderer: WebGLRenderer;
  private readonly performer = makeSide();
  private readonly character = makeSide();
  private readonly camera = new PerspectiveCamera(FOV, 1, 0.05, 80);
  /** Orbits the origin; the views look at their figures from the same place. */
  private readonly orbit = new PerspectiveCamera(FOV, 1, 0.05, 80);
  private readonly controls: OrbitControls;
  private readonly target = new Vector3();
  private readonly anchor = new Vector3();
  private solved: Solved | undefined;
  private frame = 0;
  private size = 1.8;
  private pending = 0;
  private meshRequest = 0;
  private readonly retired: SkeletonFigure[] = [];
  private compiling = 0;
  private gone = false;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private options: StageOptions,
    private readonly loadFile: (hash: string) => Promise<ArrayBuffer>,
    onFree: () => void,
  ) {
    this.renderer = new WebGLRenderer({ canvas, antialias: !drawsInSoftware() });
    this.renderer.autoClear = false;
    this.controls = new OrbitControls(this.orbit, canvas);
    this.controls.enablePan = false;
    this.controls.addEventListener('start', onFree);
    this.controls.addEventListener('change', () => this.invalidate());
    this.look(options.view);
  }

  /** Shows a result; the view stays where it is when the pair is the same as before. */
  show(solved: Solved | undefined): void {
    const before = this.solved;
    this.solved = solved;
    if (!solved) {
      this.clear(this.performer);
      this.clear(this.character);
      this.invalidate();
      return;
    }
    const { performer, character, take, plain, contacts, floor } = solved;
    // A changed setting moves the same bodies: their figures stay.
    if (!this.performer.skeleton || before?.pair.take.file !== solved.pair.take.file) {
      this.replaceSkeleton(this.performer, new SolidSkeleton(performer, '#3A5A95'));
    }
    if (!this.character.skeleton || before?.pair.character.file !== solved.pair.character.file) {
      this.replaceSkeleton(this.character, new HollowSkeleton(character, '#C2602A'));
    }
    this.performer.reader = new ClipReader(performer.skeleton, take);
    this.performer.before = undefined;
    this.character.reader = new ClipReader(character.skeleton, solved.solved);
    this.character.before = new ClipReader(character.skeleton, plain);
    this.performer.floorHeight = contacts.floor;
    this.character.floorHeight = floor;
    const isNewPair = before?.pair.take.file !== solved.pair.take.file || before.pair.character.file !== solved.pair.character.file;
    if (isNewPair) {
      this.size = Math.max(performer.height, character.height);
      this.look(this.options.view);
    }
    if (before?.character.mesh?.file !== character.mesh?.file) void this.replaceMesh(character);
    this.applyOptions();
  }

  setFrame(frame: number): void {
    this.frame = frame;
    this.invalidate();
  }

  setOptions(options: StageOptions): void {
    const turned = options.view !== this.options.view;
    this.options = options;
    if (turned && options.view !== 'free') this.look(options.view);
    this.applyOptions();
  }

  resize(width: number, height: number): void {
    this.renderer.setPixelRatio(Math.min(devicePixelRatio, MAX_PIXEL_RATIO));
    this.renderer.setSize(Math.max(1, width), Math.max(1, height), false);
    this.invalidate();
  }

  /** Turns or moves the view by the keyboard: degrees around, degrees up, factor nearer. */
  nudge(around: number, up: number, nearer: number): void {
    const p = this.orbit.position;
    const r = p.length() / nearer;
    const theta = Math.atan2(p.x, p.z) + (around * Math.PI) / 180;
    const phi = Math.min(Math.PI / 2 - 0.01, Math.max(-0.2, Math.asin(p.y / p.length()) + (up * Math.PI) / 180));
    p.set(r * Math.cos(phi) * Math.sin(theta), r * Math.sin(phi), r * Math.cos(phi) * Math.cos(theta));
    this.controls.update();
    this.invalidate();
  }

  dispose(): void {
    this.gone = true;
    for (const figure of this.retired.splice(0)) figure.dispose();
    cancelAnimationFrame(this.pending);
    this.controls.dispose();
    for (const side of [this.performer, this.character]) {
      this.clear(side);
      side.floor.dispose();
    }
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }

  private look(view: ViewName): void {
    const distance = (this.size * 1.32) / (2 * Math.tan((FOV * Math.PI) / 360));
    this.orbit.position
      .set(...VIEWS[view])
      .normalize()
      .multiplyScalar(distance);
    this.controls.target.set(0, 0, 0);
    this.controls.update();
    this.invalidate();
  }

  private clear(side: SideView): void {
    side.skeleton?.dispose();
    side.mesh?.dispose();
    side.skeleton = side.mesh = side.reader = side.before = undefined;
  }

  private replaceSkeleton(side: SideView, skeleton: SkeletonFigure): void {
    // The old figure is let go only when the new one has been drawn, so that both can use the same compiled shaders.
    if (side.skeleton) {
      side.scene.remove(side.skeleton.group);
      this.retired.push(side.skeleton);
    }
    side.skeleton = skeleton;
    side.scene.add(skeleton.group);
    this.compile(side);
  }

  /** Has the shaders of a side compiled beside the page; nothing is drawn until they are ready. */
  private compile({ scene }: SideView): void {
    this.compiling++;
    const done = (): void => {
      this.compiling--;
      this.invalidate();
    };
    this.renderer.compileAsync(scene, this.camera).then(done, done);
  }

  private async replaceMesh({ mesh }: DisplayBody): Promise<void> {
    const request = ++this.meshRequest;
    const side = this.character;
    side.mesh?.dispose();
    side.mesh = undefined;
    if (!mesh) return;
    const figure = await MeshFigure.load(await this.loadFile(mesh.file), mesh).catch(() => undefined);
    // Without its mesh the character still has its skeleton to be seen by.
    if (!figure) return;
    if (request !== this.meshRequest) {
      figure.dispose();
      return;
    }
    side.mesh = figure;
    side.scene.add(figure.group);
    this.compile(side);
    this.applyOptions();
  }

  private applyOptions(): void {
    const { show } = this.options;
    const hasMesh = this.character.mesh !== undefined;
    if (this.character.mesh) this.character.mesh.group.visible = show !== 'skeleton';
    if (this.character.skeleton) this.character.skeleton.group.visible = show !== 'mesh' || !hasMesh;
    this.invalidate();
  }

  private invalidate(): void {
    this.pending ||= requestAnimationFrame(() => {
      this.pending = 0;
      if (this.compiling > 0 || this.gone) return;
      this.draw();
      for (const figure of this.retired.splice(0)) figure.dispose();
    });
  }

  private draw(): void {
    const { renderer, canvas } = this;
    const width = canvas.clientWidth;
    const height = canvas.clientHeight;
    renderer.setScissorTest(true);
    const { layout } = this.options;
    if (layout === 'beside') {
      const half = Math.floor(width / 2);
      this.drawSide(this.performer, 0, half, height);
      this.drawSide(this.character, half, width - half, height);
    } else if (layout === 'performer') this.drawSide(this.performer, 0, width, height);
    else if (layout === 'character') this.drawSide(this.character, 0, width, height);
    else {
      this.drawOver(width, height);
    }
  }

  /** Over each other: the performer at the character's scale on the character's floor, the character drawn after it. */
  private drawOver(width: number, height: number): void {
    const { performer, character, renderer, solved } = this;
    if (!solved || !performer.skeleton) return;
    const hips = this.poseSide(character).clone();
    this.poseSide(performer);
    this.aim(character, hips, width, height, Math.max(solved.character.height, solved.performer.height * solved.lift));
    character.floor.place(character.floorHeight, hips.x, hips.z, this.size / 1.8);
    performer.skeleton.group.scale.set(solved.stride, solved.lift, solved.stride);
    performer.floor.group.visible = false;
    performer.scene.background = null;
    character.floor.group.visible = true;
    character.skeleton?.face(this.camera);
    renderer.setViewport(0, 0, width, height);
    renderer.setScissor(0, 0, width, height);
    renderer.clear();
    renderer.render(character.scene, this.camera);
    if (this.options.show !== 'mesh' || !character.mesh) {
      // An outline hides nothing: the solid performer goes first, the outline over it.
      renderer.render(performer.scene, this.camera);
      character.floor.group.visible = false;
      character.scene.background = null;
      renderer.render(character.scene, this.camera);
      character.scene.background = BACKGROUND;
      character.floor.group.visible = true;
    } else renderer.render(performer.scene, this.camera);
    performer.skeleton.group.scale.setScalar(1);
    performer.floor.group.visible = true;
    performer.scene.background = BACKGROUND;
  }

  private poseSide(side: SideView): Vector3 {
    const reader = this.options.before && side.before ? side.before : side.reader;
    if (!reader) return this.target.set(0, side.floorHeight + this.size / 2, 0);
    const pose = reader.at(Math.min(this.frame, reader.clip.frames - 1));
    side.skeleton?.pose(pose);
    side.mesh?.pose(pose);
    const hips = side === this.performer ? this.solved!.performer.hips : this.solved!.character.hips;
    return this.target.fromArray(pose.positions, hips * 3);
  }

  private drawSide(side: SideView, left: number, width: number, height: number): void {
    const { renderer, camera } = this;
    const hips = this.poseSide(side);
    side.floor.place(side.floorHeight, hips.x, hips.z, this.size / 1.8);
    this.aim(side, hips, width, height, this.size);
    side.skeleton?.face(camera);
    renderer.setViewport(left, 0, width, height);
    renderer.setScissor(left, 0, width, height);
    renderer.clear();
    renderer.render(side.scene, camera);
  }

  /** Points the camera at a figure of a size, from where the person has turned the view. */
  private aim(side: SideView, hips: Vector3, width: number, height: number, size: number): void {
    const { camera } = this;
    if (this.options.follow) this.anchor.set(hips.x, 0, hips.z);
    else this.anchor.copy(firstHips(side, side === this.performer ? this.solved?.performer : this.solved?.character));
    this.anchor.y = side.floorHeight + size * 0.5;
    camera.aspect = width / height;
    camera.fov = FOV;
    camera.updateProjectionMatrix();
    // A narrow view steps back until the figure's width fits too; a larger figure until all of it does.
    const back = (size / this.size) * Math.max(1, 0.62 / camera.aspect);
    camera.position.copy(this.orbit.position).multiplyScalar(back).add(this.anchor);
    camera.lookAt(this.anchor);
    camera.updateMatrixWorld();
  }
}

const BACKGROUND = new Color('#E3DED3');

function makeSide(): SideView {
  const scene = new Scene();
  scene.background = BACKGROUND;
  scene.fog = new Fog('#E3DED3', 9, 26);
  const floor = new Floor();
  const sun = new DirectionalLight('#fff6e6', 2.1);
  sun.position.set(2.5, 5, 4);
  scene.add(new HemisphereLight('#f6f3ec', '#8f887a', 1.9), sun, floor.group);
  return { scene, floor, skeleton: undefined, mesh: undefined, reader: undefined, before: undefined, floorHeight: 0 };
}

const FIRST = new Vector3();

/** Where the hips are in the first frame, for a view that stays. */
function firstHips(side: SideView, body: DisplayBody | undefined): Vector3 {
  if (!side.reader || !body) return FIRST.set(0, 0, 0);
  const reader = new ClipReader(side.reader.skeleton, side.reader.clip);
  return FIRST.fromArray(reader.at(0).positions, body.hips * 3);
}

/** True where WebGL is drawn by the processor: smoothing edges would cost more than it gives. */
function drawsInSoftware(): boolean {
  const probe = document.createElement('canvas').getContext('webgl2');
  const info = probe?.getExtension('WEBGL_debug_renderer_info');
  const name = probe && info ? String(probe.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
  probe?.getExtension('WEBGL_lose_context')?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name);
}
