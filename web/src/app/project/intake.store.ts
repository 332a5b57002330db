import { inject, Injectable } from '@angular/core';
import type { IntakeEvent, Uploaded } from '@hollow-stride/contract';
import { asFault, NAME_TABLE_FORMAT, parseNameTable, parseScheme, SCHEME_FORMAT } from '@hollow-stride/core';
import { BehaviorSubject, catchError, concatMap, EMPTY, finalize, from, type Observable, type Subscription, tap } from 'rxjs';
import { ApiService, type UploadStep } from '../api/api.service';
import { NoticesService } from '../notices/notices.service';
import { parcels } from './parcels';
import { ItemsStore } from './items.store';
import { ProjectStore } from './project.store';

/** A bringing in that is under way. */
export interface Upload {
  /** Name of the files being brought in. */
  readonly what: string;
  /** Files by count where that is known; what came of them so far. */
  readonly files: number;
  readonly done: number;
  readonly failed: number;
  /** Of the parcel that is on its way, 0 to 1. */
  readonly sent: number;
  /** The file that is read now. */
  readonly reading: string | undefined;
}

/** A file that could not be used, kept in sight until it is dismissed. */
export type Refused = Pick<Uploaded, 'fileName' | 'error'>;

export interface IntakeState {
  readonly upload: Upload | undefined;
  readonly refused: readonly Refused[];
  /** Drops that wait until this one is done. */
  readonly waiting: number;
}

/** Refusals that are kept in sight. */
const MOST_REFUSED = 200;

/** Brings files onto the rack: in parcels, each file told of as it is read; it can be ended, and what was read by then stays. */
@Injectable({ providedIn: 'root' })
export class IntakeStore {
  private readonly api = inject(ApiService);
  private readonly project = inject(ProjectStore);
  private readonly items = inject(ItemsStore);
  private readonly notices = inject(NoticesService);
  private readonly subject = new BehaviorSubject<IntakeState>({ upload: undefined, refused: [], waiting: 0 });
  readonly state$ = this.subject.asObservable();
  private running: Subscription | undefined;
  private readonly queue: { readonly what: string; readonly files: number; readonly steps: Observable<UploadStep> }[] = [];
  /** Results of the files so far. */
  private arrived: Uploaded[] = [];
  private ignored: string[] = [];

  get state(): IntakeState {
    return this.subject.value;
  }

  /** Brings files in and chooses what they hold. */
  bringIn(all: readonly File[]): void {
    const isText = (file: File): boolean => /\.json$/i.test(file.name);
    for (const file of all.filter(isText)) void this.bringText(file);
    this.send(all.filter((file) => !isText(file)));
  }

  private send(files: readonly File[]): void {
    if (files.length === 0) return;
    const what = files.length === 1 ? files[0].name : `${files.length} files`;
    this.enqueue(what, files.length, from(parcels(files)).pipe(concatMap((parcel) => this.sent(parcel))));
  }

  bringDemo(): void {
    this.enqueue('the demo production', 0, this.api.bringDemo());
  }

  /** Cancels the import that is under way; files read so far stay on the rack. The next import in the queue starts. */
  end(): void {
    this.running?.unsubscribe();
  }

  private enqueue(what: string, files: number, steps: Observable<UploadStep>): void {
    this.queue.push({ what, files, steps });
    if (this.running) this.patch({ waiting: this.queue.length });
    else this.next();
  }

  private next(): void {
    const next = this.queue.shift();
    this.patch({ waiting: this.queue.length });
    if (next) this.run(next.what, next.files, next.steps);
  }

  /** A file that came from the motion depot. */
  fetched(file: Uploaded): void {
    this.settle([file], []);
  }

  dismissRefused(): void {
    this.patch({ refused: [] });
  }

  /** A parcel that fails as a whole is told of, and the others go on. */
  private sent(parcel: readonly File[]): Observable<UploadStep> {
    return this.api.upload(parcel).pipe(
      catchError((error: unknown) => {
        this.notices.failed(error);
        this.count({ failed: parcel.length });
        return EMPTY;
      }),
    );
  }

  private run(what: string, files: number, steps: Observable<UploadStep>): void {
    this.arrived = [];
    this.ignored = [];
    this.patch({ upload: { what, files, done: 0, failed: 0, sent: 0, reading: undefined } });
    this.running = steps
      .pipe(
        tap((step) => (step.kind === 'sent' ? this.count({ sent: step.share }) : this.told(step))),
        finalize(() => {
          this.running = undefined;
          this.patch({ upload: undefined });
          this.settle(this.arrived, this.ignored);
          this.next();
        }),
      )
      .subscribe({ error: (error: unknown) => this.notices.failed(error) });
  }

  private told(event: IntakeEvent): void {
    switch (event.kind) {
      case 'reading':
        this.count({ reading: event.fileName, sent: 1 });
        break;
      case 'file':
        this.arrived.push(event.file);
        this.count(event.file.error ? { failed: 1 } : { done: 1 });
        break;
      case 'end':
        this.ignored.push(...event.ignored);
        break;
      case 'failed':
        this.notices.fault({ ...event.fault, code: 'option' });
    }
  }

  private count(change: { done?: number; failed?: number; sent?: number; reading?: string }): void {
    const { upload } = this.state;
    if (!upload) return;
    const { done = 0, failed = 0, ...rest } = change;
    this.patch({ upload: { ...upload, ...rest, done: upload.done + done, failed: upload.failed + failed } });
  }

  /** Says what came of files, and chooses the first of them. */
  private settle(files: readonly Uploaded[], ignored: readonly string[]): void {
    const good = files.filter((file) => !file.error);
    const refused = files.filter((file) => file.error);
    this.patch({ refused: [...refused, ...this.state.refused].slice(0, MOST_REFUSED) });
    const [first] = refused;
    if (refused.length > 1) this.notices.fault({ code: 'option', message: `${refused.length} files were not taken in`, where: {} });
    else if (first?.error) this.notices.fault({ ...first.error, code: 'option' });
    if (ignored.length > 0) {
      const names = ignored.slice(0, 4).join(', ');
      this.notices.done(`passed over as no take and no character: ${names}${ignored.length > 4 ? ` and ${ignored.length - 4} more` : ''}`);
    }
    if (good.length === 0) return;
    const take = good.flatMap((file) => file.takes)[0];
    const character = good.flatMap((file) => file.characters)[0];
    if (take) this.project.learn([take]);
    this.project.choose({ ...(take ? { take: take.id } : {}), ...(character ? { character: character.id } : {}) });
    this.notices.done(arrival(good));
    this.project.load();
  }

  /** A naming scheme, a name table or a face that was dropped; a recipe is Match's to apply. */
  private async bringText(file: File): Promise<void> {
    const text = await file.text();
    try {
      if (text.includes(SCHEME_FORMAT)) this.items.addScheme(parseScheme(text, file.name));
      else if (text.includes(NAME_TABLE_FORMAT)) this.items.addNameTable(parseNameTable(text, file.name));
      else if (text.includes('"channels"')) this.send([file]);
      else
        this.notices.fault({
          code: 'option',
          message: 'neither a take, a character, a naming scheme, a name table nor a face; a recipe is brought in on Match',
          where: { file: file.name },
        });
    } catch (error) {
      this.notices.fault(asFault(error, file.name));
    }
  }

  private patch(change: Partial<IntakeState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}

function arrival(good: readonly Uploaded[]): string {
  const names = (files: readonly Uploaded[]): string =>
    files.length > 4 ? `${files.length} files` : files.map((file) => file.fileName).join(', ');
  const known = good.filter((file) => file.known);
  const fresh = good.filter((file) => !file.known);
  const parts = [
    fresh.length > 0 ? `${names(fresh)} brought in` : '',
    known.length > 0 ? `${names(known)}: the same content was on the rack already` : '',
  ];
  return parts.filter((part) => part !== '').join('; ');
}
