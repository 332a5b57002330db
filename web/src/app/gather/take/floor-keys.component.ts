import { DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { floorAt, type FloorKey } from '@hollow-stride/core';
import { NumberComponent } from '../../shared/number.component';

/** Moments nearer than this are one, seconds. */
const SAME = 0.002;

/** Corrections of floor, heading and place over time: a key at a frame, and between keys smoothly from one to the next. */
@Component({
  selector: 'hs-floor-keys',
  imports: [DecimalPipe, NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p class="small">
      {{ keys().length > 0 ? 'Over time, added to these:' : 'For a floor or a heading that drifts, key them over time.' }}
    </p>
    <ul aria-label="Keys of the floor">
      @for (key of keys(); track key.at; let i = $index) {
        <li [class.here]="i === here()">
          <div class="head">
            <button type="button" class="link num" (click)="went.emit(key.at)">{{ key.at | number: '1.2-2' }} s</button>
            <button
              type="button"
              class="btn btn-quiet"
              [attr.aria-label]="'Remove the key at ' + (key.at | number: '1.2-2') + ' s'"
              (click)="remove(i)"
            >
              <i class="bi bi-x-lg" aria-hidden="true"></i>
            </button>
          </div>
          <hs-number
            name="height"
            [label]="'height of key ' + (i + 1)"
            unit="mm"
            [value]="key.height * 1000"
            [usual]="0"
            [low]="-10000"
            [high]="10000"
            (changed)="set(i, { height: $event / 1000 })"
          />
          <hs-number
            name="heading"
            [label]="'heading of key ' + (i + 1)"
            unit="°"
            [value]="key.heading"
            [usual]="0"
            [low]="-360"
            [high]="360"
            (changed)="set(i, { heading: $event })"
          />
          @for (axis of axes; track axis.at) {
            <hs-number
              [name]="axis.name"
              [label]="axis.name + ' of key ' + (i + 1)"
              unit="m"
              [step]="0.05"
              [digits]="2"
              [value]="key.place[axis.at]"
              [usual]="0"
              [low]="-1000"
              [high]="1000"
              (changed)="set(i, { place: axis.at === 0 ? [$event, key.place[1]] : [key.place[0], $event] })"
            />
          }
        </li>
      }
    </ul>
    <button type="button" class="btn btn-sm btn-plain" [disabled]="here() >= 0" (click)="add()">Key at this frame</button>
  `,
  styles: `
    .small {
      margin: 8px 0 4px;
      font-size: 12.5px;
      color: var(--hs-ink-soft);
    }
    ul {
      margin: 0 0 6px;
      padding: 0;
      list-style: none;
    }
    li {
      display: grid;
      gap: 2px;
      padding: 2px 6px 6px;
      border-left: 3px solid var(--hs-rule);
      margin-bottom: 4px;
    }
    li.here {
      border-left-color: var(--hs-act);
    }
    .head {
      display: flex;
      justify-content: space-between;
    }
    .head .btn {
      padding: 0 4px;
    }
    .link {
      padding: 0;
      border: 0;
      background: none;
      color: inherit;
      text-decoration: underline dotted;
    }
  `,
})
export class FloorKeysComponent {
  readonly keys = input.required<readonly FloorKey[]>();
  /** The take's own second of the frame that is shown. */
  readonly now = input.required<number>();
  readonly changed = output<{ keys: FloorKey[]; text: string; step?: string }>();
  /** To a key's second. */
  readonly went = output<number>();
  protected readonly axes = [
    { name: 'place, left', at: 0 },
    { name: 'place, ahead', at: 1 },
  ] as const;
  protected readonly here = computed(() => this.keys().findIndex(({ at }) => Math.abs(at - this.now()) < SAME));

  /** A new key is what holds there already, so that it moves nothing. */
  protected add(): void {
    const { height, heading, place } = floorAt(this.keys(), this.now());
    const key: FloorKey = { at: Number(this.now().toFixed(4)), height, heading, place: [...place] };
    this.changed.emit({ keys: [...this.keys(), key].sort((a, b) => a.at - b.at), text: 'key the floor' });
  }

  protected set(index: number, change: Partial<FloorKey>): void {
    const keys = this.keys().map((key, i) => (i === index ? { ...key, ...change } : key));
    this.changed.emit({
      keys,
      text: `set ${Object.keys(change).join()} of a floor key`,
      step: `floor key ${index} ${Object.keys(change).join()}`,
    });
  }

  protected remove(index: number): void {
    this.changed.emit({ keys: this.keys().filter((_, i) => i !== index), text: 'remove a floor key' });
  }
}
