import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import {
  isRising,
  limitFault,
  LIMITS,
  limitText,
  sheetCsv,
  sheetFigure,
  sheetHtml,
  valueText,
  verdictOf,
  withLimits,
  worstFirst,
  safeName,
  type Figure,
  type FigureId,
  type Limit,
  type Mark,
  type Side,
} from '@hollow-stride/core';
import { distinctUntilChanged, map } from 'rxjs';
import { saveText } from '../deliver/save';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { GroupComponent } from '../shared/group.component';
import { SolveStore } from '../solve/solve.store';
import { StrideMapComponent } from '../solve/stride-map/stride-map.component';
import type { Solved } from '../solver/messages';
import { DEFAULT_STAGE } from '../stage/options';
import { StageComponent } from '../stage/stage.component';
import { PlaybackService } from '../timeline/playback.service';
import { TransportComponent } from '../timeline/transport.component';
import { ChartComponent } from './charts.component';
import { LimitsStore } from './limits.store';
import type { ProductionLimits } from '@hollow-stride/contract';
import { ResizeDirective } from '../shared/resize.directive';

interface Row {
  readonly figure: Figure;
  readonly mark: Mark;
  readonly performer: string;
  readonly plain: string;
  readonly now: string;
  readonly good: number;
  readonly fault: number;
  readonly isSet: boolean;
  /** The limits are those of the program, loosened by what the performer does. */
  readonly isLoosened: boolean;
  readonly isRising: boolean;
  readonly title: string;
}

const SAYS: Readonly<Record<Mark, string>> = { good: 'good', caution: 'look at it', fault: 'fault', unseen: 'not seen' };
const VERDICTS: Readonly<Record<Mark, string>> = {
  good: 'Every figure is good',
  caution: 'Some figures are worth a look',
  fault: 'Some figures are over their fault limit',
  unseen: 'Nothing could be judged',
};
const ICONS: Readonly<Record<Mark, string>> = {
  good: 'bi-check2 good',
  caution: 'bi-exclamation-triangle-fill caution',
  fault: 'bi-x-circle-fill fault',
  unseen: 'bi-dash',
};

const LOWER_REMEMBERED = 'hollow-stride.check.lower';
const LOWER: readonly Choice[] = [
  { value: 'charts', name: 'charts', title: 'Heights, bends, speeds and the way of the hips over the take' },
  { value: 'map', name: 'stride map', title: 'The floor from above: footprints, slides to scale, measures' },
];

/** The check sheet of one transfer: every figure with its limits, performer, plain and this beside each other; charts; the stride map. */
@Component({
  selector: 'hs-check-sheet',
  imports: [
    ResizeDirective,
    AsyncPipe,
    ChartComponent,
    ChoicesComponent,
    GroupComponent,
    RouterLink,
    StageComponent,
    StrideMapComponent,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './sheet.component.html',
  styleUrl: './sheet.component.scss',
})
export class CheckSheetComponent {
  protected readonly store = inject(SolveStore);
  protected readonly playback = inject(PlaybackService);
  protected readonly limits = inject(LimitsStore);
  private readonly state = toSignal(this.playback.state$, { requireSync: true });
  private readonly own = toSignal(this.limits.limits$, { initialValue: {} as ProductionLimits });
  protected readonly frame = computed(() => this.state().frame);
  protected readonly options = { ...DEFAULT_STAGE, prints: true };
  protected readonly lower = LOWER;
  protected readonly shown = signal(localStorage.getItem(LOWER_REMEMBERED) ?? 'charts');
  /** A limit that cannot be taken over, and why. */
  protected readonly wrong = signal<{ readonly id: FigureId; readonly text: string } | undefined>(undefined);
  protected readonly says = SAYS;
  protected readonly verdicts = VERDICTS;
  protected readonly icons = ICONS;
  protected readonly seek = (frame: number): void => {
    this.playback.pause();
    this.playback.seek(frame);
  };

  constructor() {
    this.store.state$
      .pipe(
        map((s) => s.solved?.take),
        distinctUntilChanged((a, b) => a?.frames === b?.frames && a?.frameTime === b?.frameTime && a?.name === b?.name),
        takeUntilDestroyed(),
      )
      .subscribe((take) => take && this.playback.setClip(take.frames, take.frameTime));
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  protected showLower(what: string): void {
    this.shown.set(what);
    localStorage.setItem(LOWER_REMEMBERED, what);
  }

  protected rows({ report }: Solved): Row[] {
    const plain = new Map(report.plain?.figures.map((figure) => [figure.id, figure]));
    const own = this.own();
    return worstFirst(withLimits(report.verdict.figures, own)).map((figure) => {
      const { id, mark, limit, performer } = figure;
      const before = plain.get(id);
      const { what, why } = LIMITS[id] as Limit;
      const [good, fault] = [limit.good, limit.fault].map((value) => Math.round(value * 10) / 10);
      return {
        figure,
        mark,
        performer: performer === undefined ? '' : valueText({ ...figure, value: performer }),
        plain: before ? valueText(before) : '–',
        now: valueText(figure),
        good,
        fault,
        isSet: own[id] !== undefined,
        isLoosened: own[id] === undefined && limit.fault !== LIMITS[id].fault,
        isRising: isRising(id),
        title: `${what}: ${figure.words}. Looked at ${figure.looked}. ${limitText(id, limit)}: ${why}`,
      };
    });
  }

  /** One word for all figures, by the limits that hold. */
  protected verdict({ report }: Solved): Mark {
    return verdictOf(withLimits(report.verdict.figures, this.own()));
  }

  /** Takes a limit over as it was typed; what contradicts the other is said beside it, and what was typed stays. */
  protected setLimit({ figure, good, fault }: Row, key: 'good' | 'fault', event: Event): void {
    const text = (event.target as HTMLInputElement).value.trim();
    const value = text === '' ? NaN : Number(text.replace(',', '.'));
    const limit = { good, fault, [key]: value };
    const wrong = limitFault(figure.id, limit);
    this.wrong.set(wrong === undefined ? undefined : { id: figure.id, text: wrong });
    if (wrong === undefined) this.limits.set(figure.id, limit);
  }

  /** Where what a chart shows rests on the performer. */
  protected restsOf(name: string, { rests }: Solved): readonly { first: number; last: number }[] {
    const side = name.split(' ')[0] as Side;
    if (/ankle|knee/.test(name)) return rests.filter((rest) => rest.name.startsWith(side) && /heel|ball/.test(rest.name));
    return /elbow/.test(name) ? rests.filter((rest) => rest.name === `${side} palm`) : [];
  }

  /** The sheet as one page or as values, to be mailed or printed. */
  protected download(kind: 'html' | 'csv', { report, series }: Solved): void {
    const { take, character } = this.store.state;
    const title = `${take?.name ?? 'take'} on ${character?.name ?? 'character'}`;
    const item = {
      take: take?.name ?? '',
      character: character?.name ?? '',
      fileName: title,
      frames: report.take.frames,
      fps: report.take.fps,
      figures: withLimits(report.verdict.figures, this.own()).map(sheetFigure),
      plain: withLimits(report.plain?.figures ?? [], this.own()).map(sheetFigure),
      cautions: report.cautions.map(({ message }) => message),
      note: '',
      review: 'none',
      looked: { series, pictures: [], every: report.take.frames / report.take.fps / Math.max(1, series[0]?.mine.length ?? 1) },
    };
    const text = kind === 'html' ? sheetHtml(`Check sheet: ${title}`, [item], new Date().toISOString()) : sheetCsv([item]);
    saveText(text, `${safeName(title)}-check-sheet.${kind}`);
  }
}
