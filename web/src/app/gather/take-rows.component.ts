import { isNoBody } from '../shared/no-body';
import { CdkVirtualScrollViewport, ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, untracked, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { SkeletonJson, TakeJson } from '@hollow-stride/contract';
import { EditsStore } from '../project/edits.store';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import type { TakeLine, TakeListState } from '../project/take-list';
import { bringIntoSight } from '../shared/into-sight';
import { SparklineComponent } from '../shared/sparkline.component';
import { ItemRowComponent } from './item-row.component';
import { SeveralStore } from './several.store';

/** Height of a line, pixels: the list knows without looking where each of thousands stands. */
const LINE = 40;
/** Lines that are seen at once, at most. */
const SEEN = 16;

/** How a choice is made: alone, beside the others, or up to here. */
export interface TakePick {
  readonly id: string;
  readonly how: 'alone' | 'beside' | 'range';
}

/** The takes on the rack, by the skeleton that they stand on; only what is in sight is drawn. */
@Component({
  selector: 'hs-take-rows',
  imports: [ItemRowComponent, RouterLink, ScrollingModule, SparklineComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <cdk-virtual-scroll-viewport
      [itemSize]="line"
      [minBufferPx]="320"
      [maxBufferPx]="640"
      [style.height.px]="height()"
      tabindex="-1"
      (scrolledIndexChange)="seen.emit($event)"
    >
      <ng-container *cdkVirtualFor="let row of list().lines; trackBy: byPlace; templateCacheSize: 0">
        @if (row.kind === 'skeleton') {
          @let skeleton = skeletonOf(row.skeleton);
          <h3>
            @if (skeleton) {
              <input
                class="of-performer"
                maxlength="120"
                aria-label="Name of the performer's skeleton"
                [value]="skeleton.name"
                (change)="rename(skeleton, $event)"
              />
            }
            <span class="soft"
              >{{ row.count === 1 ? '1 take' : row.count + ' takes' }} on this skeleton{{
                skeleton?.choices?.labels ? ', labelled by hand' : ''
              }}</span
            >
          </h3>
        } @else if (takeOf(row); as take) {
          <hs-item-row
            kind="take"
            [title]="take.name"
            [file]="take.file"
            [chosen]="take.id === selected()"
            [marked]="chosen().has(take.id)"
            (choose)="pick(take.id, $event)"
            (mark)="pick(take.id, $event, true)"
            (renamed)="items.rename('takes', take.id, $event)"
            (remove)="items.remove('takes', take.id, take.name)"
          >
            <hs-sparkline [values]="take.facts.body?.footTrace ?? []" />
            <span class="num">{{ take.facts.clips[take.clip].seconds.toFixed(1) }} s</span>
            <span class="num">{{ take.facts.clips[take.clip].fps }}/s</span>
            <span class="num">{{ take.facts.joints }} joints</span>
            @if (isNoBody(take.facts)) {
              <span class="soft" title="A rig that is no body: it goes joint by joint on Match">no body</span>
            } @else if (unlabelled(take)) {
              <span class="fault"><i class="bi bi-x-circle-fill" aria-hidden="true"></i> not labelled</span>
            }
            @if (take.facts.clips[take.clip].faults.length; as faults) {
              <span class="caution"
                ><i class="bi bi-exclamation-triangle-fill" aria-hidden="true"></i> {{ faults }}
                {{ faults === 1 ? 'fault' : 'faults' }}</span
              >
            }
            @if (isTrimmed(take)) {
              <span>trimmed</span>
            }
            @for (name of take.tags; track name) {
              <span class="tag">{{ name }}</span>
            }
            <a acts class="btn btn-sm btn-plain" [routerLink]="['/gather/take', take.id]" [attr.aria-label]="'Open the take ' + take.name"
              >open</a
            >
            <button
              acts
              type="button"
              class="btn btn-quiet"
              (click)="items.performerAsCharacter(take)"
              [title]="'Use the skeleton of ' + take.name + ' as a character'"
            >
              <i class="bi bi-person-plus" aria-hidden="true"></i
              ><span class="visually-hidden">Use the skeleton of {{ take.name }} as a character</span>
            </button>
          </hs-item-row>
        } @else {
          <p class="soft none">…</p>
        }
      </ng-container>
    </cdk-virtual-scroll-viewport>
  `,
  styles: `
    h3 {
      display: flex;
      align-items: center;
      gap: 8px;
      height: 40px;
      margin: 0;
      font-size: 13px;
      font-weight: 400;
    }
    .none {
      height: 40px;
      margin: 0;
      padding: 8px;
    }
    .of-performer {
      width: 220px;
      padding: 2px 6px;
      border: 1px solid transparent;
      border-radius: 3px;
      background: none;
      font-weight: 600;
      color: var(--hs-performer);
    }
    .of-performer:hover,
    .of-performer:focus {
      border-color: var(--hs-rule);
      background: var(--hs-sheet);
    }
  `,
})
export class TakeRowsComponent {
  readonly list = input.required<TakeListState>();
  /** The take that is current. */
  readonly selected = input<string>();
  readonly picked = output<TakePick>();
  /** First line in sight. */
  readonly seen = output<number>();
  protected readonly store = inject(ProjectStore);
  protected readonly items = inject(ItemsStore);
  private readonly edits = inject(EditsStore);
  private readonly several = inject(SeveralStore);
  protected readonly chosen = toSignal(this.several.chosen$, { requireSync: true });
  private readonly rack = toSignal(this.store.rack$, { requireSync: true });
  private readonly takes = computed(() => new Map(this.rack().takes.map((take) => [take.id, take])));
  private readonly skeletons = computed(() => new Map(this.rack().skeletons.map((skeleton) => [skeleton.id, skeleton])));
  protected readonly line = LINE;
  private readonly viewport = viewChild.required(CdkVirtualScrollViewport);
  protected readonly height = computed(() => Math.min(this.list().lines.length, SEEN) * LINE);

  private shown: string | undefined;
  /** The query as one text: a new query is shown from its beginning. */
  private readonly query = computed(() => JSON.stringify(this.list().query));

  constructor() {
    effect(() => {
      this.query();
      untracked(() => this.viewport().scrollToOffset(0));
    });
    // A newly chosen take is scrolled into sight once: a list that is searched or scrolled stays where it is.
    effect(() => {
      const { ids, lines } = this.list();
      if (this.selected() === this.shown) return;
      const at = ids.indexOf(this.selected());
      const line = at < 0 ? -1 : lines.findIndex((one) => one.kind === 'take' && one.at === at);
      if (line < 0) return;
      this.shown = this.selected();
      untracked(() => bringIntoSight(this.viewport(), line, LINE));
    });
  }

  protected takeOf(line: TakeLine): TakeJson | undefined {
    return line.kind === 'take' ? this.takes().get(this.list().ids[line.at] ?? '') : undefined;
  }

  protected skeletonOf(id: string): SkeletonJson | undefined {
    return this.skeletons().get(id);
  }

  protected byPlace(_index: number, line: TakeLine): string {
    return line.kind === 'take' ? `t${line.at}` : line.skeleton;
  }

  protected readonly isNoBody = isNoBody;

  protected unlabelled(take: TakeJson): boolean {
    const { labels } = take.facts;
    return !this.skeletonOf(take.skeleton)?.choices.labels && (!labels || labels.missing.length > 0);
  }

  protected isTrimmed({ choices }: TakeJson): boolean {
    return choices.from !== null || choices.to !== null;
  }

  protected rename(skeleton: SkeletonJson, event: Event): void {
    const field = event.target as HTMLInputElement;
    const name = field.value.trim();
    if (name === '') field.value = skeleton.name;
    else this.edits.changeSkeleton(skeleton.id, { name }, `rename ${skeleton.name} to ${name}`);
  }

  protected pick(id: string, event: MouseEvent, marked = false): void {
    this.picked.emit({ id, how: event.shiftKey ? 'range' : marked || event.ctrlKey || event.metaKey ? 'beside' : 'alone' });
  }
}
