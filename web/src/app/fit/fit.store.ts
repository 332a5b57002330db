import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { MeshJson } from '@hollow-stride/contract';
import {
  landmarksFile,
  mirrored,
  parseLandmarks,
  withLandmarks,
  safeName,
  type Fault,
  type FitChoices,
  type FitDetail,
  type FitStroke,
  type Place,
  type Stand,
} from '@hollow-stride/core';
import {
  BehaviorSubject,
  catchError,
  combineLatest,
  debounceTime,
  distinctUntilChanged,
  EMPTY,
  map,
  type Observable,
  switchMap,
  tap,
} from 'rxjs';
import { saveText } from '../deliver/save';
import { NoticesService } from '../notices/notices.service';
import { EditsStore } from '../project/edits.store';
import { IntakeStore } from '../project/intake.store';
import { ProjectStore } from '../project/project.store';
import type { Progress } from '../solver/messages';
import { CANCELLED, faultOf } from '../solver/worker-client';
import { FitService } from './fit.service';
import type { BoundView, FitSource, LaidView, Tried } from './messages';

export interface FitState {
  readonly mesh: MeshJson | undefined;
  readonly source: FitSource | undefined;
  readonly laid: LaidView | undefined;
  readonly bound: BoundView | undefined;
  /** Counted up by each binding. */
  readonly made: number;
  /** Where the bound character's file can be fetched by the page. */
  readonly address: string | undefined;
  readonly busy: 'laying' | 'binding' | 'trying' | undefined;
  readonly progress: Progress | undefined;
  readonly fault: Fault | undefined;
  /** The landmark that is chosen. */
  readonly mark: string | undefined;
  /** The joint whose weights are shown, or all of them. */
  readonly joint: string;
  readonly brush: { readonly isOn: boolean; /** Metres. */ readonly radius: number; readonly strength: number };
  readonly tried: readonly { readonly take: string; readonly result: Tried }[];
}

const REMEMBERED = 'hollow-stride.fit';
/** A landmark that is dragged asks often: the skeleton follows when it has stood still for so long, ms. */
const SETTLED = 40;
const NOTHING = { laid: undefined, bound: undefined, address: undefined, fault: undefined, mark: undefined, tried: [] } as const;

/** The mesh that a skeleton is fitted to: every decision is a step; the skin is bound when a person says so. */
@Injectable({ providedIn: 'root' })
export class FitStore {
  private readonly project = inject(ProjectStore);
  private readonly edits = inject(EditsStore);
  private readonly intake = inject(IntakeStore);
  private readonly service = inject(FitService);
  private readonly notices = inject(NoticesService);
  private readonly id = new BehaviorSubject<string | undefined>(localStorage.getItem(REMEMBERED) ?? undefined);
  private readonly subject = new BehaviorSubject<FitState>({
    mesh: undefined,
    source: undefined,
    busy: undefined,
    progress: undefined,
    joint: 'all',
    made: 0,
    brush: { isOn: false, radius: 0.06, strength: 0.8 },
    ...NOTHING,
  });
  readonly state$ = this.subject.asObservable();

  constructor() {
    combineLatest([this.id, this.project.state$])
      .pipe(
        map(([id, { rack, loaded }]) => (loaded ? (rack.meshes.find((one) => one.id === id) ?? rack.meshes.at(0)) : undefined)),
        tap((mesh) => this.patch({ mesh, ...(mesh?.id === this.state.mesh?.id ? {} : NOTHING) })),
        map((mesh) => mesh && sourceOf(mesh)),
        distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
        tap((source) => this.patch({ source, busy: source && 'laying' })),
        debounceTime(SETTLED),
        switchMap((source) =>
          source ? this.watch(this.service.lay(source).pipe(tap((laid) => this.patch({ laid, fault: undefined })))) : EMPTY,
        ),
        takeUntilDestroyed(),
      )
      .subscribe();
  }

  get state(): FitState {
    return this.subject.value;
  }

  /** True where what is bound is not what is decided now. */
  get isStale(): boolean {
    const { bound, source } = this.state;
    return bound !== undefined && JSON.stringify(bound.source) !== JSON.stringify(source);
  }

  open(id: string): void {
    localStorage.setItem(REMEMBERED, id);
    this.id.next(id);
  }

  choose(mark: string | undefined): void {
    this.patch({ mark });
  }

  show(joint: string): void {
    this.patch({ joint });
  }

  /** Moves a landmark. */
  move(name: string, place: readonly [number, number, number]): void {
    const { choices, laid } = this;
    if (!choices || !laid) return;
    const at = place.map((v) => Math.round(v * 1e5) / 1e5) as [number, number, number];
    const landmarks = { ...choices.landmarks, [name]: at };
    const other = otherSide(name);
    // One place is kept for both sides.
    if (choices.mirrored && other !== name) landmarks[other] = [...mirrored(at, laid.middle)] as [number, number, number];
    this.change({ landmarks }, `move ${name}`, `landmark ${name}`);
  }

  /** Moves a landmark on from where it is now. */
  nudge(name: string, by: Place): void {
    const now = (this.choices?.landmarks[name] ?? this.laid?.landmarks[name]) as Place | undefined;
    if (now) this.move(name, [now[0] + by[0], now[1] + by[1], now[2] + by[2]]);
  }

  /** Puts a landmark back where it was found. */
  release(name: string): void {
    const { choices } = this;
    if (!choices) return;
    const gone = choices.mirrored ? [name, otherSide(name)] : [name];
    const landmarks = Object.fromEntries(Object.entries(choices.landmarks).filter(([key]) => !gone.includes(key)));
    this.change({ landmarks }, `put ${name} back where it was found`);
  }

  setStand(change: Partial<Stand>): void {
    const { laid, choices } = this;
    if (!laid || !choices) return;
    // Landmarks are places of the body as it stood.
    this.change({ stand: { ...(choices.stand ?? laid.guessed.stand), ...change }, landmarks: {}, strokes: [] }, 'stand the mesh up');
  }

  guessStand(): void {
    this.change({ stand: null, landmarks: {}, strokes: [] }, 'stand the mesh as it is guessed');
  }

  setDetail(detail: Partial<FitDetail>): void {
    if (this.choices) this.change({ detail: { ...this.choices.detail, ...detail } }, 'detail of the skeleton');
  }

  /** Lets a piece of the mesh move whole with one joint. */
  setWhole(part: string, joint: string): void {
    const { choices } = this;
    if (!choices) return;
    const whole = Object.fromEntries(Object.entries(choices.whole).filter(([name]) => name !== part));
    this.change({ whole: joint === '' ? whole : { ...whole, [part]: joint } }, `what moves ${part}`);
  }

  change(change: Partial<FitChoices>, text: string, key?: string): void {
    const { mesh } = this.state;
    if (mesh) this.edits.changeMesh(mesh.id, { choices: { ...mesh.choices, ...change } }, text, key);
  }

  setBrush(change: Partial<FitState['brush']>): void {
    this.patch({ brush: { ...this.state.brush, ...change } });
  }

  /** Evens weights out under the brush, and binds anew. */
  strokeAt(places: readonly Place[]): void {
    const { choices } = this;
    if (!choices || places.length === 0) return;
    const { radius, strength } = this.state.brush;
    const strokes = places.map((at): FitStroke => ({ at: [at[0], at[1], at[2]], radius, strength }));
    this.change(
      { strokes: [...choices.strokes, ...strokes] },
      strokes.length === 1 ? 'a stroke of the brush' : `${strokes.length} strokes of the brush`,
    );
    this.bind();
  }

  /** Binds the skin to the skeleton as it is decided now. */
  bind(): void {
    const { mesh } = this.state;
    const source = mesh && sourceOf(mesh);
    if (!source) return;
    this.patch({ busy: 'binding', progress: undefined });
    this.watch(
      this.service
        .bind(source, mesh.name, (progress) => this.patch({ progress }))
        .pipe(
          tap((bound) => {
            if (this.state.address) URL.revokeObjectURL(this.state.address);
            const address = URL.createObjectURL(new Blob([bound.glb]));
            const joint = this.state.joint === 'all' || bound.names.includes(this.state.joint) ? this.state.joint : 'all';
            this.patch({ bound, address, joint, made: this.state.made + 1, tried: [], fault: undefined });
          }),
        ),
    ).subscribe();
  }

  /** Solves takes on the fitted character. */
  try(ids: readonly string[]): void {
    const { bound, mesh } = this.state;
    const takes = ids.map((id) => this.project.state.rack.takes.find((take) => take.id === id)).filter((take) => take !== undefined);
    if (!bound || !mesh || takes.length === 0) return;
    this.patch({ busy: 'trying', progress: undefined });
    const sources = takes.map((take) => this.project.takeSource(take));
    this.watch(
      this.service
        .try(bound.source, mesh.name, sources, (progress) => this.patch({ progress }))
        .pipe(tap((tried) => this.patch({ tried: tried.map((result, i) => ({ take: takes[i].name, result })) }))),
    ).subscribe();
  }

  cancel(): void {
    this.service.cancel();
  }

  /** Brings the bound character in, as any file. */
  putOnRack(): void {
    const { bound, mesh } = this.state;
    if (bound && mesh) this.intake.bringIn([new File([bound.glb], `${mesh.name.replace(/[/\\:]/g, '-')}.glb`)]);
  }

  saveLandmarks(): void {
    const { laid, mesh } = this.state;
    if (laid && mesh) saveText(`${JSON.stringify(landmarksFile(laid, mesh.choices), null, 2)}\n`, `${safeName(mesh.name)}.landmarks.json`);
  }

  async loadLandmarks(file: File): Promise<void> {
    const { laid, mesh } = this.state;
    if (!laid || !mesh) return;
    try {
      this.change(withLandmarks(mesh.choices, laid, parseLandmarks(await file.text(), file.name)), `landmarks of ${file.name}`);
    } catch (error) {
      this.notices.failed(error);
    }
  }

  get choices(): FitChoices | undefined {
    return this.state.mesh?.choices;
  }

  private get laid(): LaidView | undefined {
    return this.state.laid;
  }

  /** Tells how a piece of work ends, if not well. */
  private watch<T>(work: Observable<T>): Observable<T> {
    return work.pipe(
      tap({ complete: () => this.patch({ busy: undefined, progress: undefined }) }),
      catchError((error: unknown) => {
        const fault = faultOf(error);
        this.patch({ busy: undefined, progress: undefined, ...(fault.message === CANCELLED ? {} : { fault }) });
        if (fault.message !== CANCELLED) this.notices.fault(fault);
        return EMPTY;
      }),
    );
  }

  private patch(change: Partial<FitState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}

function sourceOf({ file, fileName, choices }: MeshJson): FitSource {
  return { mesh: { file, name: fileName }, choices };
}

/** A landmark's counterpart on the other side; itself where it has none. */
export function otherSide(name: string): string {
  return name.startsWith('left.') ? name.replace('left.', 'right.') : name.replace('right.', 'left.');
}
