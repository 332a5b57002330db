import { inject, Injectable } from '@angular/core';
import type {
  ChangeItem,
  ItemKind,
  SaveJointScheme,
  SaveNameTable,
  SaveReel,
  SavePose,
  SavePreset,
  SaveTouchUpSet,
  SaveTransfer,
  SaveVersion,
  TakeJson,
  TransferJson,
} from '@hollow-stride/contract';
import type { NamingScheme } from '@hollow-stride/core';
import { catchError, concatMap, EMPTY, type Observable, Subject, tap, throwError } from 'rxjs';
import { ApiError, type Unreadable } from '../api/answers';
import { ApiService } from '../api/api.service';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { ProjectStore, type Rack } from './project.store';
import { RowsService } from './rows.service';

type ItemFields = Omit<ChangeItem, 'base'>;

/** Items on the rack as wholes: kept, renamed, removed and brought back. */
@Injectable({ providedIn: 'root' })
export class ItemsStore {
  private readonly api = inject(ApiService);
  private readonly project = inject(ProjectStore);
  private readonly rows = inject(RowsService);
  private readonly notices = inject(NoticesService);
  private readonly history = inject(HistoryService);

  constructor() {
    this.history.register('item', (item, value) => this.project.whenLoaded(() => this.putItem(item, value as ItemFields)));
    this.results.pipe(concatMap((request) => this.sendResult(request, this.knownResult(request)))).subscribe();
  }

  rename(kind: ItemKind, id: string, name: string): void {
    const { takes, characters, transfers, recordings, meshes } = this.project.state.rack;
    const before = [...takes, ...characters, ...transfers, ...recordings, ...meshes].find((item) => item.id === id)?.name ?? '';
    const to = name.trim();
    if (before === to || to === '') return;
    this.putItem(`${kind} ${id}`, { name: to });
    this.did(`rename ${before} to ${to}`, `${kind} ${id}`, { name: before }, { name: to });
  }

  /** Takes something off the rack that the page cannot read; there is no way back that it could show. */
  removeUnreadable({ kind, id, name }: Unreadable): void {
    this.changeItem(kind, id, { removed: true }).subscribe({
      next: () => {
        this.project.forget(id);
        this.notices.done(`${name} removed from the rack`);
        this.project.load();
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  remove(kind: ItemKind, id: string, name: string): void {
    this.putItem(`${kind} ${id}`, { removed: true }, () => this.notices.done(`${name} removed from the rack`, () => this.history.undo()));
    this.did(`remove ${name} from the rack`, `${kind} ${id}`, { removed: false }, { removed: true });
  }

  /** Names something on the rack, takes it off or puts it back; the rack is read anew then. */
  private putItem(item: string, change: ItemFields, then?: () => void): void {
    const [kind, id] = item.split(' ') as [ItemKind, string];
    this.changeItem(kind, id, change).subscribe({
      next: () => {
        this.project.load();
        then?.();
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  /** An edit of one field of an item; what else was changed in it meanwhile stays as it is. */
  private changeItem(kind: ItemKind, id: string, change: ItemFields): Observable<unknown> {
    const known = this.itemVersion(kind, id);
    return this.api.change(kind, id, { base: known, ...change }).pipe(
      catchError((error: unknown) => {
        const now = error instanceof ApiError ? (error.current as ({ version: number } & ItemFields) | undefined) : undefined;
        const before = [...this.project.state.rack.takes, ...this.project.state.rack.characters].find((one) => one.id === id)?.name;
        // Renamed elsewhere meanwhile to something else: nothing is overwritten, and the other name is shown.
        if (!now || (change.name !== undefined && before !== undefined && now.name !== before && now.name !== change.name)) {
          if (now) this.project.load();
          return throwError(() => error);
        }
        return this.api.change(kind, id, { base: now.version, ...change });
      }),
      tap(({ version }) => {
        this.versions.set(`${kind} ${id}`, version);
        if (kind === 'takes') this.rows.bump(`take ${id}`, version);
      }),
    );
  }

  /** Versions of items that are off the rack, or that no list tells of. */
  private readonly versions = new Map<string, number>();

  private itemVersion(kind: ItemKind, id: string): number {
    const { rack } = this.project.state;
    const listed = kind === 'runs' ? undefined : (rack[kind] as readonly { id: string; version: number }[]).find((one) => one.id === id);
    return Math.max(listed?.version ?? 1, this.versions.get(`${kind} ${id}`) ?? 1);
  }

  addScheme(scheme: NamingScheme): void {
    this.keep('schemes', this.api.addScheme(scheme), `naming scheme "${scheme.name}"`);
  }

  addVersion(version: SaveVersion): void {
    this.keep('versions', this.api.addVersion(version), `version "${version.name}"`);
  }

  addPreset(preset: SavePreset): void {
    this.keep('presets', this.api.addPreset(preset), `preset "${preset.name}"`);
  }

  addSet(set: SaveTouchUpSet): void {
    this.keep('sets', this.api.addSet(set), `set of touch-ups "${set.name}"`);
  }

  addPose(pose: SavePose): void {
    this.keep('poses', this.api.addPose(pose), `pose "${pose.name}"`);
  }

  addJointScheme(scheme: SaveJointScheme): void {
    this.keep('jointSchemes', this.api.addJointScheme(scheme), `joint scheme "${scheme.name}"`);
  }

  addNameTable(table: SaveNameTable): void {
    this.keep('nameTables', this.api.addNameTable(table), `name table "${table.name}"`);
  }

  addReel(reel: SaveReel, then?: (id: string) => void): void {
    this.keep('reels', this.api.addReel(reel).pipe(tap(({ id }) => then?.(id))), `reel "${reel.name}"`);
  }

  /** Puts the mesh of a character on the rack, to be given another skeleton or other weights. */
  addMeshOf(character: string, then?: (id: string) => void): void {
    this.api.meshOfCharacter(character).subscribe({
      next: (mesh) => {
        const { meshes } = this.project.state.rack;
        this.project.patchRack({ meshes: [...meshes.filter(({ id }) => id !== mesh.id), mesh] });
        then?.(mesh.id);
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  /** Puts on the rack what the server has kept: a step that can be taken back. */
  private keep<K extends 'schemes' | 'versions' | 'sets' | 'presets' | 'poses' | 'jointSchemes' | 'nameTables' | 'reels'>(
    kind: K,
    saving: Observable<Rack[K][number]>,
    what: string,
  ): void {
    saving.subscribe({
      next: (saved) => {
        this.project.patchRack({ [kind]: [...this.project.state.rack[kind], saved] } as Pick<Rack, K>);
        this.notices.done(`${what} kept`);
        this.did(`keep ${what}`, `${kind} ${saved.id}`, { removed: true }, { removed: false });
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  /** Makes a character of the skeleton that a take was recorded on. */
  performerAsCharacter(take: TakeJson): void {
    this.api.performerAsCharacter(take.id).subscribe({
      next: (character) => {
        this.project.choose({ character: character.id });
        this.notices.done(`${character.name} is on the rack as a character`);
        this.project.load();
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  /** Results to keep, one after the other: each goes by the version that the one before it was given. */
  private readonly results = new Subject<Omit<SaveTransfer, 'base'>>();

  /** Keeps a result with the choices that it was solved by; the pairing stays as it is. */
  saveTransfer(request: Omit<SaveTransfer, 'base'>): void {
    this.results.next(request);
  }

  private knownResult({ take, character }: Pick<SaveTransfer, 'take' | 'character'>): number | null {
    return this.project.state.rack.transfers.find((one) => one.take === take && one.character === character)?.version ?? null;
  }

  private sendResult(request: Omit<SaveTransfer, 'base'>, base: number | null): Observable<TransferJson> {
    return this.api.saveTransfer({ ...request, base }).pipe(
      tap((saved) => this.project.keepTransfer(saved)),
      catchError((error: unknown) => {
        const now = error instanceof ApiError ? (error.current as TransferJson | null | undefined) : undefined;
        if (!now) this.notices.failed(error);
        // The same choices give the same result: nothing is lost by it.
        else if (JSON.stringify(now.choices) === JSON.stringify(request.choices)) return this.sendResult(request, now.version);
        else
          this.rows.ask(now.name, ['the kept result'], (whose) => {
            this.project.keepTransfer(now);
            if (whose === 'mine') this.saveTransfer(request);
          });
        return EMPTY;
      }),
    );
  }

  private did(text: string, item: string, before: ItemFields, after: ItemFields): void {
    this.history.did({ text, key: undefined, edits: [{ kind: 'item', target: item, before, after }] });
  }
}
