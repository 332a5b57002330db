import { Router, json } from 'express';
import {
  changeItemSchema,
  changeSkeletonSchema,
  changeTakeSchema,
  hashSchema,
  idSchema,
  ITEM_KINDS,
  namingSchemeSchema,
  savePairingSchema,
  saveTransferSchema,
} from '@hollow-stride/contract';
import * as v from 'valibot';
import { checked, notFound, refuse } from '../errors';
import type { UploadServices } from '../intake/takeIn';
import { changeSkeleton } from '../skeletons';
import { depotRoutes } from './depot';
import { receiveUpload } from './upload';

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
  // A skeleton's labels and kept rest poses are the largest thing that is sent as JSON.
  const large = json({ limit: '4mb' });
  router.use('/depot', depotRoutes(services));
  router.patch('/takes/:id/settings', body, async (request, response) => {
    await library.changeTake(checked(idSchema, request.params['id']), checked(changeTakeSchema, request.body));
    response.status(204).end();
  });
  router.patch('/skeletons/:id', large, async (request, response) => {
    await changeSkeleton(library.db, checked(idSchema, request.params['id']), checked(changeSkeletonSchema, request.body));
    response.status(204).end();
  });
  router.post('/schemes', body, async (request, response) => {
    response.status(201).json(await library.addScheme(checked(namingSchemeSchema, request.body)));
  });
  router.put('/pairings', large, async (request, response) => {
    response.json(await library.savePairing(checked(savePairingSchema, request.body)));
  });
  router.post('/takes/:id/as-character', async (request, response) => {
    response.status(201).json(await library.performerAsCharacter(checked(idSchema, request.params['id'])));
  });
  router.put('/transfers', large, async (request, response) => {
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
