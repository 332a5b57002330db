import { Router, json } from 'express';
import { changeItemSchema, hashSchema, idSchema, ITEM_KINDS, saveTransferSchema } from '@hollow-stride/contract';
import * as v from 'valibot';
import { checked, notFound, refuse } from '../errors';
import { receiveUpload, type UploadServices } from './upload';

/** The HTTP interface under /api. */
export function apiRoutes(services: UploadServices): Router {
  const { blobs, library } = services;
  const router = Router();
  router.get('/health', (_request, response) => {
    response.json({ ok: true });
  });
  router.get('/rack', async (_request, response) => {
    response.set('Cache-Control', 'no-store').json(await library.rack());
  });
  router.post('/files', async (request, response) => {
    response.status(201).json(await receiveUpload(request, services));
  });
  router.get('/files/:hash', async (request, response) => {
    const hash = checked(hashSchema, request.params['hash']);
    const name = await library.fileName(hash);
    if (name === undefined || !(await blobs.has(hash))) refuse(404, 'there is no such file');
    response
      .set('Cache-Control', 'private, max-age=31536000, immutable')
      .set('Content-Disposition', `attachment; filename*=UTF-8''${encodeURIComponent(name)}`)
      .type('application/octet-stream');
    blobs
      .read(hash)
      .on('error', (error) => response.destroy(error))
      .pipe(response);
  });
  const body = json({ limit: '64kb' });
  router.post('/takes/:id/as-character', async (request, response) => {
    response.status(201).json(await library.performerAsCharacter(checked(idSchema, request.params['id'])));
  });
  router.put('/transfers', body, async (request, response) => {
    response.json(await library.saveTransfer(checked(saveTransferSchema, request.body)));
  });
  router.patch('/:kind/:id', body, async (request, response) => {
    const kind = checked(v.picklist(ITEM_KINDS), request.params['kind']);
    await library.change(kind, checked(idSchema, request.params['id']), checked(changeItemSchema, request.body));
    response.status(204).end();
  });
  router.use(notFound);
  return router;
}
