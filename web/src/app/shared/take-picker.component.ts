import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { NgbTypeahead, type NgbTypeaheadSelectItemEvent } from '@ng-bootstrap/ng-bootstrap';
import { ALL_TAKES, type TakeJson } from '@hollow-stride/contract';
import { catchError, debounceTime, map, merge, type Observable, of, Subject, switchMap } from 'rxjs';
import { ApiService } from '../api/api.service';
import { NoticesService } from '../notices/notices.service';
import { ProjectStore } from '../project/project.store';

/** So many takes are offered at once; a word finds the others. */
const OFFERED = 20;
/** Somebody who types is waited for, milliseconds. */
const TYPING = 150;

/**
 * A field in which a take of the rack is found by its name: the server looks through all of them, however many there are. What was typed and is no
 * take gives way to the name of the one that is chosen.
 */
@Component({
  selector: 'hs-take-picker',
  imports: [FormsModule, NgbTypeahead],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <input
      #field="ngbTypeahead"
      class="form-control form-control-sm"
      type="text"
      autocomplete="off"
      [placeholder]="none()"
      title="Type a part of its name to find others"
      container="body"
      [attr.aria-label]="label()"
      [ngModel]="chosen()"
      [ngbTypeahead]="find"
      [resultFormatter]="nameOf"
      [inputFormatter]="nameOf"
      [editable]="false"
      (focus)="offer($event)"
      (click)="offer($event)"
      (blur)="field.writeValue(chosen())"
      (selectItem)="picked($event)"
    />
  `,
  styles: `
    :host {
      display: block;
      flex: 1;
      min-width: 0;
    }
  `,
})
export class TakePickerComponent {
  readonly label = input.required<string>();
  /** The id of the take that is chosen; empty for none. */
  readonly take = input.required<string>();
  /** Only takes that stand on this skeleton are offered; empty for all. */
  readonly skeleton = input('');
  /** What stands there while none is chosen. */
  readonly none = input('find a take');
  readonly choose = output<string>();
  private readonly api = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly project = inject(ProjectStore);
  private readonly rack = toSignal(this.project.rack$, { requireSync: true });
  private readonly offers = new Subject<string>();
  protected readonly chosen = computed(() => this.rack().takes.find(({ id }) => id === this.take()));

  protected readonly find = (typed: Observable<string>): Observable<TakeJson[]> =>
    merge(typed.pipe(debounceTime(TYPING)), this.offers.pipe(debounceTime(0))).pipe(
      switchMap((text) =>
        this.api.takes({ ...ALL_TAKES, text, skeleton: this.skeleton() }, 0).pipe(
          map(({ items }) => items.takes.slice(0, OFFERED)),
          catchError((error: unknown) => {
            this.notices.failed(error);
            return of([]);
          }),
        ),
      ),
    );
  protected readonly nameOf = (take: TakeJson): string => take.name;

  /** All takes are offered, once for a press that brings the focus, and what is typed takes the place of the name that stands there. */
  protected offer(event: Event): void {
    (event.target as HTMLInputElement).select();
    this.offers.next('');
  }

  protected picked({ item }: NgbTypeaheadSelectItemEvent<TakeJson>): void {
    this.project.learn([item]);
    this.choose.emit(item.id);
  }
}
