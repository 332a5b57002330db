import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { map } from 'rxjs';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import { KeepByNameComponent } from '../shared/keep-by-name.component';
import { LayersStore } from './layers.store';

/** The shelf of poses: kept from the frame that is shown, laid on any take and any body as a layer. */
@Component({
  selector: 'hs-poses-panel',
  imports: [AsyncPipe, KeepByNameComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul aria-label="Poses">
      <li>
        <span class="name">rest</span>
        <button type="button" class="btn btn-quiet" title="Lay the rest pose on at this frame" (click)="layers.layPose('rest', undefined)">
          lay on
        </button>
      </li>
      @for (one of poses$ | async; track one.id) {
        <li>
          <span class="name" [title]="one.name">{{ one.name }}</span>
          <button
            type="button"
            class="btn btn-quiet"
            [attr.aria-label]="'Lay on the pose ' + one.name"
            title="A layer in its place at this frame"
            (click)="layers.layPose(one.name, one.pose)"
          >
            lay on
          </button>
          <button
            type="button"
            class="btn btn-quiet"
            [attr.aria-label]="'Remove the pose ' + one.name"
            title="Remove"
            (click)="items.remove('poses', one.id, one.name)"
          >
            <i class="bi bi-trash3" aria-hidden="true"></i>
          </button>
        </li>
      }
    </ul>
    <hs-keep-by-name label="Name of the pose at this frame" (kept)="keep($event)">Keep this pose</hs-keep-by-name>
  `,
  styles: `
    ul {
      margin: 0 0 6px;
      padding: 0;
      list-style: none;
      font-size: 12.5px;
    }
    li {
      display: flex;
      align-items: center;
      gap: 4px;
    }
    .name {
      flex: 1;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .btn {
      padding: 1px 5px;
    }
  `,
})
export class PosesPanelComponent {
  protected readonly layers = inject(LayersStore);
  protected readonly items = inject(ItemsStore);
  protected readonly poses$ = inject(ProjectStore).rack$.pipe(map(({ poses }) => poses));

  protected keep(name: string): void {
    const pose = this.layers.poseHere();
    if (pose) this.items.addPose({ name, pose });
  }
}
