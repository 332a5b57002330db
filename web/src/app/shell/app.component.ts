import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, HostListener, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router, RouterLink, RouterOutlet } from '@angular/router';
import { NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { filter, map } from 'rxjs';
import { HistoryComponent } from '../history/history.component';
import { HistoryService } from '../history/history.service';
import { NoticesService, type Notice } from '../notices/notices.service';
import { EditsStore } from '../project/edits.store';
import { IntakeStore } from '../project/intake.store';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import { AddressService } from './address.service';
import { KeysComponent } from './keys.component';
import { RackComponent } from './rack.component';
import { TrailComponent } from './trail.component';
import { ResizeDirective } from '../shared/resize.directive';
import { droppedFiles } from '../shared/dropped-files';
import { KeysService } from '../shared/keys.service';

const STATIONS: Record<string, string> = {
  '1': '/gather',
  '2': '/label',
  '3': '/match',
  '4': '/solve',
  '5': '/mend',
  '6': '/check',
  '7': '/deliver',
};

/** The frame: trail above, rack to the left, the station in the middle; files may be dropped anywhere. */
@Component({
  selector: 'hs-root',
  imports: [AsyncPipe, HistoryComponent, RackComponent, ResizeDirective, RouterLink, RouterOutlet, TrailComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './app.component.html',
  styleUrl: './app.component.scss',
})
export class AppComponent {
  private readonly store = inject(ProjectStore);
  protected readonly intake = inject(IntakeStore);
  protected readonly notices = inject(NoticesService);
  /** Whether all messages are shown, not only the first. */
  protected readonly allTold = signal(false);
  /** Letters that two lines hold on a narrow page. */
  protected readonly long = 150;
  /** Questions first, as something waits for them; then the latest. */
  protected readonly ordered = (list: readonly Notice[]): Notice[] =>
    [...list].sort((a, b) => Number(b.answers !== undefined) - Number(a.answers !== undefined) || b.id - a.id);
  private readonly history = inject(HistoryService);
  private readonly router = inject(Router);
  private readonly modals = inject(NgbModal);
  protected readonly folded = signal(localStorage.getItem('hollow-stride.rack') === 'folded');
  protected readonly dragging = signal(false);
  /** Gather is the rack itself, with room for what is compared: it is not shown twice. */
  protected readonly isGather = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      map(({ urlAfterRedirects }) => /^\/gather([?#]|$)/.test(urlAfterRedirects)),
    ),
    { initialValue: false },
  );

  constructor() {
    inject(KeysService).listen((event) => this.key(event), undefined, true);
    // Steps of an earlier visit are undone through these, so they are there from the start.
    inject(EditsStore);
    inject(ItemsStore);
    this.store.load();
    this.store.listen();
    inject(AddressService).follow();
  }

  /** Takes the keyboard past the header and the rack. */
  protected skip(event: Event, to: 'station' | 'settings'): void {
    event.preventDefault();
    const main = document.getElementById('station')!;
    const target = to === 'station' ? main : main.querySelector<HTMLElement>('aside');
    const first = target?.querySelector<HTMLElement>('button:not([disabled]), input, select, a[href], canvas, [tabindex="0"]');
    (first ?? target)?.focus();
  }

  protected fold(): void {
    this.folded.update((folded) => !folded);
    localStorage.setItem('hollow-stride.rack', this.folded() ? 'folded' : 'open');
  }

  protected showKeys(): void {
    if (this.modals.hasOpenModals()) return;
    this.modals.open(KeysComponent, { ariaLabelledBy: 'keys-title' });
  }

  private key(event: KeyboardEvent): boolean {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
      if (event.shiftKey) this.history.redo();
      else this.history.undo();
      return true;
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return false;
    if (event.key === '?') this.showKeys();
    else if (event.key in STATIONS) void this.router.navigateByUrl(STATIONS[event.key]);
    else return false;
    return true;
  }

  @HostListener('window:dragover', ['$event'])
  protected over(event: DragEvent): void {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    this.dragging.set(true);
  }

  @HostListener('window:dragleave', ['$event'])
  protected leave(event: DragEvent): void {
    if (event.relatedTarget === null) this.dragging.set(false);
  }

  @HostListener('window:drop', ['$event'])
  protected drop(event: DragEvent): void {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    this.dragging.set(false);
    void droppedFiles(event.dataTransfer).then((files) => this.intake.bringIn(files));
  }
}
