import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { faceCsv, faceJson, safeName, writeNameTable } from '@hollow-stride/core';
import { map } from 'rxjs';
import { saveText } from '../deliver/save';
import { IntakeStore } from '../project/intake.store';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import { GroupComponent } from '../shared/group.component';
import { KeepByNameComponent } from '../shared/keep-by-name.component';
import { KeptListComponent } from '../shared/kept-list.component';
import { KeysService } from '../shared/keys.service';
import { RefusalComponent } from '../shared/refusal.component';
import { ResizeDirective } from '../shared/resize.directive';
import { SolveStore } from '../solve/solve.store';
import { FigureStageComponent } from '../stage/figure-stage.component';
import type { Figure } from '../stage/figure-view';
import type { ViewName } from '../stage/options';
import { PlaybackService } from '../timeline/playback.service';
import { transportKey } from '../timeline/transport-keys';
import { TransportComponent } from '../timeline/transport.component';
import { FaceTimeComponent } from './face-time.component';
import { FaceStore } from './face.store';
import { NameTableComponent } from './name-table.component';
import { RecordingPanelComponent } from './recording-panel.component';
import { ShapePanelComponent } from './shape-panel.component';
import { SoundService } from './sound.service';

/** The face of a pair: a recording laid at the take, and which of its channels drive which shapes of the character. */
@Component({
  selector: 'hs-face',
  imports: [
    FaceTimeComponent,
    FigureStageComponent,
    GroupComponent,
    KeepByNameComponent,
    KeptListComponent,
    NameTableComponent,
    RecordingPanelComponent,
    RefusalComponent,
    ResizeDirective,
    RouterLink,
    ShapePanelComponent,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './face.component.html',
  styleUrl: './face.component.scss',
})
export class FaceComponent {
  protected readonly store = inject(FaceStore);
  private readonly items = inject(ItemsStore);
  private readonly intake = inject(IntakeStore);
  private readonly playback = inject(PlaybackService);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly solving = toSignal(inject(SolveStore).state$, { requireSync: true });
  protected readonly frame = toSignal(this.playback.state$.pipe(map(({ frame }) => frame)), { initialValue: 0 });
  protected readonly tables = toSignal(inject(ProjectStore).rack$.pipe(map(({ nameTables }) => nameTables)), { initialValue: [] });
  protected readonly looked = signal<ViewName>('front');
  protected readonly isNear = signal(true);

  protected readonly figures = computed((): Figure[] => {
    const { solved } = this.solving();
    if (!solved) return [];
    const key = `${solved.pair.character.file} ${JSON.stringify(solved.pair.character.skeleton)}`;
    return [{ key, display: solved.character, look: 'character', show: 'mesh', clip: solved.solved, face: solved.face?.weights }];
  });
  protected readonly head = computed(() => (this.isNear() ? (this.solving().solved?.roles.get('head') ?? -1) : -1));
  protected readonly driven = computed(() => this.state().table?.rows.filter(({ from }) => from.length > 0).length ?? 0);
  protected readonly figure = computed(() => this.solving().solved?.report.verdict.figures.find(({ id }) => id === 'face.shapes'));

  constructor() {
    inject(KeysService).listen((event) => transportKey(event, this.playback));
    inject(SoundService).playHere();
    effect(() => {
      const { solved } = this.solving();
      if (!solved) return;
      const now = this.playback.state;
      const { frames, frameTime } = solved.take;
      if (now.frames !== frames || now.frameTime !== frameTime) this.playback.setClip(frames, frameTime);
    });
    effect(() => {
      const { table, chosen } = this.state();
      const names = table ? [...table.rows.map(({ shape }) => shape), ...table.joints.map(({ joint }) => joint)] : [];
      if (names.length > 0 && !names.includes(chosen ?? '')) this.store.choose(names[0]);
    });
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  protected pick(event: Event, of: 'face' | 'sound'): void {
    const { value } = event.target as HTMLSelectElement;
    if (of === 'face') this.store.setRecording(value === '' ? null : value);
    else this.store.setSound(value === '' ? null : value);
  }

  protected bring(event: Event): void {
    const input = event.target as HTMLInputElement;
    this.intake.bringIn([...(input.files ?? [])]);
    input.value = '';
  }

  protected use(id: string): void {
    const one = this.tables().find((table) => table.id === id);
    if (one) this.store.setTable(one.table, `use the name table ${one.name}`);
  }

  protected keep(name: string): void {
    this.items.addNameTable({ name, table: this.store.names });
  }

  protected saveTable(name: string): void {
    saveText(writeNameTable(name, this.store.names), `${safeName(name)}.names.json`);
  }

  /** The shapes alone, as a table at the recorder's own frames. */
  protected saveShapes(kind: 'csv' | 'json'): void {
    const { shown, take } = this.state();
    const { solved } = this.solving();
    if (!shown || !solved) return;
    const { times, shapes, values } = shown.weights;
    const columns = { channels: shapes, times, values };
    const text = kind === 'csv' ? faceCsv(columns) : faceJson(columns, 1 / shown.track.frameTime);
    const name = safeName(`${take?.name ?? 'face'} on ${this.solving().character?.name ?? 'character'}`);
    saveText(text, `${name}.face.${kind}`);
  }
}
