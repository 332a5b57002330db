import { pipeline } from 'node:stream/promises';
import { Router, json, type RequestHandler } from 'express';
import {
  addMeshSchema,
  changeItemSchema,
  changeMeshSchema,
  changeSkeletonSchema,
  hashSchema,
  idSchema,
  ITEM_KINDS,
  namingSchemeSchema,
  savePairingSchema,
  changeReelSchema,
  saveJointSchemeSchema,
  saveNameTableSchema,
  saveReelSchema,
  savePoseSchema,
  savePresetSchema,
  saveTouchUpSetSchema,
  saveTransferSchema,
  saveVersionSchema,
  setLimitsSchema,
} from '@hollow-stride/contract';
import * as v from 'valibot';
import { writeBackup } from '../backup/write';
import { attachment, checked } from '../border';
import { clientOf } from '../changes';
import { notFound, refuse } from '../errors';
import type { AppServices } from '../services';
import { meshOfCharacter } from '../intake/ofCharacter';
import { takeInDemo } from '../intake/takeIn';
import { addJointScheme, addNameTable, addPose, addPreset, addSet, addVersion, setLimits } from '../kept';
import { openApi } from '../openapi';
import { changeMesh } from '../meshes';
import { addReel, changeReel } from '../reels';
import { changeSkeleton } from '../skeletons';
import { depotRoutes } from './depot';
import { deskRoutes } from './desk';
import { sendEvents } from './events';
import { runRoutes } from './runs';
import { takeRoutes } from './takes';
import { answerUpload, tellIntake } from './upload';

/** The HTTP interface under /api. */
export function apiRoutes(services: AppServices): Router {
  const { blobs, library, changes } = services;
  const router = Router();
  /** Pages read the rack again once this request has put something on it, or taken something off. */
  const tellsOfRack: RequestHandler = (request, response, next) => {
    response.on('finish', () => response.statusCode < 400 && changes.tell({ kind: 'rack', by: clientOf(request) }));
    next();
  };
  router.get('/health', (_request, response) => {
    response.json({ ok: true });
  });
  router.get('/openapi.json', (_request, response) => {
    response.json(openApi());
  });
  router.get('/rack', async (_request, response) => {
    response.set('Cache-Control', 'no-store').json(await library.rack());
  });
  router.get('/events', (request, response) => {
    sendEvents(request, response, (tell) => {
      const ends = [changes.watch(tell), services.runs.watch(tell)];
      return () => ends.forEach((end) => end());
    });
  });
  router.post('/files', tellsOfRack, async (request, response) => {
    await answerUpload(request, response, services);
  });
  router.post('/demo', tellsOfRack, async (request, response) => {
    await tellIntake(request, response, (signal) => takeInDemo(services, signal, false));
  });
  router.get('/backup', async (_request, response) => {
    const archive = await writeBackup(library.db, blobs);
    response
      .set('Cache-Control', 'no-store, no-transform')
      .set('Content-Disposition', attachment(`hollow-stride-${new Date().toISOString().slice(0, 10)}.zip`))
      .type('application/zip');
    await pipeline(archive, response);
  });
  router.get('/files/:hash', async (request, response) => {
    const hash = checked(hashSchema, request.params['hash']);
    const name = await library.contentName(hash);
    if (name === undefined || !(await blobs.has(hash))) refuse(404, 'there is no such file');
    response
      .set('Cache-Control', 'private, max-age=31536000, immutable')
      .set('Content-Disposition', attachment(name))
      .type('application/octet-stream');
    blobs
      .read(hash)
      .on('error', (error) => response.destroy(error))
      .pipe(response);
  });
  const body = json({ limit: '64kb' });
  // A skeleton's labels and kept rest poses are the largest thing that is sent as JSON.
  const large = json({ limit: '4mb' });
  router.post('/depot/fetch', tellsOfRack);
  router.use('/depot', depotRoutes(services));
  router.post('/desk/stop', tellsOfRack);
  router.use('/desk', deskRoutes(services));
  router.use('/takes', takeRoutes(services));
  router.use('/runs', runRoutes({ db: library.db, runs: services.runs, blobs, pool: services.pool, outFolder: services.outFolder }));
  router.patch('/skeletons/:id', large, async (request, response) => {
    const row = await changeSkeleton(library.db, checked(idSchema, request.params['id']), checked(changeSkeletonSchema, request.body));
    response.json(row);
    changes.tell({ kind: 'skeleton', by: clientOf(request), row });
  });
  router.post('/schemes', tellsOfRack, body, async (request, response) => {
    response.status(201).json(await library.addScheme(checked(namingSchemeSchema, request.body)));
  });
  router.post('/versions', tellsOfRack, large, async (request, response) => {
    response.status(201).json(await addVersion(library.db, checked(saveVersionSchema, request.body)));
  });
  router.post('/sets', tellsOfRack, large, async (request, response) => {
    response.status(201).json(await addSet(library.db, checked(saveTouchUpSetSchema, request.body)));
  });
  router.post('/poses', tellsOfRack, large, async (request, response) => {
    response.status(201).json(await addPose(library.db, checked(savePoseSchema, request.body)));
  });
  router.post('/joint-schemes', tellsOfRack, large, async (request, response) => {
    response.status(201).json(await addJointScheme(library.db, checked(saveJointSchemeSchema, request.body)));
  });
  router.post('/name-tables', tellsOfRack, large, async (request, response) => {
    response.status(201).json(await addNameTable(library.db, checked(saveNameTableSchema, request.body)));
  });
  router.post('/reels', tellsOfRack, large, async (request, response) => {
    response.status(201).json(await addReel(library.db, checked(saveReelSchema, request.body)));
  });
  router.patch('/reels/:id', large, async (request, response) => {
    const row = await changeReel(library.db, checked(idSchema, request.params['id']), checked(changeReelSchema, request.body));
    response.json(row);
    changes.tell({ kind: 'reel', by: clientOf(request), row });
  });
  router.post('/meshes', tellsOfRack, body, async (request, response) => {
    response.status(201).json(await meshOfCharacter(services, checked(addMeshSchema, request.body).character));
  });
  router.patch('/meshes/:id/fit', large, async (request, response) => {
    const row = await changeMesh(library.db, checked(idSchema, request.params['id']), checked(changeMeshSchema, request.body));
    response.json(row);
    changes.tell({ kind: 'mesh', by: clientOf(request), row });
  });
  router.post('/presets', tellsOfRack, body, async (request, response) => {
    response.status(201).json(await addPreset(library.db, checked(savePresetSchema, request.body)));
  });
  router.put('/limits', body, async (request, response) => {
    const row = await setLimits(library.db, checked(setLimitsSchema, request.body));
    response.json(row);
    changes.tell({ kind: 'limits', by: clientOf(request), row });
  });
  router.put('/pairings', large, async (request, response) => {
    const row = await library.savePairing(checked(savePairingSchema, request.body));
    response.json(row);
    changes.tell({ kind: 'pairing', by: clientOf(request), row });
  });
  router.put('/transfers', large, async (request, response) => {
    const row = await library.saveTransfer(checked(saveTransferSchema, request.body));
    response.json(row);
    changes.tell({ kind: 'transfer', by: clientOf(request), row });
  });
  router.patch('/:kind/:id', body, tellsOfRack, async (request, response) => {
    const kind = checked(v.picklist(ITEM_KINDS), request.params['kind']);
    response.json(await library.change(kind, checked(idSchema, request.params['id']), checked(changeItemSchema, request.body)));
  });
  router.use(notFound);
  return router;
}
