import { HttpClient, HttpEventType, type HttpInterceptorFn } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import {
  changedTakesSchema,
  CLIENT_HEADER,
  characterSchema,
  depotEventSchema,
  depotPageSchema,
  eventSchema,
  intakeEventSchema,
  labelledTakesSchema,
  pairingSchema,
  keptPoseSchema,
  presetSchema,
  limitsSchema,
  schemeSchema,
  skeletonSchema,
  takeSchema,
  takesPageSchema,
  touchUpSetSchema,
  transferSchema,
  versionSchema,
  type ChangeItem,
  type ChangeSkeleton,
  type ChangeTake,
  type ChangeTakes,
  type CharacterJson,
  type DepotEvent,
  type DepotFetch,
  type DepotPage,
  type DepotSearch,
  type IntakeEvent,
  type ItemKind,
  type LabelledTakes,
  type PairingJson,
  type PresetJson,
  type LimitsJson,
  type RackJson,
  type SavePairing,
  jointSchemeSchema,
  keptNameTableSchema,
  recordingSchema,
  meshSchema,
  reelRowSchema,
  type ChangeMesh,
  type ChangeReel,
  type MeshJson,
  type ReelJson,
  type SaveReel,
  type JointSchemeJson,
  type NameTableJson,
  type PoseJson,
  type SaveJointScheme,
  type SaveNameTable,
  type SavePose,
  type SavePreset,
  type SaveTouchUpSet,
  type SaveTransfer,
  type SaveVersion,
  type ServerEvent,
  type SetLimits,
  type SkeletonJson,
  type SchemeJson,
  type TakeJson,
  type TakeQuery,
  type TakesPage,
  type TouchUpSetJson,
  type TransferJson,
  type VersionJson,
} from '@hollow-stride/contract';
import { catchError, map, Observable, share } from 'rxjs';
import * as v from 'valibot';
import { eachLine, read, readItems, toApiError, type Unreadable } from './answers';

/** This page, as it calls itself to the server: it hears of what others change, and of its own changes not. */
export const CLIENT = `page-${crypto.randomUUID()}`;

/** Says with every request which page it is. */
export const sayClient: HttpInterceptorFn = (request, next) => next(request.clone({ setHeaders: { [CLIENT_HEADER]: CLIENT } }));

/** How far an upload is: sent so far, 0 to 1, or what the server tells of its files. */
export type UploadStep = { readonly kind: 'sent'; readonly share: number } | IntakeEvent;

/** Lists, read item by item: one that is not understood does not hide the others. */
export interface Readable<T> {
  readonly items: T;
  readonly unreadable: readonly Unreadable[];
}

/** The server's HTTP interface, checked at the border. */
@Injectable({ providedIn: 'root' })
export class ApiService {
  private readonly http = inject(HttpClient);

  rack(): Observable<Readable<RackJson>> {
    return this.http.get('/api/rack').pipe(
      map((body) => {
        const lists = v.parse(
          v.object({
            characters: LIST,
            transfers: LIST,
            pairings: LIST,
            skeletons: LIST,
            schemes: LIST,
            versions: v.optional(LIST, []),
            sets: v.optional(LIST, []),
            presets: v.optional(LIST, []),
            poses: v.optional(LIST, []),
            jointSchemes: v.optional(LIST, []),
            reels: v.optional(LIST, []),
            recordings: v.optional(LIST, []),
            nameTables: v.optional(LIST, []),
            meshes: v.optional(LIST, []),
            // Limits that are not understood hide nothing else.
            limits: v.fallback(v.optional(limitsSchema, NO_LIMITS), NO_LIMITS),
          }),
          body,
        );
        const unreadable: Unreadable[] = [];
        const items: RackJson = {
          characters: readItems(characterSchema, lists.characters, 'characters', unreadable),
          transfers: readItems(transferSchema, lists.transfers, 'transfers', unreadable),
          pairings: readItems(pairingSchema, lists.pairings, 'pairings', unreadable),
          skeletons: readItems(skeletonSchema, lists.skeletons, undefined, unreadable),
          schemes: readItems(schemeSchema, lists.schemes, 'schemes', unreadable),
          versions: readItems(versionSchema, lists.versions, 'versions', unreadable),
          sets: readItems(touchUpSetSchema, lists.sets, 'sets', unreadable),
          presets: readItems(presetSchema, lists.presets, 'presets', unreadable),
          poses: readItems(keptPoseSchema, lists.poses, 'poses', unreadable),
          jointSchemes: readItems(jointSchemeSchema, lists.jointSchemes, 'jointSchemes', unreadable),
          reels: readItems(reelRowSchema, lists.reels, 'reels', unreadable),
          recordings: readItems(recordingSchema, lists.recordings, 'recordings', unreadable),
          nameTables: readItems(keptNameTableSchema, lists.nameTables, 'nameTables', unreadable),
          meshes: readItems(meshSchema, lists.meshes, 'meshes', unreadable),
          limits: lists.limits,
        };
        return { items, unreadable };
      }),
      catchError(toApiError),
    );
  }

  /** A page of the takes that a query finds. */
  takes(query: TakeQuery, from: number): Observable<Readable<TakesPage>> {
    return this.http.get('/api/takes', { params: { ...query, from } }).pipe(
      map((body) => {
        const { takes, ...rest } = v.parse(v.object({ ...takesPageSchema.entries, takes: LIST }), body);
        const unreadable: Unreadable[] = [];
        return { items: { ...rest, takes: readItems(takeSchema, takes, 'takes', unreadable) }, unreadable };
      }),
      catchError(toApiError),
    );
  }

  take(id: string): Observable<TakeJson> {
    return read(takeSchema, this.http.get(`/api/takes/${id}`));
  }

  /** The ids of all takes that a query finds, in the order of the list. */
  takeIds(query: TakeQuery): Observable<string[]> {
    return read(v.array(v.string()), this.http.get('/api/takes/ids', { params: { ...query } }));
  }

  /** Changes many takes as one. @returns those that are different now */
  changeTakes(request: ChangeTakes): Observable<string[]> {
    return this.http.post('/api/takes/change', request).pipe(
      map((body) => v.parse(changedTakesSchema, body).takes),
      catchError(toApiError),
    );
  }

  labelTakes(takes: readonly string[], scheme: string): Observable<LabelledTakes> {
    return read(labelledTakesSchema, this.http.post('/api/takes/label', { takes, scheme }));
  }

  /** Sends files and tells what comes of each; unsubscribing ends it, and what was told of stays. */
  upload(files: readonly File[]): Observable<UploadStep> {
    const form = new FormData();
    for (const file of files) form.append('file', file, file.webkitRelativePath || file.name);
    return this.told('/api/files', form);
  }

  /** Brings the demo production in, telling as an upload does. */
  bringDemo(): Observable<UploadStep> {
    return this.told('/api/demo', null);
  }

  private told(address: string, body: FormData | null): Observable<UploadStep> {
    const headers = { accept: 'application/x-ndjson' };
    return this.http.post(address, body, { headers, observe: 'events', responseType: 'text', reportProgress: true }).pipe(
      eachLine(intakeEventSchema, (event): UploadStep | undefined =>
        event.type === HttpEventType.UploadProgress ? { kind: 'sent', share: event.total ? event.loaded / event.total : 0 } : undefined,
      ),
      catchError(toApiError),
    );
  }

  file(hash: string): Observable<ArrayBuffer> {
    return this.http.get(`/api/files/${hash}`, { responseType: 'arraybuffer' }).pipe(catchError(toApiError));
  }

  /** Renames something on the rack, takes it off or puts it back. @returns its version from now on */
  change(kind: ItemKind, id: string, change: ChangeItem): Observable<{ version: number }> {
    return read(v.object({ version: v.number() }), this.http.patch(`/api/${kind}/${id}`, change));
  }

  performerAsCharacter(take: string): Observable<CharacterJson> {
    return read(characterSchema, this.http.post(`/api/takes/${take}/as-character`, null));
  }

  changeTake(id: string, change: ChangeTake): Observable<TakeJson> {
    return read(takeSchema, this.http.patch(`/api/takes/${id}/settings`, change));
  }

  changeSkeleton(id: string, change: ChangeSkeleton): Observable<SkeletonJson> {
    return read(skeletonSchema, this.http.patch(`/api/skeletons/${id}`, change));
  }

  /** Sends an edit as the page is left: the browser sees to it when the page is gone. */
  leave(method: 'PATCH' | 'PUT', path: string, body: object): void {
    const headers = { 'content-type': 'application/json', [CLIENT_HEADER]: CLIENT };
    void fetch(path, { method, headers, body: JSON.stringify(body), keepalive: true }).catch(() => undefined);
  }

  /** Changes by others on the rack, and progress of runs; the browser reconnects a broken line by itself. */
  readonly events$: Observable<ServerEvent> = new Observable<ServerEvent>((subscriber) => {
    const source = new EventSource('/api/events');
    source.onmessage = ({ data }: MessageEvent<string>) => {
      const event = v.safeParse(eventSchema, JSON.parse(data));
      if (event.success) subscriber.next(event.output);
    };
    return () => source.close();
  }).pipe(share());

  addScheme(scheme: SchemeJson['scheme']): Observable<SchemeJson> {
    return read(schemeSchema, this.http.post('/api/schemes', scheme));
  }

  addVersion(request: SaveVersion): Observable<VersionJson> {
    return read(versionSchema, this.http.post('/api/versions', request));
  }

  addPreset(request: SavePreset): Observable<PresetJson> {
    return read(presetSchema, this.http.post('/api/presets', request));
  }

  addPose(request: SavePose): Observable<PoseJson> {
    return read(keptPoseSchema, this.http.post('/api/poses', request));
  }

  addJointScheme(request: SaveJointScheme): Observable<JointSchemeJson> {
    return read(jointSchemeSchema, this.http.post('/api/joint-schemes', request));
  }

  addNameTable(request: SaveNameTable): Observable<NameTableJson> {
    return read(keptNameTableSchema, this.http.post('/api/name-tables', request));
  }

  addReel(request: SaveReel): Observable<ReelJson> {
    return read(reelRowSchema, this.http.post('/api/reels', request));
  }

  changeReel(id: string, change: ChangeReel): Observable<ReelJson> {
    return read(reelRowSchema, this.http.patch(`/api/reels/${id}`, change));
  }

  changeMesh(id: string, change: ChangeMesh): Observable<MeshJson> {
    return read(meshSchema, this.http.patch(`/api/meshes/${id}/fit`, change));
  }

  /** Puts the mesh of a character on the rack. */
  meshOfCharacter(character: string): Observable<MeshJson> {
    return read(meshSchema, this.http.post('/api/meshes', { character }));
  }

  setLimits(request: SetLimits): Observable<LimitsJson> {
    return read(limitsSchema, this.http.put('/api/limits', request));
  }

  addSet(request: SaveTouchUpSet): Observable<TouchUpSetJson> {
    return read(touchUpSetSchema, this.http.post('/api/sets', request));
  }

  savePairing(request: SavePairing): Observable<PairingJson> {
    return read(pairingSchema, this.http.put('/api/pairings', request));
  }

  searchDepot(search: DepotSearch): Observable<DepotPage> {
    const params = Object.fromEntries(Object.entries(search).filter(([, value]) => value !== undefined && value !== '')) as Record<
      string,
      string
    >;
    return read(depotPageSchema, this.http.get('/api/depot/motions', { params }));
  }

  /** Fetches a motion from the depot, telling how far it has come; unsubscribing ends the fetch. */
  fetchFromDepot(request: DepotFetch): Observable<DepotEvent> {
    return this.http
      .post('/api/depot/fetch', request, { observe: 'events', responseType: 'text', reportProgress: true })
      .pipe(eachLine(depotEventSchema), catchError(toApiError));
  }

  saveTransfer(request: SaveTransfer): Observable<TransferJson> {
    return read(transferSchema, this.http.put('/api/transfers', request));
  }
}

const NO_LIMITS: LimitsJson = { version: 0, limits: {} };
const LIST = v.array(v.unknown());
