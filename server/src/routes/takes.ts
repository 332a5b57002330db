import { json, Router } from 'express';
import { changeTakeSchema, changeTakesSchema, idSchema, labelTakesSchema, takeQuerySchema } from '@hollow-stride/contract';
import * as v from 'valibot';
import { checked } from '../border';
import type { UploadServices } from '../intake/one';
import { labelTakes } from '../relabel';
import { changeTakes } from '../takes';

const fromSchema = v.pipe(v.optional(v.string(), '0'), v.transform(Number), v.integer(), v.minValue(0));

/** Takes under /api/takes: listed by the page, changed one by one or many at once. */
export function takeRoutes(services: UploadServices): Router {
  const { library } = services;
  const router = Router();
  const body = json({ limit: '64kb' });
  // The ids of all that may be chosen at once.
  const many = json({ limit: '2mb' });
  router.get('/', async (request, response) => {
    const { from, ...query } = request.query;
    response.set('Cache-Control', 'no-store').json(await library.takes(checked(takeQuerySchema, query), checked(fromSchema, from)));
  });
  router.get('/ids', async (request, response) => {
    response.set('Cache-Control', 'no-store').json(await library.takeIds(checked(takeQuerySchema, request.query)));
  });
  router.post('/change', many, async (request, response) => {
    response.json({ takes: await changeTakes(library.db, checked(changeTakesSchema, request.body)) });
  });
  router.post('/label', many, async (request, response) => {
    const { takes, scheme } = checked(labelTakesSchema, request.body);
    response.json(await labelTakes(takes, scheme, services));
  });
  router.get('/:id', async (request, response) => {
    response.set('Cache-Control', 'no-store').json(await library.take(checked(idSchema, request.params['id'])));
  });
  router.patch('/:id/settings', body, async (request, response) => {
    await library.changeTake(checked(idSchema, request.params['id']), checked(changeTakeSchema, request.body));
    response.status(204).end();
  });
  router.post('/:id/as-character', async (request, response) => {
    response.status(201).json(await library.performerAsCharacter(checked(idSchema, request.params['id'])));
  });
  return router;
}
