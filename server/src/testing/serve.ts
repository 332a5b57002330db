import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import * as v from 'valibot';
import {
  conflictSchema,
  errorSchema,
  rackSchema,
  takesPageSchema,
  uploadSchema,
  type RackJson,
  type TakesPage,
  type UploadJson,
} from '@hollow-stride/contract';
import { writeBvh, type BvhLayout } from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '@hollow-stride/core/testing/index';
import { makeApp } from '../app';
import type { AppServices } from '../services';
import { Blobs } from '../blobs';
import { Changes } from '../changes';
import type { OpenDatabase } from '../db/open';
import { memoryDatabase } from './memory';
import { Depot } from '../depot/depot';
import { makeDesk } from '../desk/desk';
import { openLines } from '../desk/socket';
import { Library } from '../library';
import { makePool } from '../pool';
import { matchRack } from '../rackId';
import { RunService } from '../runs/service';
import { listen, webServer } from '../http';

/** A short walk of a random body, as BVH in centimetres. */
export function walkBvh(seed: number, frames = 20): Uint8Array<ArrayBuffer> {
  const shape = randomShape(seed, { spine: 2, neck: 1, clavicles: true });
  const file = makeFile(shape, { metres: 0.01 }, walk(shape, { seed, frames }));
  return writeBvh(file.skeleton, file.clips[0], file.layout as BvhLayout);
}

/** Incoming files below a folder of contents, except the locks of the processes that work there. */
export function leftIn(contents: string): string[] {
  const incoming = join(contents, 'incoming');
  return readdirSync(incoming, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.name !== 'lock' && (entry.isFile() || entry.name.startsWith('parts-')))
    .map(({ name }) => name);
}

/** The whole application on a rack of its own, for one spec; everything that it answers is held against the contract. */
export class Served {
  private constructor(
    readonly base: string,
    /** Where contents lie. */
    readonly folder: string,
    readonly services: AppServices,
    readonly stop: () => Promise<void>,
  ) {}

  /** @param database its rack's database; one in memory by default */
  static async start(database?: OpenDatabase): Promise<Served> {
    const folder = mkdtempSync(join(tmpdir(), 'hollow-stride-'));
    const own = database ?? (await memoryDatabase());
    const library = new Library(own.db);
    await matchRack(library, folder);
    const pool = makePool();
    const blobs = new Blobs(join(folder, 'files'));
    const log = pino({ level: 'silent' });
    const runs = new RunService(own.db, blobs, new Blobs(join(folder, 'results')), log, 1);
    const outFolder = join(folder, 'out');
    const shared = { blobs, library, pool, depot: new Depot(1) };
    const desk = makeDesk(join(folder, 'desk'), shared, log);
    const services: AppServices = { ...shared, runs, changes: new Changes(), outFolder, desk };
    const server = webServer(makeApp(services, log, join(folder, 'no-web')));
    await listen(server, 0);
    const endLines = openLines(server, desk.hub);
    const stop = async (): Promise<void> => {
      desk.ring.disconnect();
      await desk.recorder.end();
      endLines();
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      await runs.stop();
      await pool.close();
      if (!database) await own.close();
      rmSync(folder, { recursive: true });
    };
    return new Served(`http://127.0.0.1:${(server.address() as AddressInfo).port}`, folder, services, stop);
  }

  async rack(): Promise<RackJson> {
    return v.parse(rackSchema, await (await fetch(`${this.base}/api/rack`)).json());
  }

  async takes(query: Record<string, string> = {}): Promise<TakesPage> {
    return v.parse(takesPageSchema, await (await fetch(`${this.base}/api/takes?${new URLSearchParams(query)}`)).json());
  }

  post(...files: readonly (readonly [string, Uint8Array<ArrayBuffer> | string])[]): Promise<Response> {
    const form = new FormData();
    for (const [name, content] of files) form.append('file', new Blob([content]), name);
    return fetch(`${this.base}/api/files`, { method: 'POST', body: form });
  }

  async upload(...files: readonly (readonly [string, Uint8Array<ArrayBuffer> | string])[]): Promise<UploadJson> {
    const response = await this.post(...files);
    expect(response.status).toBe(201);
    return v.parse(uploadSchema, await response.json());
  }

  send(method: string, path: string, body: unknown): Promise<Response> {
    return fetch(`${this.base}${path}`, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
  }

  /** An edit of a row as it is now, whatever its version. */
  async edit(method: 'PATCH' | 'PUT', path: string, change: object): Promise<Response> {
    const first = method === 'PATCH' ? 1 : path === '/api/limits' ? 0 : null;
    const answer = await this.send(method, path, { base: first, ...change });
    if (answer.status !== 409) return answer;
    const { current } = v.parse(conflictSchema, await answer.json());
    return this.send(method, path, { base: (current as { version: number }).version, ...change });
  }

  /** The reason for which something was refused. */
  async refusal(response: Response, status: number): Promise<string> {
    expect(response.status).toBe(status);
    return v.parse(errorSchema, await response.json()).error.message;
  }

  /** Incoming files of a folder, except locks. */
  onTheWay(folder = 'files'): string[] {
    return leftIn(join(this.folder, folder));
  }
}
