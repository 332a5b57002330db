import { Fog, Vector3, type WebGLRenderer } from 'three';
import { ClipReader, type Clip } from '@hollow-stride/core';
import type { BodySource, DisplayBody, Solved } from '../solver/messages';
import { cameraOf, rememberCamera } from './cameras';
import { Sight } from './framing';
import { MeshFigure } from './mesh-figure';
import { climbed, Orbit } from './orbit';
import { WHOLE, type StageOptions } from './options';
import { BACKGROUND, fit, makeRenderer } from './scenery';
import { clearSide, firstHips, haunt, makeSide, type SideView } from './side-view';
import { HollowSkeleton, SolidSkeleton, type SkeletonFigure } from './skeleton-figure';
import { WatchedJoints, type Watcher } from './watched-joints';

const COLOURS = { performer: '#3A5A95', character: '#C2602A' } as const;

/** A part fills the view as a body does that is so much of the whole. */
const PART_SIZE = 0.26;

/** Owns all that is drawn in 3D and disposes of it. Draws only when something has changed. */
export class StageView {
  private readonly renderer: WebGLRenderer;
  private readonly performer = makeSide(COLOURS.performer);
  private readonly character = makeSide(COLOURS.character);
  private readonly orbit: Orbit;
  private readonly target = new Vector3();
  private readonly anchor = new Vector3();
  private solved: Solved | undefined;
  private frame = 0;
  private pending = 0;
  private meshRequest = 0;
  private readonly retired: SkeletonFigure[] = [];
  private compiling = 0;
  private gone = false;
  /** The view holds the whole bodies, and keeps doing so; false once a person has moved it. */
  private isFitted = true;
  /** Height over the floor that the view is aimed at. */
  private middle = 0.9;
  private watched: WatchedJoints | undefined;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private options: StageOptions,
    private readonly loadFile: (hash: string) => Promise<ArrayBuffer>,
    onFree: () => void,
  ) {
    this.renderer = makeRenderer(canvas);
    this.orbit = new Orbit(
      canvas,
      () => {
        this.isFitted = false;
        onFree();
      },
      () => {
        if (!this.isFitted) this.remember();
        this.invalidate();
      },
    );
    this.orbit.look(options.view);
    this.invalidate();
  }

  /** Shows a result; the view stays where it is when the pair is the same as before. */
  show(solved: Solved | undefined): void {
    const before = this.solved;
    this.solved = solved;
    if (!solved) {
      clearSide(this.performer);
      clearSide(this.character);
      this.invalidate();
      return;
    }
    const { performer, character, take, plain, contacts, floorHeight } = solved;
    // A changed setting moves the same bodies: their figures stay.
    if (!this.performer.skeleton || !before || !isSameBody(before.pair.take, solved.pair.take)) {
      this.replaceSkeleton(this.performer, new SolidSkeleton(performer, COLOURS.performer));
    }
    const isOther = !before || !isSameBody(before.pair.character, solved.pair.character);
    if (!this.character.skeleton || isOther) {
      this.replaceSkeleton(this.character, new HollowSkeleton(character, COLOURS.character));
    }
    this.performer.reader = new ClipReader(performer.skeleton, take);
    this.performer.before = undefined;
    this.character.reader = new ClipReader(character.skeleton, solved.solved);
    this.character.before = new ClipReader(character.skeleton, plain);
    this.performer.floorHeight = contacts.floor;
    this.performer.incline = contacts.slope?.theirs;
    this.character.incline = contacts.slope?.mine;
    this.character.floorHeight = floorHeight;
    const isNewPair = before?.pair.take.file !== solved.pair.take.file || before.pair.character.file !== solved.pair.character.file;
    if (isNewPair) {
      this.orbit.size = Math.max(performer.height, character.height);
      const place = cameraOf(solved.pair.character.file);
      this.isFitted = place === undefined || this.options.view !== 'free';
      if (place && !this.isFitted) this.orbit.place = place;
      else this.orbit.look(this.options.view);
    }
    if (before?.character.mesh?.file !== character.mesh?.file || (before && isOther)) void this.replaceMesh(character);
    this.applyOptions();
    // A solve of the same bodies leaves the view alone: a person is looking at what it changes.
    if (isNewPair || isOther) this.refit();
  }

  /** Holds both whole bodies, with all that they wear, in sight again. */
  fit(): void {
    this.isFitted = true;
    if (this.solved) rememberCamera(this.solved.pair.character.file, undefined);
    this.refit();
    this.invalidate();
  }

  setFrame(frame: number): void {
    this.frame = frame;
    this.invalidate();
  }

  setOptions(options: StageOptions): void {
    const before = this.options;
    this.options = options;
    if (options.view !== before.view && options.view !== 'free') {
      this.orbit.look(options.view);
      this.isFitted = true;
    }
    this.applyOptions();
    if (options.view !== before.view || options.layout !== before.layout || options.follow !== before.follow) this.refit();
  }

  /** Tells where some of the character's joints are, each time that it has been drawn. */
  watch(joints: readonly number[], tell: Watcher | undefined): void {
    this.watched = tell && new WatchedJoints(joints, tell);
    this.invalidate();
  }

  /** Shows the character as it moved before, behind what it does now; undefined takes the ghost away. */
  setGhost(clip: Clip | undefined): void {
    if (haunt(this.character, this.solved?.character, clip)) this.invalidate();
  }

  resize(width: number, height: number): void {
    fit(this.renderer, width, height);
    this.refit();
    this.invalidate();
  }

  /** Turns or moves the view by the keyboard: degrees around, degrees up, factor nearer. */
  nudge(around: number, up: number, nearer: number): void {
    this.isFitted = false;
    this.orbit.nudge(around, up, nearer);
    this.remember();
    this.invalidate();
  }

  dispose(): void {
    this.gone = true;
    for (const figure of this.retired.splice(0)) figure.dispose();
    cancelAnimationFrame(this.pending);
    this.orbit.dispose();
    for (const side of [this.performer, this.character]) {
      clearSide(side);
      side.floor.dispose();
    }
    this.renderer.dispose();
    this.renderer.forceContextLoss();
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
    this.renderer.compileAsync(scene, this.orbit.camera).then(done, done);
  }

  private remember(): void {
    if (this.solved) rememberCamera(this.solved.pair.character.file, this.orbit.place);
  }

  /** Looks again from how far all is in sight, unless a person has moved the view. */
  private refit(): void {
    const { solved, options, canvas } = this;
    if (!solved || !this.isFitted) return;
    const { layout } = options;
    const sight = new Sight();
    if (layout !== 'character') this.see(sight, this.performer, layout === 'over' ? [solved.stride, solved.lift] : [1, 1]);
    if (layout !== 'performer') this.see(sight, this.character, [1, 1]);
    if (!(sight.high > sight.low)) return;
    sight.keepFree(Math.min(MOST_FREE, NAMES / Math.max(1, canvas.clientHeight)));
    this.middle = (sight.low + sight.high) / 2;
    const width = layout === 'beside' ? Math.floor(canvas.clientWidth / 2) : canvas.clientWidth;
    this.orbit.fit(sight, this.middle, Math.max(1, width) / Math.max(1, canvas.clientHeight));
  }

  /** Adds a side's figure in some of its frames, each seen from where the view is aimed at in it. */
  private see(sight: Sight, side: SideView, [across, up]: readonly [number, number]): void {
    const reader = this.readerOf(side);
    const body = side === this.performer ? this.solved?.performer : this.solved?.character;
    if (!reader || !body) return;
    const { frames } = reader.clip;
    const wanted = this.options.follow ? Array.from({ length: LOOKS }, (_, i) => Math.round((i * (frames - 1)) / (LOOKS - 1))) : [];
    for (const f of new Set([...wanted, Math.min(this.frame, frames - 1)])) {
      const pose = reader.at(f);
      const hips = FIRST.fromArray(pose.positions, body.hips * 3);
      const rise = this.options.follow ? climbed(hips.y - side.floorHeight, body.height) : 0;
      if (!this.options.follow) firstHips(side, body, FIRST);
      SEEN_FROM.set(FIRST.x * across, (side.floorHeight + rise) * up, FIRST.z * across);
      sight.add(pose, side.mesh?.group.visible === false ? undefined : side.mesh, SEEN_FROM, FLESH * body.height, body, across, up);
    }
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
    this.refit();
  }

  private applyOptions(): void {
    const { show } = this.options;
    const hasMesh = this.character.mesh !== undefined;
    if (this.character.mesh) {
      this.character.mesh.group.visible = show !== 'skeleton';
      this.character.mesh.veil(show === 'through');
    }
    if (this.character.skeleton)
      this.character.skeleton.group.visible = show === 'skeleton' || show === 'both' || show === 'through' || !hasMesh;
    this.overlay(this.performer);
    this.overlay(this.character);
    this.invalidate();
  }

  /** Overlays of a figure, for the motion that is shown. */
  private overlay(side: SideView): void {
    const { solved } = this;
    const clip = this.readerOf(side)?.clip;
    const isMine = side === this.character;
    side.overlays.update(
      this.options,
      solved && clip
        ? {
            body: isMine ? solved.character : solved.performer,
            clip,
            plan: isMine ? solved.floor.mine : solved.floor.theirs,
            floor: side.floorHeight,
            planScale: isMine ? 1 : solved.stride,
          }
        : undefined,
    );
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
    else this.drawOver(width, height);
    const left = layout === 'beside' ? Math.floor(width / 2) : 0;
    // The camera stands as the character was drawn, in a part of the canvas.
    const pose = layout === 'performer' ? undefined : this.readerOf(this.character)?.pose;
    this.watched?.tell(pose, this.orbit.camera, { left, width: width - left, height });
  }

  private readerOf(side: SideView): ClipReader | undefined {
    return this.options.before && side.before ? side.before : side.reader;
  }

  /** Over each other: the performer at the character's scale on the character's floor, the character drawn after it. */
  private drawOver(width: number, height: number): void {
    const { performer, character, renderer, solved } = this;
    if (!solved || !performer.skeleton) return;
    const hips = this.poseSide(character).clone();
    this.poseSide(performer);
    this.aim(character, hips, width, height);
    character.floor.place(character.floorHeight, hips.x, hips.z, this.orbit.size / 1.8, character.incline);
    performer.skeleton.group.scale.set(solved.stride, solved.lift, solved.stride);
    performer.overlays.scale(solved.stride, solved.lift, solved.stride);
    performer.floor.group.visible = false;
    performer.scene.background = null;
    character.floor.group.visible = true;
    character.skeleton?.face(this.orbit.camera);
    renderer.setViewport(0, 0, width, height);
    renderer.setScissor(0, 0, width, height);
    renderer.clear();
    renderer.render(character.scene, this.orbit.camera);
    if (this.options.show !== 'mesh' || !character.mesh) {
      // An outline hides nothing: the solid performer goes first, the outline over it.
      renderer.render(performer.scene, this.orbit.camera);
      character.floor.group.visible = false;
      character.scene.background = null;
      renderer.render(character.scene, this.orbit.camera);
      character.scene.background = BACKGROUND;
      character.floor.group.visible = true;
    } else renderer.render(performer.scene, this.orbit.camera);
    performer.skeleton.group.scale.setScalar(1);
    performer.overlays.scale(1, 1, 1);
    performer.floor.group.visible = true;
    performer.scene.background = BACKGROUND;
  }

  private poseSide(side: SideView): Vector3 {
    const reader = this.readerOf(side);
    if (!reader) return this.target.set(0, side.floorHeight + this.orbit.size / 2, 0);
    const pose = reader.at(Math.min(this.frame, reader.clip.frames - 1));
    side.skeleton?.pose(pose);
    side.mesh?.pose(pose);
    side.mesh?.shapes(this.solved?.face?.weights, this.frame * reader.clip.frameTime);
    side.overlays.pose(pose);
    if (side.ghost) side.ghost.skeleton.pose(side.ghost.reader.at(Math.min(this.frame, side.ghost.reader.clip.frames - 1)));
    const hips = side === this.performer ? this.solved!.performer.hips : this.solved!.character.hips;
    return this.target.fromArray(pose.positions, hips * 3);
  }

  private drawSide(side: SideView, left: number, width: number, height: number): void {
    const { renderer } = this;
    const { camera } = this.orbit;
    const hips = this.poseSide(side);
    side.floor.place(side.floorHeight, hips.x, hips.z, this.orbit.size / 1.8, side.incline);
    this.aim(side, hips, width, height);
    side.skeleton?.face(camera);
    side.ghost?.skeleton.face(camera);
    renderer.setViewport(left, 0, width, height);
    renderer.setScissor(left, 0, width, height);
    renderer.clear();
    renderer.render(side.scene, camera);
  }

  /** Points the camera at a figure, or at a part of it, from where the view stands. */
  private aim(side: SideView, hips: Vector3, width: number, height: number): void {
    const body = side === this.performer ? this.solved?.performer : this.solved?.character;
    const part = this.options.part === WHOLE ? undefined : body?.about?.parts[this.options.part];
    const pose = this.readerOf(side)?.pose;
    const { fog } = side.scene;
    const { distance } = this.orbit;
    if (fog instanceof Fog) [fog.near, fog.far] = [Math.max(9, 1.6 * distance), Math.max(26, 4.5 * distance)];
    if (part !== undefined && pose) {
      this.orbit.aim(this.anchor.fromArray(pose.positions, part * 3), width / height, PART_SIZE);
      return;
    }
    const size = body?.height ?? this.orbit.size;
    if (this.options.follow) this.anchor.set(hips.x, 0, hips.z);
    else firstHips(side, body, this.anchor);
    this.anchor.y = side.floorHeight + this.middle + (this.options.follow ? climbed(hips.y - side.floorHeight, size) : 0);
    this.orbit.aim(this.anchor, width / height);
  }
}

/** A body is drawn anew when its file or what was decided about its skeleton differs. */
function isSameBody(a: BodySource, b: BodySource): boolean {
  return a.file === b.file && JSON.stringify(a.skeleton) === JSON.stringify(b.skeleton);
}

/** Height of the line of names at the top of the stage, CSS pixels, and the most of the view's height that is left for it. */
const NAMES = 34;
const MOST_FREE = 0.3;
/** Frames that a view is made to hold. */
const LOOKS = 9;
/** Flesh around a joint that has no skin, in share of the height. */
const FLESH = 0.05;
const SEEN_FROM = new Vector3();
const FIRST = new Vector3();
