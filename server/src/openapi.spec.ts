import { openApi } from './openapi';
import { Served } from './testing/serve';

interface Document {
  readonly openapi: string;
  readonly paths: Record<string, Record<string, { requestBody?: object; responses: Record<string, object> }>>;
}

describe('the description of the HTTP interface', () => {
  const { openapi, paths } = openApi() as Document;

  it('is an OpenAPI document with a schema for every body, and can be written as JSON', () => {
    expect(openapi).toBe('3.1.0');
    expect(JSON.stringify(openApi()).length).toBeGreaterThan(10_000);
    const run = paths['/api/runs']['post'];
    expect(JSON.stringify(run.requestBody)).toContain('"pattern"');
    expect(JSON.stringify(run.responses['201'])).toContain('"waiting"');
  });

  it('names only what is there: each path is answered by something else than "nothing here"', async () => {
    const served = await Served.start();
    for (const [path, methods] of Object.entries(paths)) {
      const address = path
        .replace('{id}', '00000000-0000-4000-8000-000000000001')
        .replace('{hash}', '0'.repeat(64))
        .replace('{act}', 'pause');
      for (const method of Object.keys(methods)) {
        if (path === '/api/runs/events') continue;
        const response = await fetch(`${served.base}${address}`, {
          method: method.toUpperCase(),
          ...(method !== 'get' && { headers: { 'content-type': 'application/json' }, body: '{}' }),
        });
        const text = response.headers.get('content-type')?.includes('json') ? await response.text() : '';
        await response.body?.cancel().catch(() => undefined);
        expect(text).withContext(`${method} ${path}`).not.toContain('there is nothing at');
      }
    }
    const answer = await fetch(`${served.base}/api/openapi.json`);
    expect(await answer.json()).toEqual(JSON.parse(JSON.stringify(openApi())));
    await served.stop();
  });
});
