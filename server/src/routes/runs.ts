import { json, Router } from 'express';
import { changeRunItemSchema, countPairsSchema, idSchema, ITEMS_PAGE, RUN_ACTS, startRunSchema } from '@hollow-stride/contract';
import * as v from 'valibot';
import { pipeline } from 'node:stream/promises';
import { attachment, checked, fromSchema } from '../border';
import { sendEvents } from './events';
import type { Database } from '../db/open';
import { refuse } from '../errors';
import type { RunService } from '../runs/service';
import { changeItem, itemsOf, itemWhole, putFirst, runOf, runRows } from '../runs/runs';
import { countPairs } from '../runs/start';
import { makeDelivery } from '../runs/delivery';
import type { Blobs } from '../blobs';
import type { Pool } from '../pool';

const itemsSchema = v.object({ items: v.pipe(v.array(idSchema), v.maxLength(500)) });

export interface RunRouteServices {
  readonly db: Database;
  readonly runs: RunService;
  readonly blobs: Blobs;
  readonly pool: Pool;
  /** The folder that deliveries are written into when they are asked for; undefined for none. */
  readonly outFolder: string | undefined;
}

/** Runs under /api/runs. */
export function runRoutes({ db, runs, blobs, pool, outFolder }: RunRouteServices): Router {
  const router = Router();
  const body = json({ limit: '2mb' });
  const idOf = (params: Record<string, unknown>): string => checked(idSchema, params['id']);
  router.get('/', async (_request, response) => {
    response.set('Cache-Control', 'no-store').json({ runs: await runRows(db), outFolder: outFolder !== undefined });
  });
  router.post('/', body, async (request, response) => {
    response.status(201).json(await runs.start(checked(startRunSchema, request.body)));
  });
  router.post('/pairs', body, async (request, response) => {
    response.json(await countPairs(db, checked(countPairsSchema, request.body)));
  });
  router.get('/events', (request, response) => {
    sendEvents(request, response, (tell) => runs.watch(tell));
  });
  router.get('/items/:id', async (request, response) => {
    const { item, report } = await itemWhole(db, idOf(request.params));
    response.set('Cache-Control', 'no-store').json({ item, report });
  });
  router.patch('/items/:id', body, async (request, response) => {
    const id = idOf(request.params);
    const item = await changeItem(db, id, checked(changeRunItemSchema, request.body));
    await runs.tell(item.run, id);
    response.json(item);
  });
  router.get('/items/:id/file', async (request, response) => {
    const { item, file } = await itemWhole(db, idOf(request.params));
    if (file === null) refuse(404, 'this item has no file');
    response
      .set('Cache-Control', 'private, no-store')
      .set('Content-Disposition', attachment(`${item.fileName}.${item.format}`))
      .type('application/octet-stream');
    await pipeline(runs.results.read(file), response);
  });
  router.get('/:id', async (request, response) => {
    response
      .set('Cache-Control', 'no-store')
      .json(await itemsOf(db, idOf(request.params), checked(fromSchema, request.query['from']), ITEMS_PAGE));
  });
  router.get('/:id/zip', async (request, response) => {
    const run = await runOf(db, idOf(request.params));
    const delivery = await makeDelivery(db, run, { blobs, results: runs.results, pool });
    try {
      response
        .set('Cache-Control', 'no-store, no-transform')
        .set('Content-Disposition', attachment(`${delivery.name}.zip`))
        .type('application/zip');
      await pipeline(delivery.stream(), response);
    } finally {
      await delivery.remove();
    }
  });
  router.post('/:id/folder', async (request, response) => {
    if (outFolder === undefined)
      refuse(409, 'the server was started without a folder for deliveries; set HOLLOW_STRIDE_OUT and start it again');
    const run = await runOf(db, idOf(request.params));
    const delivery = await makeDelivery(db, run, { blobs, results: runs.results, pool });
    try {
      response.json({ files: await delivery.into(outFolder) });
    } finally {
      await delivery.remove();
    }
  });
  router.post('/:id/first', body, async (request, response) => {
    await putFirst(db, idOf(request.params), checked(itemsSchema, request.body).items);
    response.status(204).end();
  });
  router.post('/:id/:act', async (request, response) => {
    const act = checked(v.picklist(RUN_ACTS), request.params['act']);
    await runs.act(idOf(request.params), act);
    response.json(await runOf(db, idOf(request.params)));
  });
  return router;
}
