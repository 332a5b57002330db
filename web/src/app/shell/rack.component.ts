import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { toObservable } from '@angular/core/rxjs-interop';
import { combineLatest, map } from 'rxjs';
import { ProjectStore } from '../project/project.store';
import { ProportionsComponent } from '../shared/proportions.component';
import { SparklineComponent } from '../shared/sparkline.component';

/** Left of every station: what there is to work with, with search; a click chooses. */
@Component({
  selector: 'hs-rack',
  imports: [AsyncPipe, ProportionsComponent, SparklineComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="search">
      <i class="bi bi-search" aria-hidden="true"></i><span class="visually-hidden">Search the rack</span>
      <input type="search" placeholder="Search the rack" [value]="search()" (input)="find($event)" />
    </label>
    @if (vm$ | async; as vm) {
      <div class="lists">
        <h2 id="rack-takes">
          Takes <span class="num">{{ vm.takes.length }}</span>
        </h2>
        <ul aria-labelledby="rack-takes">
          @for (take of vm.takes; track take.id) {
            <li>
              <button
                type="button"
                class="item performer"
                [attr.aria-pressed]="take.id === vm.selection.take"
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
          } @empty {
            <li class="soft none">{{ search() ? 'No take of that name.' : 'No takes yet. Drop files on Gather.' }}</li>
          }
        </ul>
        <h2 id="rack-characters">
          Characters <span class="num">{{ vm.characters.length }}</span>
        </h2>
        <ul aria-labelledby="rack-characters">
          @for (character of vm.characters; track character.id) {
            <li>
              <button
                type="button"
                class="item character"
                [attr.aria-pressed]="character.id === vm.selection.character"
                (click)="store.choose({ character: character.id })"
              >
                <span class="mark" aria-hidden="true"></span>
                <span class="name"
                  >{{ character.name
                  }}<small class="num"
                    >{{ character.facts.body ? character.facts.body.height.toFixed(2) + ' m' : 'not labelled' }} ·
                    {{ character.facts.joints }} joints</small
                  ></span
                >
                <hs-proportions [drawing]="character.facts.labels?.drawing ?? []" />
              </button>
            </li>
          } @empty {
            <li class="soft none">{{ search() ? 'No character of that name.' : 'No characters yet. Drop files on Gather.' }}</li>
          }
        </ul>
      </div>
    }
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
      flex: 1;
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
  protected readonly store = inject(ProjectStore);
  protected readonly search = signal('');
  protected readonly vm$ = combineLatest([this.store.state$, toObservable(this.search)]).pipe(
    map(([{ rack, selection }, search]) => {
      const fits = (name: string): boolean => name.toLowerCase().includes(search.trim().toLowerCase());
      return { takes: rack.takes.filter((t) => fits(t.name)), characters: rack.characters.filter((c) => fits(c.name)), selection };
    }),
  );

  protected find(event: Event): void {
    this.search.set((event.target as HTMLInputElement).value);
  }
}
