import { json, Router } from 'express';
import { changeTakeSchema, changeTakesSchema, idSchema, labelTakesSchema, takeQuerySchema } from '@hollow-stride/contract';
import { checked, fromSchema } from '../border';
import { clientOf } from '../changes';
import type { AppServices } from '../services';
import { labelTakes } from '../relabel';
import { changeTake, changeTakes } from '../takes';

/** Takes under /api/takes: listed by the page, changed one by one or many at once. */
export function takeRoutes(services: AppServices): Router {
  const { library, changes } = services;
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
    changes.tell({ kind: 'rack', by: clientOf(request) });
  });
  router.post('/label', many, async (request, response) => {
    const { takes, scheme } = checked(labelTakesSchema, request.body);
    response.json(await labelTakes(takes, scheme, services));
    changes.tell({ kind: 'rack', by: clientOf(request) });
  });
  router.get('/:id', async (request, response) => {
    response.set('Cache-Control', 'no-store').json(await library.take(checked(idSchema, request.params['id'])));
  });
  router.patch('/:id/settings', body, async (request, response) => {
    const row = await changeTake(library.db, checked(idSchema, request.params['id']), checked(changeTakeSchema, request.body));
    response.json(row);
    changes.tell({ kind: 'take', by: clientOf(request), row });
  });
  router.post('/:id/as-character', async (request, response) => {
    const row = await library.performerAsCharacter(checked(idSchema, request.params['id']));
    response.status(201).json(row);
    changes.tell({ kind: 'character', by: clientOf(request), row });
  });
  return router;
}
