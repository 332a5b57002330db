import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { map } from 'rxjs';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import { KeepByNameComponent } from '../shared/keep-by-name.component';
import { KeptListComponent } from '../shared/kept-list.component';
import { LayersStore } from './layers.store';

/** The shelf of poses: kept from the frame that is shown, laid on any take and any body as a layer. */
@Component({
  selector: 'hs-poses-panel',
  imports: [AsyncPipe, KeepByNameComponent, KeptListComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let poses = poses$ | async;
    <button type="button" class="btn btn-quiet" title="Lay the rest pose on at this frame" (click)="layers.layPose('rest', undefined)">
      rest: lay on
    </button>
    <hs-kept-list
      label="Poses"
      kind="poses"
      what="pose"
      act="lay on"
      hint="A layer in its place at this frame"
      [items]="poses ?? []"
      (used)="layOn($event)"
    />
    <hs-keep-by-name label="Name of the pose at this frame" (kept)="keep($event)">Keep this pose</hs-keep-by-name>
  `,
})
export class PosesPanelComponent {
  protected readonly layers = inject(LayersStore);
  private readonly items = inject(ItemsStore);
  private readonly project = inject(ProjectStore);
  protected readonly poses$ = this.project.rack$.pipe(map(({ poses }) => poses));

  protected layOn(id: string): void {
    const one = this.project.state.rack.poses.find((pose) => pose.id === id);
    if (one) this.layers.layPose(one.name, one.pose);
  }

  protected keep(name: string): void {
    const pose = this.layers.poseHere();
    if (pose) this.items.addPose({ name, pose });
  }
}
