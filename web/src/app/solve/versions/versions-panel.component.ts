import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import type { VersionJson } from '@hollow-stride/contract';
import { describeFault, JOIN_PARTS, type JoinPart } from '@hollow-stride/core';
import { KeepByNameComponent } from '../../shared/keep-by-name.component';
import { PART_NAMES, VersionsStore } from './versions.store';

/** Versions of the pair's settings: keep, use, compare, take a part over, remove. */
@Component({
  selector: 'hs-versions-panel',
  imports: [AsyncPipe, KeepByNameComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let compared = store.compared$ | async;
    @for (version of store.versions$ | async; track version.id) {
      <div class="version" [class.on]="compared?.version?.id === version.id">
        <span class="name" [title]="version.name">{{ version.name }}</span>
        <button
          type="button"
          class="btn btn-quiet"
          [class.on]="compared?.version?.id === version.id"
          [attr.aria-pressed]="compared?.version?.id === version.id"
          [attr.aria-label]="'Compare with ' + version.name"
          title="Lay it over the character as a ghost, its figures beside"
          (click)="store.compare(version.id)"
        >
          compare
        </button>
        <button
          type="button"
          class="btn btn-quiet"
          [attr.aria-label]="'Use ' + version.name"
          title="Put these settings in use"
          (click)="store.use(version)"
        >
          use
        </button>
        <select
          class="form-select form-select-sm"
          [attr.aria-label]="'Take a part over from ' + version.name"
          title="Take over what concerns one part of the body"
          (change)="take(version, $event)"
        >
          <option value="">copy from it …</option>
          @for (part of parts; track part) {
            <option [value]="part">{{ names[part] }}</option>
          }
        </select>
        <button
          type="button"
          class="btn btn-quiet"
          [attr.aria-label]="'Remove the version ' + version.name"
          title="Remove"
          (click)="store.remove(version)"
        >
          <i class="bi bi-trash3" aria-hidden="true"></i>
        </button>
      </div>
      @if (compared?.version?.id === version.id && compared?.fault; as fault) {
        <p class="small"><i class="bi bi-x-circle-fill fault" aria-hidden="true"></i> {{ describe(fault) }}</p>
      }
    } @empty {
      <p class="soft small">None. Keep these settings by a name, try something else, and compare the two over each other.</p>
    }
    <hs-keep-by-name label="Name of the new version" (kept)="store.keep($event)">Keep as version</hs-keep-by-name>
  `,
  styles: `
    .version {
      display: flex;
      gap: 2px;
      align-items: center;
      margin: 0 -4px 3px;
      padding: 0 4px;
      border-radius: 3px;
      font-size: 12.5px;
    }
    .version.on {
      background: rgb(14 106 100 / 10%);
    }
    .name {
      flex: 1;
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    select {
      width: 76px;
      flex: none;
    }
    p {
      margin: 0 0 6px;
    }
  `,
})
export class VersionsPanelComponent {
  protected readonly store = inject(VersionsStore);
  protected readonly parts = JOIN_PARTS;
  protected readonly names = PART_NAMES;
  protected readonly describe = describeFault;

  protected take(version: VersionJson, event: Event): void {
    const select = event.target as HTMLSelectElement;
    const part = select.value as JoinPart | '';
    select.value = '';
    if (part !== '') this.store.take(version, part);
  }
}
