import { Library } from '../library';
import { Served, walkBvh } from '../testing/serve';
import { startPostgres, type PostgresServer } from '../testing/postgres';
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
    expect((await new Library(again.db).takes({ text: '', tag: '', order: 'added' }, 0)).all).toBe(6);
    await again.close();
  });

  it('that does not answer says where it was looked for', async () => {
    await expectAsync(openServerDatabase('postgres://wright@127.0.0.1:1/rack')).toBeRejectedWithError(
      /127\.0\.0\.1:1\/rack does not answer/,
    );
  });
});
