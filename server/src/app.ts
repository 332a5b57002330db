import { existsSync } from 'node:fs';
import { join } from 'node:path';
import compression from 'compression';
import express, { type Express } from 'express';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import { answerErrors, notFound } from './errors';
import { apiRoutes } from './routes/api';
import type { AppServices } from './services';
import { headers, localHostOnly, sameOriginOnly } from './security';

/** The whole application over its services: the interface under /api, the pages for everything else. */
export function makeApp(services: AppServices, log: Logger, web: string): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(
    pinoHttp({
      logger: log,
      autoLogging: { ignore: (request) => request.method === 'GET' },
      customLogLevel: (_q, r, e) => (e || r.statusCode >= 500 ? 'error' : 'debug'),
    }),
  );
  app.use(headers, localHostOnly, sameOriginOnly);
  app.use(
    compression({
      filter: (request, response) =>
        !/^\/api\/(files|backup|events|runs\/(events|[^/]+\/zip|items\/[^/]+\/file))/.test(request.path) &&
        compression.filter(request, response),
    }),
  );
  app.use('/api', apiRoutes(services));
  const page = join(web, 'index.html');
  if (existsSync(page)) {
    app.use(
      express.static(web, {
        index: false,
        maxAge: '1y',
        immutable: true,
        setHeaders: (response, path) => path.endsWith('.html') && response.set('Cache-Control', 'no-cache'),
      }),
    );
    app.get('/{*path}', (_request, response) => response.set('Cache-Control', 'no-cache').sendFile(page));
  }
  app.use(notFound, answerErrors);
  return app;
}
