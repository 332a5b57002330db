import { json, Router } from 'express';
import { depotFetchSchema, depotSearchSchema } from '@hollow-stride/contract';
import * as v from 'valibot';
import { fetchMotion } from '../depot/fetch';
import { checked } from '../border';
import type { UploadServices } from '../intake/one';

const previewSchema = v.pipe(v.string(), v.regex(/^[a-z0-9-]{1,60}$/));

/** The motion depot under /api/depot: search, preview, fetch. */
export function depotRoutes(services: UploadServices): Router {
  const { depot } = services;
  const router = Router();
  router.get('/motions', async (request, response) => {
    response.set('Cache-Control', 'no-store').json(await depot.search(checked(depotSearchSchema, request.query)));
  });
  router.get('/motions/:id/preview', async (request, response) => {
    const id = checked(previewSchema, request.params['id']);
    const { bytes } = await depot.file(id, { travel: 'travelling', fps: 30, body: 'with-body' });
    response.set('Cache-Control', 'private, max-age=3600').type('application/octet-stream').send(Buffer.from(bytes));
  });
  // One JSON object a line while the fetch goes on; closing the connection ends it.
  router.post('/fetch', json({ limit: '4kb' }), async (request, response) => {
    const wanted = checked(depotFetchSchema, request.body);
    const ended = new AbortController();
    response.on('close', () => ended.abort());
    response.set('Cache-Control', 'no-store').type('application/x-ndjson');
    for await (const event of fetchMotion(wanted, services, ended.signal)) {
      if (ended.signal.aborted) return;
      response.write(`${JSON.stringify(event)}\n`);
    }
    response.end();
  });
  return router;
}
