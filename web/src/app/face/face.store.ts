import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { RecordingFactsJson, RecordingJson, TakeJson } from '@hollow-stride/contract';
import {
  DEFAULT_FACE_ROW,
  DEFAULT_NAME_TABLE,
  jointKeys,
  makeTakeFace,
  OWN_FACE,
  resolveTable,
  type ClapsFound,
  type FaceRow,
  type FaceSource,
  type FaceTrack,
  type FaceTurn,
  type NameTable,
  type ResolvedTable,
  type TakeFace,
} from '@hollow-stride/core';
import { BehaviorSubject, catchError, distinctUntilChanged, EMPTY, map, of, switchMap } from 'rxjs';
import { NoticesService } from '../notices/notices.service';
import { PairStore } from '../pair/pair.store';
import { EditsStore } from '../project/edits.store';
import { ProjectStore } from '../project/project.store';
import { SolveStore } from '../solve/solve.store';
import type { DisplayBody, FaceShown, SoundShown } from '../solver/messages';
import { SolverService } from '../solver/solver.service';
import { faultOf } from '../solver/worker-client';

export interface FaceState {
  readonly take: TakeJson | undefined;
  /** The recordings that the take plays. */
  readonly recording: RecordingJson | undefined;
  readonly sound: RecordingJson | undefined;
  readonly set: TakeFace | undefined;
  readonly soundOffset: number;
  readonly faces: readonly RecordingJson[];
  readonly sounds: readonly RecordingJson[];
  /** Face channels that move with the body in the take's own file. */
  readonly ownChannels: number;
  readonly table: ResolvedTable | undefined;
  /** As it was solved last; undefined until then. */
  readonly shown: FaceShown | undefined;
  readonly heard: SoundShown | undefined;
  readonly claps: ClapsFound | undefined;
  readonly searching: boolean;
  /** Shape or joint that is looked at. */
  readonly chosen: string | undefined;
}

const NOTHING: FaceState = {
  take: undefined,
  recording: undefined,
  sound: undefined,
  set: undefined,
  soundOffset: 0,
  faces: [],
  sounds: [],
  ownChannels: 0,
  table: undefined,
  shown: undefined,
  heard: undefined,
  claps: undefined,
  searching: false,
  chosen: undefined,
};

/** The face of the pair that is looked at: which recording plays, where it lies in the take, and what it drives. */
@Injectable({ providedIn: 'root' })
export class FaceStore {
  private readonly project = inject(ProjectStore);
  private readonly edits = inject(EditsStore);
  private readonly pairs = inject(PairStore);
  private readonly solve = inject(SolveStore);
  private readonly solver = inject(SolverService);
  private readonly notices = inject(NoticesService);
  private readonly subject = new BehaviorSubject<FaceState>(NOTHING);
  readonly state$ = this.subject.asObservable();
  private resolved: { readonly from: readonly unknown[]; readonly table: ResolvedTable } | undefined;

  constructor() {
    this.project.state$.pipe(takeUntilDestroyed()).subscribe(() => this.follow());
    this.solve.state$.pipe(takeUntilDestroyed()).subscribe(() => this.follow());
    this.state$
      .pipe(
        map(({ sound }) => sound),
        distinctUntilChanged((a, b) => a?.id === b?.id),
        switchMap((sound) => {
          if (!sound) return of(undefined);
          return this.solver.sound({ file: sound.file, name: sound.fileName }).pipe(catchError(() => EMPTY));
        }),
        takeUntilDestroyed(),
      )
      .subscribe((heard) => this.patch({ heard, claps: undefined }));
  }

  get state(): FaceState {
    return this.subject.value;
  }

  choose(chosen: string | undefined): void {
    this.patch({ chosen });
  }

  /** Lays a face recording at the take, or takes it away. */
  setRecording(id: string | null): void {
    const { set, soundOffset, sound } = this.state;
    const laid = id === OWN_FACE ? 0 : (set?.offset ?? (sound ? soundOffset : 0));
    const face = id === null ? null : { ...(set ?? makeTakeFace(id)), recording: id, offset: laid };
    this.changeTake({ face }, id === null ? 'play no face' : 'play a face recording');
  }

  setSound(id: string | null): void {
    const offset = this.state.set?.offset ?? 0;
    this.changeTake({ sound: id === null ? null : { recording: id, offset } }, id === null ? 'play no sound' : 'play a sound');
  }

  setFace(change: Partial<TakeFace>, text: string, key?: string): void {
    const { set } = this.state;
    if (set) this.changeTake({ face: { ...set, ...change } }, text, key);
  }

  /** Face and sound come from one recorder: they are moved together. @param of which of the two lies there now */
  layAt(offset: number, of: 'face' | 'sound' = 'face'): void {
    const { set, soundOffset, take } = this.state;
    const by = offset - (of === 'face' ? (set?.offset ?? soundOffset) : soundOffset);
    const sound = take?.choices.sound;
    this.changeTake(
      {
        ...(set && { face: { ...set, offset: tidy(set.offset + by) } }),
        ...(sound && { sound: { ...sound, offset: tidy(sound.offset + by) } }),
      },
      'move the face recording',
      'face offset',
    );
  }

  /** Lays the recordings where the clap that is heard is the clap that is seen. */
  findClap(): void {
    const { sound } = this.state;
    const pair = this.pairs.now.request;
    if (!sound || !pair) return;
    this.patch({ searching: true });
    this.solver.claps(pair, { file: sound.file, name: sound.fileName }).subscribe({
      next: (claps) => {
        this.patch({ claps, searching: false });
        if (!claps.found)
          this.notices.fault({ code: 'option', message: 'no clap is both heard and seen; move the sound by hand', where: {} });
        else {
          this.layAt(claps.found.offset, 'sound');
          this.notices.done(`the clap is at one time where the sound begins at ${claps.found.offset.toFixed(2)} s`);
        }
      },
      error: (error: unknown) => {
        this.patch({ searching: false });
        this.notices.fault(faultOf(error));
      },
    });
  }

  get names(): NameTable {
    return this.pairs.now.choices.face ?? DEFAULT_NAME_TABLE;
  }

  setTable(table: NameTable, text: string, key?: string): void {
    this.pairs.change({ face: table }, text, key);
  }

  setExchange(exchange: boolean): void {
    this.setTable({ ...this.names, exchange }, exchange ? 'exchange left and right of the face' : 'left and right of the face as recorded');
  }

  /** How a shape is driven; what is not said stays as it is, and what drives it stays proposed until it is set. */
  setRow(shape: string, change: Partial<FaceRow>, key?: string): void {
    const { rows } = this.names;
    const row: FaceRow = { ...DEFAULT_FACE_ROW, ...(rows[shape] as FaceRow | undefined), ...change };
    if (row.low > row.high) return;
    this.setTable({ ...this.names, rows: { ...rows, [shape]: row } }, `set ${Object.keys(change).join(', ')} of ${shape}`, key);
  }

  setSources(shape: string, from: readonly FaceSource[]): void {
    this.setRow(shape, { from: [...from] });
  }

  addSource(shape: string, channel: string): void {
    const now = this.sourcesOf(shape);
    if (!now.some((one) => one.channel === channel)) this.setSources(shape, [...now, { channel, weight: 1 }]);
  }

  removeSource(shape: string, channel: string): void {
    this.setSources(
      shape,
      this.sourcesOf(shape).filter((one) => one.channel !== channel),
    );
  }

  setWeight(shape: string, channel: string, weight: number): void {
    const from = this.sourcesOf(shape).map((one) => (one.channel === channel ? { channel, weight } : one));
    this.setRow(shape, { from }, `weight ${shape} ${channel}`);
  }

  /** The shape is driven as its name proposes, untouched. */
  automatic(shape: string): void {
    const { [shape]: _, ...rows } = this.names.rows;
    this.setTable({ ...this.names, rows }, `drive ${shape} as its name proposes`);
  }

  setTurns(joint: string, turns: readonly FaceTurn[] | undefined, key?: string): void {
    const { [joint]: _, ...others } = this.names.joints;
    const joints = turns === undefined ? others : { ...others, [joint]: [...turns] };
    this.setTable({ ...this.names, joints }, `turn ${joint} by the face`, key);
  }

  turnsOf(joint: string): readonly FaceTurn[] {
    return this.state.table?.joints.find((one) => one.joint === joint)?.turns ?? [];
  }

  private sourcesOf(shape: string): readonly FaceSource[] {
    return this.state.table?.rows.find((row) => row.shape === shape)?.from ?? [];
  }

  private changeTake(change: Partial<TakeJson['choices']>, text: string, key?: string): void {
    const { take } = this.pairs.now;
    if (take) this.edits.changeTake(take.id, { choices: { ...take.choices, ...change } }, text, key);
  }

  private follow(): void {
    const { take, character, choices } = this.pairs.now;
    const { recordings } = this.project.state.rack;
    const { solved } = this.solve.state;
    const set = take?.choices.face ?? undefined;
    const recording = this.project.recording(set?.recording);
    const sound = this.project.recording(take?.choices.sound?.recording);
    const isNow = solved !== undefined && solved.pair.take.file === take?.file && solved.pair.character.file === character?.file;
    const shown = set && isNow ? solved.face : undefined;
    // Of another recording than is laid now, the channels are those of its facts until it is solved.
    const isSolved = shown && recording?.file === solved?.pair.face?.file;
    const table =
      set &&
      character &&
      this.tableOf(isSolved ? shown.track : recording?.facts, character.facts.shapes, isNow ? solved.character : undefined, choices.face);
    this.patch({
      take,
      recording,
      sound,
      set,
      soundOffset: take?.choices.sound?.offset ?? 0,
      faces: recordings.filter((one) => one.facts.kind === 'face'),
      sounds: recordings.filter((one) => one.facts.kind === 'sound'),
      ownChannels: take?.facts.clips[take.clip]?.faceChannels ?? 0,
      table,
      shown,
    });
  }

  /** The table for these, made anew only when one of them is another: progress of a solve is told often. */
  private tableOf(
    source: FaceTrack | RecordingFactsJson | undefined,
    shapes: readonly string[],
    body: DisplayBody | undefined,
    names: NameTable | null,
  ): ResolvedTable | undefined {
    if (!source || ('kind' in source && source.kind === 'sound')) return undefined;
    const from = [source, shapes, body, names];
    if (!this.resolved?.from.every((one, i) => one === from[i])) {
      const channels = source.channels.map((channel) => (typeof channel === 'string' ? channel : channel.name));
      const joints = body ? jointKeys(body.skeleton) : [];
      this.resolved = { from, table: resolveTable(channels, shapes, joints, names ?? undefined) };
    }
    return this.resolved.table;
  }

  private patch(change: Partial<FaceState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}

const tidy = (seconds: number): number => Number(Math.max(-1e6, Math.min(1e6, seconds)).toFixed(4));
