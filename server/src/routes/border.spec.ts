import * as fc from 'fast-check';
import type { GenericSchema } from 'valibot';
import * as v from 'valibot';
import {
  changeItemSchema,
  changeRunItemSchema,
  changeSkeletonSchema,
  changeTakeSchema,
  changeTakesSchema,
  conflictSchema,
  depotFetchSchema,
  depotSearchSchema,
  errorSchema,
  ITEM_KINDS,
  labelTakesSchema,
  namingSchemeSchema,
  savePairingSchema,
  saveJointSchemeSchema,
  saveReelSchema,
  savePoseSchema,
  savePresetSchema,
  saveTouchUpSetSchema,
  saveTransferSchema,
  saveVersionSchema,
  setLimitsSchema,
  startRunSchema,
  takeQuerySchema,
} from '@hollow-stride/contract';
import { valuesOf } from '@hollow-stride/contract/testing/values';
import { Served, walkBvh } from '../testing/serve';

const NOBODY = '00000000-0000-4000-8000-00000000ffff';

/** Every call that writes: its method, its path with the ids of what is there, and what it takes. */
const WRITES: readonly (readonly [method: string, path: string, body: GenericSchema])[] = [
  ['PATCH', '/api/takes/TAKE', changeItemSchema],
  ['PATCH', '/api/takes/TAKE/settings', changeTakeSchema],
  ['POST', '/api/takes/change', changeTakesSchema],
  ['POST', '/api/takes/label', labelTakesSchema],
  ['PATCH', '/api/skeletons/SKELETON', changeSkeletonSchema],
  ['PUT', '/api/pairings', savePairingSchema],
  ['PUT', '/api/transfers', saveTransferSchema],
  ['POST', '/api/versions', saveVersionSchema],
  ['POST', '/api/sets', saveTouchUpSetSchema],
  ['POST', '/api/poses', savePoseSchema],
  ['POST', '/api/joint-schemes', saveJointSchemeSchema],
  ['POST', '/api/reels', saveReelSchema],
  ['POST', '/api/presets', savePresetSchema],
  ['POST', '/api/schemes', namingSchemeSchema],
  ['PUT', '/api/limits', setLimitsSchema],
  ['POST', '/api/runs', startRunSchema],
  ['PATCH', `/api/runs/items/${NOBODY}`, changeRunItemSchema],
  ['POST', '/api/depot/fetch', depotFetchSchema],
  ...ITEM_KINDS.map((kind) => ['PATCH', `/api/${kind}/${NOBODY}`, changeItemSchema] as const),
];

/** Ways to spoil a text of JSON that leave it JSON, or nearly. */
const spoil: readonly ((text: string, at: number) => string)[] = [
  (text, at) => text.slice(0, at) + text.slice(at + 1),
  (text, at) => text.replace(/[a-zA-Z]+(?=":)/g, (key, offset: number) => (offset < at ? key : `${key}x`)),
  (text) => text.replace(/-?\d+(\.\d+)?/, '1e999'),
  (text) => text.replace(/-?\d+(\.\d+)?/g, '"1"'),
  (text) => text.replace(/"[^"]*"(?!:)/, 'null'),
  (text) => `{"__proto__":${text}}`,
  (text) => `[${text}]`,
  (text) => text.replace(/"([^"]*)"(?!:)/, (_, inner: string) => `"${inner}\\u0000\\ud800"`),
  (text) => `${'['.repeat(60)}${text}${']'.repeat(60)}`,
  () => '',
  () => 'null',
];

describe('the border of the server', () => {
  let served: Served;
  const ids = new Map<string, string>();
  beforeAll(async () => {
    served = await Served.start();
    const [take] = (await served.upload(['walk.bvh', walkBvh(1, 20)])).files[0].takes;
    ids.set('TAKE', take.id).set('SKELETON', take.skeleton);
  });
  afterAll(() => served.stop());

  const pathOf = (path: string): string => path.replace(/[A-Z]{4,}/, (name) => ids.get(name) ?? name);
  const send = (method: string, path: string, body: string, type = 'application/json'): Promise<Response> =>
    fetch(`${served.base}${pathOf(path)}`, { method, headers: { 'content-type': type }, body });

  /** The answer is one that the contract knows: done, or refused with a reason. Never the server's own fault. */
  async function expectAnswer(response: Response, what: string): Promise<void> {
    const text = await response.text();
    expect(response.status)
      .withContext(`${what}: ${text.slice(0, 300)}`)
      .toBeLessThan(500);
    if (response.status < 400) return;
    const schema = response.status === 409 ? conflictSchema : errorSchema;
    const { error } = v.parse(schema, JSON.parse(text));
    expect(error.message).withContext(what).not.toBe('');
    expect(error.message).not.toMatch(/\bat .*\.(ts|js):|undefined|\[object/);
  }

  for (const [method, path, schema] of WRITES) {
    const values = valuesOf(schema);

    it(`does or refuses what ${method} ${path} is asked for in its own shape`, async () => {
      await fc.assert(
        fc.asyncProperty(values, async (value) => {
          const text = JSON.stringify(value);
          await expectAnswer(await send(method, path, text), `${method} ${path} ${text}`);
        }),
        { numRuns: 12 },
      );
    });

    it(`refuses what is spoilt on the way to ${method} ${path}, with a reason`, async () => {
      await fc.assert(
        fc.asyncProperty(values, fc.nat({ max: spoil.length - 1 }), fc.nat(), async (value, how, where) => {
          const text = JSON.stringify(value);
          const spoilt = spoil[how](text, where % text.length);
          const answer = await send(method, path, spoilt);
          if (how >= 8) expect(answer.status).withContext(spoilt).toBe(400);
          await expectAnswer(answer, `${method} ${path} ${spoilt}`);
        }),
        { numRuns: 16 },
      );
    });
  }

  it('reads bodies as JSON only when they are said to be JSON', async () => {
    for (const type of ['text/plain', 'application/x-www-form-urlencoded', 'multipart/form-data; boundary=x']) {
      const answer = await send('PUT', '/api/limits', '{"base":0,"limits":{}}', type);
      expect(answer.status).withContext(type).toBeGreaterThanOrEqual(400);
      await expectAnswer(answer, type);
    }
  });

  it('refuses bodies that are longer than anything is, without reading them all', async () => {
    for (const [path, size] of [
      ['/api/presets', 70_000],
      ['/api/versions', 4_300_000],
    ] as const) {
      const answer = await send('POST', path, JSON.stringify({ name: 'x'.repeat(size) }));
      expect(answer.status).withContext(path).toBe(413);
      await expectAnswer(answer, path);
    }
  });

  it('answers any query of a list', async () => {
    const text = fc.string({ unit: 'binary', maxLength: 60 });
    const query = fc.dictionary(fc.constantFrom('text', 'tag', 'order', 'from', 'page', 'shortest', 'longest', 'x'), text, {
      noNullPrototype: true,
    });
    await fc.assert(
      fc.asyncProperty(query, fc.constantFrom('/api/takes', '/api/depot', '/api/depot/search', '/api/runs'), async (parts, path) => {
        const wellFormed = Object.entries(parts).map(([key, value]) => [key, Buffer.from(value).toString()] as [string, string]);
        const address = `${path}?${new URLSearchParams(wellFormed).toString()}`;
        await expectAnswer(await fetch(`${served.base}${address}`), address);
      }),
      { numRuns: 80 },
    );
    for (const [schema, path] of [
      [takeQuerySchema, '/api/takes'],
      [depotSearchSchema, '/api/depot'],
    ] as const) {
      for (const value of fc.sample(valuesOf(schema), 10)) {
        const address = `${path}?${new URLSearchParams(value as Record<string, string>).toString()}`;
        await expectAnswer(await fetch(`${served.base}${address}`), address);
      }
    }
  });

  it('answers any path, and gives nothing of the disk away', async () => {
    const part = fc.oneof(
      fc.constantFrom('..', '%2e%2e', '%2f', '..%5c', 'files', 'takes', 'runs', 'items', 'zip', NOBODY, '0'.repeat(64), '%00', '%ff', '~'),
      fc.webSegment(),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(part, { minLength: 1, maxLength: 5 }),
        fc.constantFrom('GET', 'HEAD', 'DELETE', 'PATCH'),
        async (parts, method) => {
          const path = `/api/${parts.join('/')}`;
          const answer = await fetch(`${served.base}${path}`, { method });
          const text = await answer.text();
          expect(answer.status)
            .withContext(`${method} ${path}: ${text.slice(0, 200)}`)
            .toBeLessThan(500);
          expect(text).not.toContain(served.folder);
          expect(text).not.toContain('root:');
        },
      ),
      { numRuns: 120 },
    );
  });

  it('is as well as before after all of it', async () => {
    expect((await fetch(`${served.base}/api/health`)).status).toBe(200);
    const { takes } = await served.takes();
    expect(takes.length).toBeLessThanOrEqual(1);
    await served.rack();
    expect(served.onTheWay()).toEqual([]);
  });
});
