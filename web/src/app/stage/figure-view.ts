import { type Scene, Vector3, type WebGLRenderer } from 'three';
import { ClipReader, wiggle, type Clip, type FaceWeights, type Pose } from '@hollow-stride/core';
import type { DisplayBody } from '../solver/messages';
import type { Floor } from './floor';
import { Sight } from './framing';
import { JointMarks } from './joint-marks';
import { MeshFigure } from './mesh-figure';
import type { ShowName, ViewName } from './options';
import { climbed, Orbit } from './orbit';
import { fit, makeRenderer, makeScene } from './scenery';
import { HollowSkeleton, SolidSkeleton, type SkeletonFigure } from './skeleton-figure';

/** A figure to be shown: a body in a pose or moving by a clip. */
export interface Figure {
  /** The figure is built anew when its key changes. */
  readonly key: string;
  readonly display: DisplayBody;
  readonly look: 'performer' | 'character' | 'ghost';
  readonly clip?: Clip;
  /** Frame of the clip that the transport's frame 0 is. */
  readonly shift?: number;
  readonly pose?: Pose;
  /** Weights of its face shapes, beside the clip. */
  readonly face?: FaceWeights | undefined;
  readonly show?: ShowName;
}

interface Shown {
  readonly figure: Figure;
  readonly skeleton: SkeletonFigure;
  reader: ClipReader | undefined;
  mesh: MeshFigure | undefined;
}

const COLOURS = { performer: '#3A5A95', character: '#C2602A', ghost: '#8C8677' } as const;
/** Flesh around a joint that has no skin, in share of the height. */
const FLESH = 0.05;
/** A head is looked at from this share of the way that the whole is looked at from, at its middle: this high above its joint. */
const HEAD = 0.3;
const ABOVE = 0.055;
/** How near a joint must be to the pointer to be meant, in CSS pixels. */
const REACH = 16;

/** A few figures on one floor, joints that can be picked, a few of them marked. Draws only when something has changed. */
export class FigureView {
  private readonly renderer: WebGLRenderer;
  private readonly orbit: Orbit;
  private readonly scene: Scene;
  private readonly floor: Floor;
  private readonly marks = new JointMarks();
  private readonly anchor = new Vector3();
  private readonly at = new Vector3();
  private shown: Shown[] = [];
  private frame = 0;
  private near = -1;
  private pending = 0;
  private gone = false;
  /** The view holds the whole figures; false once a person has moved it. */
  private isFitted = true;
  private middle = 0.9;
  private floorHeight = 0;
  private view: ViewName = 'free';
  private wiggled = -1;
  private wiggleFrom = 0;
  private readonly isStill = matchMedia('(prefers-reduced-motion: reduce)').matches;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly loadFile: (hash: string) => Promise<ArrayBuffer>,
    onFree: () => void,
  ) {
    this.renderer = makeRenderer(canvas);
    ({ scene: this.scene, floor: this.floor } = makeScene());
    this.scene.add(this.marks.group);
    this.orbit = new Orbit(
      canvas,
      () => {
        this.isFitted = false;
        onFree();
      },
      () => this.invalidate(),
    );
    this.orbit.look('free');
    this.invalidate();
  }

  /** Shows these figures; the first is the one whose joints are picked and marked. */
  show(figures: readonly Figure[], floorHeight = 0): void {
    this.floorHeight = floorHeight;
    const before = this.shown;
    this.shown = figures.map((figure) => {
      const kept = before.find(({ figure: f }) => f.key === figure.key && f.look === figure.look);
      const reader =
        figure.clip && (kept?.figure.clip === figure.clip ? kept.reader : new ClipReader(figure.display.skeleton, figure.clip));
      if (kept) {
        const next = { ...kept, figure, reader };
        this.applyShow(next);
        return next;
      }
      return this.build(figure, reader);
    });
    for (const old of before) {
      if (this.shown.some(({ skeleton }) => skeleton === old.skeleton)) continue;
      old.skeleton.dispose();
      old.mesh?.dispose();
    }
    // A mesh reaches over the joints: hats, horns, hair.
    const size = Math.max(0.2, ...figures.map(({ display, show }) => display.height * (show && show !== 'skeleton' ? 1.2 : 1.06)));
    if (Math.abs(size - this.orbit.size) > 0.02 * size) {
      this.orbit.size = size;
      this.orbit.look(this.view);
      this.isFitted = true;
    }
    this.refit();
    this.invalidate();
  }

  /** Marks joints of the first figure: the chosen one and its partner. */
  mark(joints: readonly { joint: number; solid: boolean }[]): void {
    this.marks.set(joints);
    this.invalidate();
  }

  /** Moves a joint of the first figure to and fro; held to one side where motion is to be reduced. */
  wiggle(joint: number): void {
    this.wiggled = joint;
    this.wiggleFrom = performance.now();
    this.invalidate();
  }

  /** Looks at a joint of the first figure from near; −1 looks at the whole. */
  close(joint: number): void {
    this.near = joint;
    this.invalidate();
  }

  setFrame(frame: number): void {
    this.frame = frame;
    this.invalidate();
  }

  look(view: ViewName): void {
    this.view = view;
    if (view !== 'free') {
      this.orbit.look(view);
      this.isFitted = true;
    }
    this.refit();
    this.invalidate();
  }

  nudge(around: number, up: number, nearer: number): void {
    this.isFitted = false;
    this.orbit.nudge(around, up, nearer);
    this.invalidate();
  }

  resize(width: number, height: number): void {
    fit(this.renderer, width, height);
    this.refit();
    this.invalidate();
  }

  /** The joint of the first figure under a place in the canvas, −1 for none. */
  pick(x: number, y: number): number {
    const pose = this.poseOf(this.shown[0] as Shown | undefined);
    if (!pose) return -1;
    const { clientWidth: width, clientHeight: height } = this.canvas;
    let best = -1;
    let nearest = REACH;
    for (let j = 0; j < pose.positions.length / 3; j++) {
      this.at.fromArray(pose.positions, j * 3).project(this.orbit.camera);
      const way = Math.hypot(((this.at.x + 1) / 2) * width - x, ((1 - this.at.y) / 2) * height - y);
      // Of joints in one place the one farther down the chain is meant: it is the one with a length.
      if (way <= nearest) [best, nearest] = [j, way];
    }
    return best;
  }

  dispose(): void {
    this.gone = true;
    cancelAnimationFrame(this.pending);
    this.orbit.dispose();
    for (const { skeleton, mesh } of this.shown) {
      skeleton.dispose();
      mesh?.dispose();
    }
    this.marks.dispose();
    this.floor.dispose();
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }

  private build(figure: Figure, reader: ClipReader | undefined): Shown {
    const { display, look } = figure;
    const skeleton = look === 'performer' ? new SolidSkeleton(display, COLOURS.performer) : new HollowSkeleton(display, COLOURS[look]);
    this.scene.add(skeleton.group);
    const shown: Shown = { figure, skeleton, reader, mesh: undefined };
    if (display.mesh && figure.show && figure.show !== 'skeleton') void this.addMesh(shown);
    return shown;
  }

  private async addMesh({ figure, skeleton }: Shown): Promise<void> {
    const { mesh } = figure.display;
    const built = mesh && (await MeshFigure.load(await this.loadFile(mesh.file), mesh).catch(() => undefined));
    if (!built) return;
    const now = this.shown.find((shown) => shown.skeleton === skeleton);
    if (!now || this.gone) {
      built.dispose();
      return;
    }
    now.mesh = built;
    this.scene.add(built.group);
    this.applyShow(now);
    this.refit();
    this.invalidate();
  }

  private applyShow({ figure, skeleton, mesh }: Shown): void {
    if (mesh) mesh.group.visible = figure.show !== 'skeleton';
    mesh?.veil(figure.show === 'both');
    skeleton.group.visible = figure.show !== 'mesh' || !mesh;
  }

  private poseOf(shown: Shown | undefined): Pose | undefined {
    if (!shown) return undefined;
    const { figure, reader } = shown;
    if (!reader) return figure.pose;
    const frame = this.frame - (figure.shift ?? 0);
    return reader.at(Math.max(0, Math.min(frame, reader.clip.frames - 1)));
  }

  private invalidate(): void {
    this.pending ||= requestAnimationFrame(() => {
      this.pending = 0;
      if (!this.gone) this.draw();
    });
  }

  private draw(): void {
    const { renderer, canvas, scene, orbit } = this;
    const aspect = canvas.clientWidth / Math.max(1, canvas.clientHeight);
    this.shown.forEach((shown, i) => {
      const pose = i === 0 ? this.wiggling(shown) : this.poseOf(shown);
      if (!pose) return;
      shown.skeleton.pose(pose);
      shown.mesh?.pose(pose);
      shown.mesh?.shapes(shown.figure.face, this.frame * (shown.reader?.clip.frameTime ?? 0));
      if (i > 0) return;
      if (this.near >= 0) this.closeUp(pose, shown, aspect);
      else this.whole(aspect);
      this.marks.pose(pose, orbit.camera, shown.figure.display.height);
    });
    for (const { skeleton } of this.shown) skeleton.face(orbit.camera);
    renderer.clear();
    renderer.render(scene, orbit.camera);
    if (this.wiggled >= 0 && !this.isStill) this.invalidate();
  }

  /** Looks at all figures. */
  private whole(aspect: number): void {
    const { anchor, orbit, floorHeight } = this;
    this.middleOfAll(anchor);
    this.floor.place(floorHeight, anchor.x, anchor.z, orbit.size / 1.8);
    anchor.y = floorHeight + this.middle + climbed(anchor.y - floorHeight, orbit.size);
    orbit.aim(anchor, aspect);
  }

  /** Looks at one joint of the first figure and what is about it, from as near as a head is looked at. */
  private closeUp({ positions }: Pose, { figure: { display } }: Shown, aspect: number): void {
    const { anchor, orbit } = this;
    anchor.fromArray(positions, this.near * 3);
    this.floor.place(this.floorHeight, anchor.x, anchor.z, orbit.size / 1.8);
    anchor.y += ABOVE * display.height;
    orbit.aim(anchor, aspect, HEAD);
  }

  /** Looks again from how far all figures are in sight, unless a person has moved the view. */
  private refit(): void {
    const first = this.poseOf(this.shown[0] as Shown | undefined);
    if (!first || !this.isFitted) return;
    const from = this.middleOfAll(new Vector3());
    from.y = this.floorHeight + climbed(from.y - this.floorHeight, this.orbit.size);
    const sight = new Sight();
    for (const shown of this.shown) {
      const pose = this.poseOf(shown);
      if (pose)
        sight.add(
          pose,
          shown.mesh?.group.visible === false ? undefined : shown.mesh,
          from,
          FLESH * shown.figure.display.height,
          shown.figure.display,
        );
    }
    this.middle = (sight.low + sight.high) / 2;
    this.orbit.fit(sight, this.middle, this.canvas.clientWidth / Math.max(1, this.canvas.clientHeight));
  }

  /** Between the hips of all figures: what the view goes with. */
  private middleOfAll(out: Vector3): Vector3 {
    out.set(0, 0, 0);
    let count = 0;
    for (const shown of this.shown) {
      const pose = this.poseOf(shown);
      if (!pose) continue;
      out.add(this.at.fromArray(pose.positions, shown.figure.display.hips * 3));
      count++;
    }
    return count > 0 ? out.divideScalar(count) : out;
  }

  private wiggling(shown: Shown): Pose | undefined {
    const pose = this.poseOf(shown);
    if (!pose || this.wiggled < 0 || this.wiggled >= shown.figure.display.skeleton.names.length) return pose;
    const phase = this.isStill ? 0.25 : (performance.now() - this.wiggleFrom) / 1400;
    return wiggle(pose, shown.figure.display.skeleton, this.wiggled, phase);
  }
}
