import { pipeline } from 'node:stream/promises';
import { Router, json } from 'express';
import {
  changeItemSchema,
  changeSkeletonSchema,
  hashSchema,
  idSchema,
  ITEM_KINDS,
  namingSchemeSchema,
  productionLimitsSchema,
  savePairingSchema,
  savePresetSchema,
  saveTouchUpSetSchema,
  saveTransferSchema,
  saveVersionSchema,
} from '@hollow-stride/contract';
import * as v from 'valibot';
import { writeBackup } from '../backup/write';
import { checked } from '../border';
import { notFound, refuse } from '../errors';
import type { AppServices } from '../services';
import { takeInDemo } from '../intake/takeIn';
import { addPreset, addSet, addVersion } from '../kept';
import { openApi } from '../openapi';
import { changeSkeleton } from '../skeletons';
import { depotRoutes } from './depot';
import { runRoutes } from './runs';
import { takeRoutes } from './takes';
import { answerUpload, tellIntake } from './upload';

/** The HTTP interface under /api. */
export function apiRoutes(services: AppServices): Router {
  const { blobs, library } = services;
  const router = Router();
  router.get('/health', (_request, response) => {
    response.json({ ok: true });
  });
  router.get('/openapi.json', (_request, response) => {
    response.json(openApi());
  });
  router.get('/rack', async (_request, response) => {
    response.set('Cache-Control', 'no-store').json(await library.rack());
  });
  router.post('/files', async (request, response) => {
    await answerUpload(request, response, services);
  });
  router.post('/demo', async (request, response) => {
    await tellIntake(request, response, (signal) => takeInDemo(services, signal, false));
  });
  router.get('/backup', async (_request, response) => {
    const archive = await writeBackup(library.db, blobs);
    response
      .set('Cache-Control', 'no-store, no-transform')
      .set('Content-Disposition', `attachment; filename="hollow-stride-${new Date().toISOString().slice(0, 10)}.zip"`)
      .type('application/zip');
    await pipeline(archive, response);
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
  router.use('/takes', takeRoutes(services));
  router.use('/runs', runRoutes({ db: library.db, runs: services.runs, blobs, outFolder: services.outFolder }));
  router.patch('/skeletons/:id', large, async (request, response) => {
    await changeSkeleton(library.db, checked(idSchema, request.params['id']), checked(changeSkeletonSchema, request.body));
    response.status(204).end();
  });
  router.post('/schemes', body, async (request, response) => {
    response.status(201).json(await library.addScheme(checked(namingSchemeSchema, request.body)));
  });
  router.post('/versions', large, async (request, response) => {
    response.status(201).json(await addVersion(library.db, checked(saveVersionSchema, request.body)));
  });
  router.post('/sets', large, async (request, response) => {
    response.status(201).json(await addSet(library.db, checked(saveTouchUpSetSchema, request.body)));
  });
  router.post('/presets', body, async (request, response) => {
    response.status(201).json(await addPreset(library.db, checked(savePresetSchema, request.body)));
  });
  router.put('/limits', body, async (request, response) => {
    const limits = checked(productionLimitsSchema, request.body);
    await library.remember('limits', limits);
    response.json(limits);
  });
  router.put('/pairings', large, async (request, response) => {
    response.json(await library.savePairing(checked(savePairingSchema, request.body)));
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
