import { isNoBody } from '../shared/no-body';
import { CdkVirtualScrollViewport, ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, effect, inject, untracked, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { TakeJson } from '@hollow-stride/contract';
import { ProjectStore } from '../project/project.store';
import { TakeList } from '../project/take-list';
import { InSightDirective } from '../shared/in-sight.directive';
import { bringIntoSight } from '../shared/into-sight';
import { ProportionsComponent } from '../shared/proportions.component';
import { SparklineComponent } from '../shared/sparkline.component';
import { RovingDirective } from '../shared/roving.directive';

/** Height of a take's line, pixels. */
const LINE = 42;

/** Left of every station: what there is to work with, with search; a click chooses. */
@Component({
  selector: 'hs-rack',
  imports: [InSightDirective, RovingDirective, ProportionsComponent, ScrollingModule, SparklineComponent],
  providers: [TakeList],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="search">
      <i class="bi bi-search" aria-hidden="true"></i><span class="visually-hidden">Search the rack</span>
      <input type="search" placeholder="Search the rack" maxlength="120" [value]="list().query.text" (input)="find($event)" />
    </label>
    @let selection = state().selection;
    <div class="lists">
      <h2 id="rack-takes">
        Takes <span class="num">{{ list().total }}</span>
      </h2>
      @if (list().total > 0) {
        <cdk-virtual-scroll-viewport
          class="takes"
          hsRoving="button.item"
          [itemSize]="line"
          [minBufferPx]="300"
          [maxBufferPx]="600"
          tabindex="-1"
          [style.flex-basis.px]="list().total * line"
          (scrolledIndexChange)="seen($event)"
        >
          <ul aria-labelledby="rack-takes">
            <ng-container *cdkVirtualFor="let id of list().ids; trackBy: byPlace; templateCacheSize: 0">
              @if (takeOf(id); as take) {
                <li>
                  <button
                    type="button"
                    class="item performer"
                    [attr.aria-pressed]="take.id === selection.take"
                    (click)="store.choose({ take: take.id })"
                  >
                    <span class="mark" aria-hidden="true"></span>
                    <span class="name"
                      >{{ take.name
                      }}<small class="num"
                        >{{ take.facts.clips[take.clip].seconds.toFixed(1) }} s · {{ take.facts.clips[take.clip].fps }}/s</small
                      ></span
                    >
                    <hs-sparkline [values]="take.facts.body?.footTrace ?? []" />
                  </button>
                </li>
              } @else {
                <li class="item soft">…</li>
              }
            </ng-container>
          </ul>
        </cdk-virtual-scroll-viewport>
      } @else {
        <p class="soft none">{{ list().query.text ? 'No take of that name.' : 'No takes yet. Drop files on Gather.' }}</p>
      }
      <h2 id="rack-characters">
        Characters <span class="num">{{ characters().length }}</span>
      </h2>
      <ul class="characters" hsRoving="button.item" aria-labelledby="rack-characters">
        @for (character of characters(); track character.id) {
          <li>
            <button
              type="button"
              class="item character"
              [hsInSight]="character.id === selection.character"
              [attr.aria-pressed]="character.id === selection.character"
              (click)="store.choose({ character: character.id })"
            >
              <span class="mark" aria-hidden="true"></span>
              <span class="name"
                >{{ character.name
                }}<small class="num"
                  >{{
                    character.facts.body
                      ? character.facts.body.height.toFixed(2) + ' m'
                      : isNoBody(character.facts)
                        ? 'no body'
                        : 'not labelled'
                  }}
                  · {{ character.facts.joints }} joints</small
                ></span
              >
              <hs-proportions [drawing]="character.facts.labels?.drawing ?? []" />
            </button>
          </li>
        } @empty {
          <li class="soft none">{{ list().query.text ? 'No character of that name.' : 'No characters yet. Drop files on Gather.' }}</li>
        }
      </ul>
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
    }
    .search {
      display: flex;
      align-items: center;
      gap: 6px;
      margin: 8px;
      padding: 0 8px;
      border: 1px solid var(--hs-rule);
      border-radius: 3px;
      background: var(--hs-sheet);
      color: var(--hs-ink-soft);
    }
    .search input {
      flex: 1;
      min-width: 0;
      border: 0;
      padding: 4px 0;
      background: none;
      outline: 0;
    }
    .search:focus-within {
      outline: 2px solid var(--hs-act);
      outline-offset: 1px;
    }
    .lists {
      display: flex;
      flex: 1;
      flex-direction: column;
      min-height: 0;
    }
    .takes {
      flex: 0 1 auto;
      min-height: 126px;
    }
    .characters {
      flex: 0 1 auto;
      min-height: 100px;
      overflow-y: auto;
    }
    h2 {
      display: flex;
      justify-content: space-between;
      margin: 6px 12px 2px;
      font-size: 13px;
    }
    h2 .num {
      font-weight: 400;
      color: var(--hs-ink-soft);
    }
    ul {
      margin: 0 0 8px;
      padding: 0;
      list-style: none;
    }
    .none {
      padding: 4px 12px;
    }
    .item {
      display: flex;
      align-items: center;
      gap: 8px;
      width: 100%;
      height: 42px;
      padding: 4px 12px 4px 9px;
      border: 0;
      border-left: 3px solid transparent;
      background: none;
      text-align: left;
      color: inherit;
    }
    .item:hover {
      background: #ece6d9;
    }
    .item[aria-pressed='true'] {
      background: var(--hs-sheet);
      border-left-color: var(--hs-act);
    }
    .item:focus-visible {
      outline-offset: -2px;
    }
    .mark {
      flex: none;
      width: 9px;
      height: 9px;
      border-radius: 50%;
      border: 2px solid var(--hs-character);
    }
    .performer .mark {
      border-color: var(--hs-performer);
      background: var(--hs-performer);
    }
    .name {
      flex: 1;
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      line-height: 1.25;
    }
    .item[aria-pressed='true'] .name {
      font-weight: 600;
    }
    small {
      display: block;
      font-weight: 400;
      font-size: 11.5px;
      color: var(--hs-ink-soft);
    }
  `,
})
export class RackComponent {
  protected readonly isNoBody = isNoBody;
  protected readonly store = inject(ProjectStore);
  private readonly takes = inject(TakeList);
  protected readonly list = toSignal(this.takes.state$, { requireSync: true });
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  private readonly known = computed(() => new Map(this.state().rack.takes.map((take) => [take.id, take])));
  protected readonly characters = computed(() => {
    const text = this.list().query.text.trim().toLowerCase();
    return this.state().rack.characters.filter(({ name }) => name.toLowerCase().includes(text));
  });
  protected readonly line = LINE;
  private readonly viewport = viewChild(CdkVirtualScrollViewport);
  private shown: string | undefined;

  constructor() {
    // A take chosen elsewhere, or one that has just arrived, is scrolled into sight once.
    effect(() => {
      const { take } = this.state().selection;
      const at = this.list().ids.indexOf(take);
      const viewport = this.viewport();
      if (at < 0 || !viewport || take === this.shown) return;
      this.shown = take;
      untracked(() => bringIntoSight(viewport, at, LINE));
    });
  }

  protected takeOf(id: string | undefined): TakeJson | undefined {
    return this.known().get(id ?? '');
  }

  protected byPlace(index: number): number {
    return index;
  }

  /** Lines that come into sight; the skeletons' own lines, which are not shown here, stand between them. */
  protected seen(first: number): void {
    this.takes.wantTakes(first - 20, first + 60);
  }

  protected find(event: Event): void {
    this.takes.find({ text: (event.target as HTMLInputElement).value });
  }
}
