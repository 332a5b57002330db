import { AsyncPipe, DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { toObservable } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { DEFAULT_OUTPUT, type RunOutput, type TakeJson, type TransferJson } from '@hollow-stride/contract';
import {
  describeFault,
  LIMITS,
  safeName,
  type DeliveryChoices,
  type Fault,
  type Figure,
  type FigureId,
  type OutputFormat,
  type Verdict,
  summaryOf,
  valueText,
} from '@hollow-stride/core';
import { combineLatest, finalize, map } from 'rxjs';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import { KeptStore } from '../solve/kept.store';
import { SolveStore } from '../solve/solve.store';
import { SolverService } from '../solver/solver.service';
import { faultOf } from '../solver/worker-client';
import { ChoicesComponent, type Choice as ChoiceOf } from '../shared/choices.component';
import { RovingDirective } from '../shared/roving.directive';
import { OutputFormComponent } from './output-form.component';
import { RunBuilderComponent } from './runs/run-builder.component';
import { RunsListComponent } from './runs/runs-list.component';
import { saveBytes } from './save';

/** Figures that are shown before a file is written. */
const SHOWN: readonly FigureId[] = ['held.feet', 'slide', 'sink', 'knees', 'likeness.arms'];

/** Faults stand before cautions, and these before doubts that come before a solve; the report has each of them worst first. */
const rankOf = ({ code }: Fault): number => ['judge/fault', 'judge/caution'].indexOf(code) + (code.startsWith('judge/') ? 0 : 3);

/** Frames a second of a take as it is set: resampled, or by an overruled rate. */
const takeRate = ({ choices, facts, clip }: TakeJson): number => choices.fps ?? choices.rate ?? facts.clips[clip].fps;

/** Station Deliver: write a transfer as a file that the next program opens. */
@Component({
  selector: 'hs-deliver',
  imports: [
    AsyncPipe,
    ChoicesComponent,
    DatePipe,
    OutputFormComponent,
    RouterLink,
    RunBuilderComponent,
    RunsListComponent,
    RovingDirective,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './deliver.component.html',
  styleUrl: './deliver.component.scss',
})
export class DeliverComponent {
  protected readonly project = inject(ProjectStore);
  protected readonly items = inject(ItemsStore);
  protected readonly solve = inject(SolveStore);
  private readonly kept = inject(KeptStore);
  private readonly solver = inject(SolverService);
  /** The format that was asked for; a character that came as BVH goes as BVH. */
  protected readonly format = signal<OutputFormat>('glb');
  /** How the file is written beside its format. */
  protected readonly output = signal<RunOutput>(DEFAULT_OUTPUT);
  protected readonly writing = signal(false);
  protected readonly outcome = signal<{ good: boolean; text: string } | undefined>(undefined);
  protected readonly roots: readonly ChoiceOf[] = [
    { value: 'travelling', name: 'travelling' },
    { value: 'in place', name: 'in place' },
  ];
  protected readonly rates = [24, 25, 30, 50, 60, 100, 120] as const;

  protected readonly vm$ = combineLatest([this.solve.state$, this.project.rack$, toObservable(this.format)]).pipe(
    map(([state, rack, wanted]) => {
      const isGlb = ['glb', 'vrm'].includes(state.character?.facts.format ?? '');
      const format: OutputFormat = isGlb ? wanted : 'bvh';
      const title = state.take && state.character ? `${state.take.name} on ${state.character.name}` : '';
      const report = state.solved?.report;
      const shown = SHOWN.map((id) => {
        const find = (verdict: Verdict | undefined): Figure | undefined => verdict?.figures.find((figure) => figure.id === id);
        const [after, before] = [find(report?.verdict), find(report?.plain)];
        return { id, name: LIMITS[id].name, after: after ? valueText(after) : '–', before: before ? valueText(before) : '–' };
      });
      const verdict = report && summaryOf(report.verdict);
      return {
        ...state,
        rack,
        isGlb,
        format,
        verdict,
        shown,
        cautions: [...(report?.cautions ?? [])].sort((a, b) => rankOf(a) - rankOf(b)),
        takeRate: state.take && Number(takeRate(state.take).toFixed(2)),
        fileName: `${safeName(title)}.${format}`,
      };
    }),
  );
  protected readonly describe = describeFault;

  /** Where something is mended that a caution tells of. */
  protected linkOf({ code }: Fault): string {
    const [station] = code.split('/');
    return station === 'label' || station === 'match' ? `/${station}` : '/solve';
  }

  protected formats(isGlb: boolean): ChoiceOf[] {
    return [
      { value: 'glb', name: 'GLB', disabled: !isGlb },
      { value: 'bvh', name: 'BVH' },
    ];
  }

  protected setFormat(format: string): void {
    this.format.set(format as OutputFormat);
    this.outcome.set(undefined);
  }

  protected formOf(format: OutputFormat): RunOutput {
    return { ...this.output(), format };
  }

  protected setOutput(output: RunOutput): void {
    this.output.set(output);
    this.outcome.set(undefined);
  }

  protected setRate(event: Event): void {
    const value = (event.target as HTMLSelectElement).value;
    this.outcome.set(undefined);
    this.kept.change(
      { fps: value === '' ? null : Number(value) },
      value === '' ? 'deliver at the take’s rate' : `deliver at ${value} a second`,
    );
  }

  protected setRoot(inPlace: boolean): void {
    this.outcome.set(undefined);
    this.kept.change({ inPlace }, inPlace ? 'deliver in place' : 'deliver travelling');
  }

  /** Writes the pair as it is set, hands the file to the browser, and keeps the transfer. */
  protected download(format: OutputFormat, fileName: string, title: string): void {
    const { pair } = this.solve.state;
    if (!pair) return;
    this.writing.set(true);
    this.solver
      .deliver(pair, { ...deliveryOf(this.output()), format, title })
      .pipe(finalize(() => this.writing.set(false)))
      .subscribe({
        next: ({ bytes, report }) => {
          saveBytes(bytes, fileName);
          this.kept.delivered(report.verdict, pair.choices);
          this.outcome.set({ good: true, text: `${fileName} written, ${(bytes.length / 1000).toFixed(0)} kB` });
        },
        error: (error: unknown) => this.outcome.set({ good: false, text: describeFault(faultOf(error)) }),
      });
  }

  protected open(transfer: TransferJson): void {
    this.project.choose({ take: transfer.take, character: transfer.character });
  }
}

/** The part of a run's output settings that concerns one file. */
function deliveryOf({ fps: _, inPlace: __, pattern: ___, together: ____, ...delivery }: RunOutput): DeliveryChoices {
  return delivery;
}
