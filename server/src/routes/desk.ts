import { json, Router } from 'express';
import { recordSchema, ringSchema } from '@hollow-stride/contract';
import { checked } from '../border';
import type { AppServices } from '../services';

/** The capture desk: streams that come in, the simulated device, recordings. */
export function deskRoutes({ desk }: AppServices): Router {
  const router = Router();
  const body = json({ limit: '64kb' });
  router.get('/', (_request, response) => {
    response.set('Cache-Control', 'no-store').json(desk.hub.state);
  });
  router.post('/device', body, async (request, response) => {
    await desk.ring.connect(checked(ringSchema, request.body));
    response.json(desk.hub.state);
  });
  router.delete('/device', (_request, response) => {
    desk.ring.disconnect();
    response.json(desk.hub.state);
  });
  router.post('/record', body, async (request, response) => {
    await desk.recorder.start(checked(recordSchema, request.body));
    response.status(201).json(desk.hub.state);
  });
  router.post('/stop', async (_request, response) => {
    response.json(await desk.recorder.stop());
  });
  return router;
}
