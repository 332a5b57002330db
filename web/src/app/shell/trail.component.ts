import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { RouterLink, RouterLinkActive } from '@angular/router';
import { combineLatest, map } from 'rxjs';
import { BodiesStore } from '../body/bodies.store';
import { ProjectStore } from '../project/project.store';
import { SolveStore } from '../solve/solve.store';

/** The stations in the order people work, as stepping stones: solid when done, hollow when not. */
@Component({
  selector: 'hs-trail',
  imports: [AsyncPipe, RouterLink, RouterLinkActive],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <nav aria-label="Stations">
      <ol>
        @for (stone of stones$ | async; track stone.path) {
          <li>
            <a
              [routerLink]="'/' + stone.path"
              routerLinkActive="here"
              ariaCurrentWhenActive="step"
              [title]="stone.name + ' (' + stone.key + ')'"
            >
              <span class="stone" [class.done]="stone.done" aria-hidden="true"></span>{{ stone.name }}
              <span class="visually-hidden">{{ stone.done ? ', done' : ', not done yet' }}</span>
              @if (stone.cautions > 0) {
                <span class="count caution"
                  ><i class="bi bi-exclamation-triangle-fill" aria-hidden="true"></i> {{ stone.cautions
                  }}<span class="visually-hidden"> {{ stone.cautions === 1 ? 'caution' : 'cautions' }}</span></span
                >
              }
            </a>
          </li>
        }
      </ol>
    </nav>
  `,
  styles: `
    ol {
      display: flex;
      margin: 0;
      padding: 0;
      list-style: none;
    }
    li {
      display: flex;
      align-items: center;
    }
    li + li::before {
      content: '';
      width: 14px;
      border-top: 2px dotted #a69f8e;
    }
    a {
      display: flex;
      align-items: center;
      gap: 7px;
      padding: 4px 9px;
      color: var(--hs-ink-soft);
      text-decoration: none;
      border-radius: 3px;
    }
    a:hover {
      color: var(--hs-ink);
    }
    a.here {
      color: var(--hs-ink);
      font-weight: 600;
    }
    .stone {
      width: 17px;
      height: 12px;
      border: 2px solid var(--hs-ink-soft);
      border-radius: 55% 45% 50% 50% / 60% 55% 45% 40%;
    }
    .stone.done {
      background: var(--hs-ink-soft);
    }
    .here .stone {
      border-color: var(--hs-act);
      box-shadow:
        0 0 0 2px var(--hs-sheet),
        0 0 0 4px var(--hs-act);
    }
    .here .stone.done {
      background: var(--hs-act);
    }
    .count {
      font-size: 12px;
      font-weight: 600;
    }
  `,
})
export class TrailComponent {
  private readonly bodies = inject(BodiesStore);
  protected readonly stones$ = combineLatest([
    inject(ProjectStore).state$,
    this.bodies.performer$,
    this.bodies.character$,
    inject(SolveStore).state$,
  ]).pipe(
    map(([{ selection, rack }, performer, character, solve]) => {
      const both = [performer.view, character.view];
      const byJoint = Boolean(solve.choices.byJoint);
      const labelled = byJoint || both.every((view) => view !== undefined && view.missing.length === 0);
      const mistakes = byJoint
        ? 0
        : both.reduce((sum, view) => sum + (view ? view.mistakes.length + (view.missing.length > 0 ? 1 : 0) : 0), 0);
      const solved = solve.solved !== undefined && !solve.fault;
      const doubts = solve.solved?.report.cautions.filter(({ code }) => code.startsWith('match/')).length ?? 0;
      const chosen = selection.take !== undefined && selection.character !== undefined;
      const paired =
        solve.take !== undefined && rack.pairings.some((p) => p.performer === solve.take?.skeleton && p.character === selection.character);
      return [
        { path: 'gather', name: 'Gather', key: '1', done: chosen, cautions: 0 },
        { path: 'label', name: 'Label', key: '2', done: labelled, cautions: mistakes },
        { path: 'match', name: 'Match', key: '3', done: labelled && paired, cautions: doubts },
        {
          path: 'solve',
          name: 'Solve',
          key: '4',
          done: solved,
          cautions: solve.fault ? 1 : (solve.solved?.report.verdict.figures.filter(({ mark }) => mark === 'fault').length ?? 0),
        },
        { path: 'mend', name: 'Mend', key: '5', done: solve.pair !== undefined && solve.pair.layers.length > 0, cautions: 0 },
        { path: 'check', name: 'Check', key: '6', done: solved, cautions: 0 },
        { path: 'deliver', name: 'Deliver', key: '7', done: rack.transfers.length > 0, cautions: 0 },
      ];
    }),
  );
}
