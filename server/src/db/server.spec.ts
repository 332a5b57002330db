import pg from 'pg';
import { ALL_TAKES } from '@hollow-stride/contract';
import { Library } from '../library';
import { Served, walkBvh } from '../testing/serve';
import { startPostgres, type PostgresServer } from '../testing/postgres';
import { isAway } from './away';
import { takes } from './schema';
import { openServerDatabase } from './server';

describe('a rack on a PostgreSQL server', () => {
  let server: PostgresServer | undefined;
  beforeAll(async () => (server = await startPostgres()), 60_000);
  afterAll(() => server?.stop());

  it('does what the embedded one does, and files of one new skeleton that come at once stand on one', async () => {
    if (!server) return pending('PostgreSQL is not installed here');
    const database = await openServerDatabase(server.address);
    const served = await Served.start(database);
    const seeds = [1, 1, 2, 2, 2, 1];
    const answers = await Promise.all(seeds.map((seed, i) => served.upload([`take ${i}.bvh`, walkBvh(seed, 20 + i)])));
    const skeletons = answers.map(({ files }) => files[0].takes[0].skeleton);
    expect(new Set(skeletons).size).toBe(2);
    const page = await served.takes({ text: 'take', order: 'length' });
    expect([page.all, page.takes.length, page.groups.map(({ count }) => count).sort()]).toEqual([6, 6, [3, 3]]);
    const archive = await (await fetch(`${served.base}/api/backup`)).arrayBuffer();
    expect((await served.upload(['rack.zip', new Uint8Array(archive)])).files).toEqual([]);
    expect((await served.rack()).skeletons.length).toBe(2);
    await served.stop();
    // Opened again everything is there, and the schema is up to date.
    await database.close();
    const again = await openServerDatabase(server.address);
    expect((await new Library(again.db).takes(ALL_TAKES, 0)).all).toBe(6);
    await again.close();
  });

  it('keeps all its connections when it goes away between one that is given and the transaction that would begin on it', async () => {
    if (!server) return pending('PostgreSQL is not installed here');
    const { db, close } = await openServerDatabase(server.address);
    const client = pg.Client.prototype as { query: (...asked: unknown[]) => unknown };
    const ask = client.query;
    let lost = 0;
    // More often than there are connections.
    const spy = spyOn(client, 'query').and.callFake(function (this: unknown, ...asked: unknown[]) {
      const text = (asked[0] as { text?: string }).text ?? asked[0];
      if (text !== 'begin' || lost === 12) return ask.apply(this, asked);
      lost++;
      return Promise.reject(Object.assign(new Error('gone'), { code: 'ECONNRESET' }));
    });
    const count = (): Promise<number> => db.transaction(async (tx) => (await tx.select().from(takes)).length);
    for (let i = 0; i < 12; i++) expect(isAway(await count().catch((error: unknown) => error))).toBeTrue();
    const before = await count();
    // What fails for another reason is undone, on a connection that goes on.
    await expectAsync(
      db.transaction(async (tx) => {
        await tx.delete(takes);
        throw new Error('no');
      }),
    ).toBeRejectedWithError('no');
    expect([lost, await count()]).toEqual([12, before]);
    spy.and.callThrough();
    await close();
  });

  it('that does not answer says where it was looked for', async () => {
    await expectAsync(openServerDatabase('postgres://wright@127.0.0.1:1/rack')).toBeRejectedWithError(
      /127\.0\.0\.1:1\/rack does not answer/,
    );
  });
});
