import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { Figures } from '@hollow-stride/core';
import type { Solved } from '../solver/messages';
import { PlaybackService } from '../timeline/playback.service';

interface Row {
  readonly name: string;
  readonly what: string;
  readonly before: string;
  readonly after: string;
  readonly verdict: 'good' | 'caution' | 'fault' | 'none';
  /** Frame to look at, undefined when there is none. */
  readonly frame: number | undefined;
}

/** The quality figures, before (plain transfer) and after (pinned); a row leads to its worst frame. */
@Component({
  selector: 'hs-figures-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <table>
      <thead>
        <tr>
          <th scope="col">figure</th>
          <th scope="col" class="n">before</th>
          <th scope="col" class="n">after</th>
          <th scope="col"><span class="visually-hidden">verdict</span></th>
        </tr>
      </thead>
      <tbody>
        @for (row of rows(); track row.name) {
          <tr>
            <th scope="row">
              @if (row.frame !== undefined) {
                <button type="button" (click)="go(row.frame)" [title]="row.what + '. Go to frame ' + (row.frame + 1)">
                  {{ row.name }}
                </button>
              } @else {
                <span [title]="row.what">{{ row.name }}</span>
              }
            </th>
            <td class="n num soft">{{ row.before }}</td>
            <td class="n num">
              <b>{{ row.after }}</b>
            </td>
            <td class="v">
              @switch (row.verdict) {
                @case ('good') {
                  <i class="bi bi-check2 good" aria-hidden="true"></i><span class="visually-hidden">good</span>
                }
                @case ('caution') {
                  <i class="bi bi-exclamation-triangle-fill caution" aria-hidden="true"></i><span class="visually-hidden">look at it</span>
                }
                @case ('fault') {
                  <i class="bi bi-x-circle-fill fault" aria-hidden="true"></i><span class="visually-hidden">fault</span>
                }
              }
            </td>
          </tr>
        }
      </tbody>
    </table>
  `,
  styles: `
    table {
      width: 100%;
      border-collapse: collapse;
    }
    th {
      font-weight: 400;
      text-align: left;
      padding: 2px 0;
      white-space: nowrap;
    }
    thead th {
      color: var(--hs-ink-soft);
      font-size: 12px;
      border-bottom: 1px solid var(--hs-rule);
    }
    .n {
      text-align: right;
      padding-left: 8px;
      white-space: nowrap;
    }
    .v {
      width: 20px;
      text-align: right;
    }
    .good {
      color: var(--hs-act);
    }
    button {
      border: 0;
      padding: 0;
      background: none;
      color: inherit;
      text-decoration: underline dotted;
      text-underline-offset: 3px;
    }
    button:hover {
      color: var(--hs-act);
    }
  `,
})
export class FiguresPanelComponent {
  readonly solved = input.required<Solved>();
  private readonly playback = inject(PlaybackService);
  protected readonly rows = computed(() => rowsOf(this.solved().report.figures, this.solved().report.plain));

  protected go(frame: number): void {
    this.playback.pause();
    this.playback.seek(frame);
  }
}

/** What counts as good, and from where on as a fault. */
export function verdict(value: number, good: number, fault: number): Row['verdict'] {
  return value <= good ? 'good' : value <= fault ? 'caution' : 'fault';
}

export function rowsOf(after: Figures, before: Figures | undefined): Row[] {
  const row = (
    name: string,
    what: string,
    of: (f: Figures) => number,
    unit: string,
    places: number,
    good: number,
    fault: number,
    frame?: number,
  ): Row => {
    // A figure that rounds to zero has no sign.
    const text = (f: Figures): string =>
      `${of(f)
        .toFixed(places)
        .replace(/^-(0(\.0*)?)$/, '$1')}${unit}`;
    return { name, what, before: before ? text(before) : '–', after: text(after), verdict: verdict(of(after), good, fault), frame };
  };
  return [
    row(
      'slide',
      'path of planted probes over the floor, all plants',
      (f) => f.slide.sum,
      ' mm',
      1,
      after.plants.length,
      after.plants.length * 5,
      after.slide.worstFrame,
    ),
    row('worst plant', 'slide of the worst plant', (f) => f.slide.worst, ' mm', 2, 1, 5, after.slide.worstFrame),
    row('slide ratio', "slide over the performer's own, scaled", (f) => (Number.isFinite(f.slideRatio) ? f.slideRatio : 0), '', 3, 0.5, 1),
    row('sink', 'deepest point below the floor', (f) => f.sink.worst, ' mm', 1, 2, 10, after.sink.frame),
    row('float', 'mean height of planted probes over the floor', (f) => f.float, ' mm', 1, 2, 10),
    row('pop', "knee and elbow jerks over the performer's", (f) => f.pop.ratio, '', 2, 1.5, 2.5, after.pop.frame),
    row(
      'flips',
      'turns from one frame to the next that the performer does not make',
      (f) => f.flips.count,
      '',
      0,
      0,
      3,
      after.flips.first?.frame,
    ),
    row('likeness, arms', 'mean angle between arm segments', (f) => f.likeness.arms, '°', 2, 3, 8),
    row('likeness, legs', 'mean angle between leg segments', (f) => f.likeness.legs, '°', 2, 6, 12),
    row('twist', 'greatest turn about a bone', (f) => f.twist.worst, '°', 0, 120, 160, after.twist.frame),
    row('stretched', 'frames with a leg at full stretch', (f) => f.reach.stretched, '', 0, after.frames * 0.05, after.frames * 0.3),
    row('missed', 'farthest that a foot stayed from its place', (f) => f.reach.worstMiss, ' mm', 1, 1, 5),
    row('hips give', 'most that the hips went down for a foot', (f) => f.reach.deepestDrop, ' mm', 0, 80, 200),
  ];
}
