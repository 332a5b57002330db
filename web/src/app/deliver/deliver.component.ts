import { AsyncPipe, DatePipe, DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { toObservable } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { TransferJson } from '@hollow-stride/contract';
import { describeFault, type OutputFormat } from '@hollow-stride/core';
import { combineLatest, finalize, map } from 'rxjs';
import { ProjectStore } from '../project/project.store';
import { SolveStore } from '../solve/solve.store';
import { SolverService } from '../solver/solver.service';
import { faultOf } from '../solver/worker-client';
import { ChoicesComponent, type Choice as ChoiceOf } from '../shared/choices.component';
import { saveBytes } from './save';
import { slug } from './slug';

interface Choice {
  readonly format: OutputFormat;
  readonly fps: number | null;
  readonly inPlace: boolean;
}

/** Station Deliver: write a transfer as a file that the next program opens. */
@Component({
  selector: 'hs-deliver',
  imports: [AsyncPipe, ChoicesComponent, DatePipe, DecimalPipe, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './deliver.component.html',
  styleUrl: './deliver.component.scss',
})
export class DeliverComponent {
  protected readonly project = inject(ProjectStore);
  protected readonly solve = inject(SolveStore);
  private readonly solver = inject(SolverService);
  protected readonly choice = signal<Choice>({ format: 'glb', fps: null, inPlace: false });
  protected readonly writing = signal(false);
  protected readonly outcome = signal<{ good: boolean; text: string } | undefined>(undefined);
  protected readonly roots: readonly ChoiceOf[] = [
    { value: 'travelling', name: 'travelling' },
    { value: 'in place', name: 'in place' },
  ];
  protected readonly rates = [24, 25, 30, 50, 60, 100, 120] as const;

  protected readonly vm$ = combineLatest([this.solve.state$, this.project.rack$, toObservable(this.choice)]).pipe(
    map(([state, rack, choice]) => {
      const isGlb = ['glb', 'vrm'].includes(state.character?.facts.format ?? '');
      const format: OutputFormat = isGlb ? choice.format : 'bvh';
      const name = state.take && state.character ? `${state.take.name} on ${state.character.name}` : '';
      return { ...state, rack, isGlb, choice: { ...choice, format }, fileName: `${slug(name)}.${format}`, title: name };
    }),
  );

  protected set(change: Partial<Choice>): void {
    this.choice.update((choice) => ({ ...choice, ...change }));
    this.outcome.set(undefined);
  }

  protected formats(isGlb: boolean): ChoiceOf[] {
    return [
      { value: 'glb', name: 'GLB', disabled: !isGlb },
      { value: 'bvh', name: 'BVH' },
    ];
  }

  protected setFormat(format: string): void {
    this.set({ format: format as OutputFormat });
  }

  protected setRate(event: Event): void {
    const value = (event.target as HTMLSelectElement).value;
    this.set({ fps: value === '' ? null : Number(value) });
  }

  /** Solves the pair as set here, writes the file and hands it to the browser. */
  protected download(format: OutputFormat, fileName: string, title: string): void {
    const { take, character, choices } = this.solve.state;
    if (!take || !character) return;
    const { fps, inPlace } = this.choice();
    this.writing.set(true);
    this.solver
      .deliver(this.project.pairRequest(take, character, { ...choices, fps, inPlace }), format, title)
      .pipe(finalize(() => this.writing.set(false)))
      .subscribe({
        next: (bytes) => {
          saveBytes(bytes, fileName);
          this.outcome.set({ good: true, text: `${fileName} written, ${(bytes.length / 1000).toFixed(0)} kB` });
        },
        error: (error: unknown) => this.outcome.set({ good: false, text: describeFault(faultOf(error)) }),
      });
  }

  protected open(transfer: TransferJson): void {
    this.project.choose({ take: transfer.take, character: transfer.character });
  }
}
