import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { Router } from '@angular/router';
import { map } from 'rxjs';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import { ItemRowComponent } from './item-row.component';

/** Meshes on the rack, which skeletons are fitted to. */
@Component({
  selector: 'hs-meshes',
  imports: [ItemRowComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (meshes().length > 0) {
      <section aria-labelledby="meshes-title">
        <h2 id="meshes-title">Meshes</h2>
        @for (one of meshes(); track one.id) {
          <hs-item-row
            kind="mesh"
            [title]="one.name"
            [file]="one.file"
            (choose)="fit(one.id)"
            (renamed)="items.rename('meshes', one.id, $event)"
            (remove)="items.remove('meshes', one.id, one.name)"
          >
            <span class="num">{{ one.facts.points.toLocaleString('en') }} points</span>
            <span class="num">{{ one.facts.height.toFixed(2) }} m</span>
            <span>{{ one.facts.joints === 0 ? 'no skeleton' : one.facts.joints + ' joints' }}</span>
            <button type="button" acts class="btn btn-quiet" (click)="fit(one.id)">Fit</button>
          </hs-item-row>
        }
      </section>
    }
  `,
  styles: `
    h2 {
      margin: 14px 0 4px;
      font-size: 15px;
    }
  `,
})
export class MeshesComponent {
  protected readonly items = inject(ItemsStore);
  private readonly router = inject(Router);
  protected readonly meshes = toSignal(inject(ProjectStore).rack$.pipe(map(({ meshes }) => meshes)), { initialValue: [] });

  protected fit(id: string): void {
    void this.router.navigate(['/gather/fit'], { queryParams: { mesh: id } });
  }
}
