import * as v from 'valibot';
import { conflictSchema, pairingSchema, skeletonSchema, takeSchema, transferSchema } from '@hollow-stride/contract';
import { DEFAULT_DECISIONS, DEFAULT_PAIRING, DEFAULT_SKELETON } from '@hollow-stride/core';
import { Served, walkBvh } from './testing/serve';

/** Edits that several people send in the same moment: each is done whole, or refused with what the row has become. */
describe('edits from several sides', () => {
  let served: Served;
  let take: { id: string; skeleton: string };
  let character: string;
  let seed = 30;
  beforeAll(async () => {
    served = await Served.start();
  });
  beforeEach(async () => {
    [take] = (await served.upload([`walk ${++seed}.bvh`, walkBvh(seed, 20)])).files[0].takes;
    const made = await fetch(`${served.base}/api/takes/${take.id}/as-character`, { method: 'POST' });
    character = ((await made.json()) as { id: string }).id;
  });
  afterAll(() => served.stop());

  const choices = (more: object = {}): object => ({ ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS, touchUps: [], ...more });
  const summary = { frames: 20, good: 1, cautions: 0, faults: 0, unseen: 0, worst: '', figures: {} };

  /** Sends the same number of edits at once from one version; exactly one may be done. @returns the row afterwards */
  async function race<T extends { version: number }>(
    method: 'PATCH' | 'PUT',
    path: string,
    base: number | null,
    bodies: readonly object[],
    schema: v.GenericSchema<unknown, T>,
  ): Promise<{ won: T; conflicts: T[] }> {
    const answers = await Promise.all(bodies.map((body) => served.send(method, path, { base, ...body })));
    const done = answers.filter(({ status }) => status === 200);
    const refused = answers.filter(({ status }) => status === 409);
    expect([done.length, refused.length])
      .withContext(path)
      .toEqual([1, bodies.length - 1]);
    const won = v.parse(schema, await done[0].json());
    const conflicts = await Promise.all(
      refused.map(async (answer) => v.parse(schema, v.parse(conflictSchema, await answer.json()).current)),
    );
    // All who came too late are told the same: the row as it is.
    for (const now of conflicts) expect(now).toEqual(won as never);
    return { won, conflicts };
  }

  it('of a take’s settings: one is done, the others learn what it made of it', async () => {
    const notes = Array.from({ length: 8 }, (_, i) => ({ note: `note ${i}` }));
    const first = await race('PATCH', `/api/takes/${take.id}/settings`, 1, notes, takeSchema);
    expect(first.won.version).toBe(2);
    expect(notes.map(({ note }) => note)).toContain(first.won.note);
    // From the version that the answer gave the next edit goes through, and an older one no more.
    const next = await race('PATCH', `/api/takes/${take.id}/settings`, 2, [{ note: 'the last' }], takeSchema);
    expect([next.won.version, next.won.note]).toEqual([3, 'the last']);
    expect((await served.send('PATCH', `/api/takes/${take.id}/settings`, { base: 2, note: 'late' })).status).toBe(409);
    expect((await served.takes()).takes.find(({ id }) => id === take.id)?.note).toBe('the last');
  });

  it('of a skeleton, whichever of its parts they change', async () => {
    const edits = [
      { name: 'Bell ringer' },
      { choices: { ...DEFAULT_SKELETON, facing: 5 } },
      { rests: [{ name: 'calm', rotations: {} }] },
      { name: 'Ferry hand' },
    ];
    const { won } = await race('PATCH', `/api/skeletons/${take.skeleton}`, 1, edits, skeletonSchema);
    expect(won.version).toBe(2);
    const changes = [won.name === 'Bell ringer' || won.name === 'Ferry hand', won.choices.facing === 5, won.rests.length === 1];
    expect(changes.filter(Boolean).length).withContext('one edit, whole').toBe(1);
  });

  it('of a pairing that is not there yet: it is made once', async () => {
    const edits = [1, 2, 3, 4, 5].map((balance) => ({ performer: take.skeleton, character, choices: choices({ balance: balance / 10 }) }));
    const { won } = await race('PUT', '/api/pairings', null, edits, pairingSchema);
    expect((await served.rack()).pairings.filter(({ performer }) => performer === take.skeleton)).toEqual([won]);
  });

  it('of a transfer: a result never changes its pairing, in whatever order they come', async () => {
    const pairing = { base: null, performer: take.skeleton, character, choices: choices({ balance: 0.2 }) };
    const before = v.parse(pairingSchema, await (await served.send('PUT', '/api/pairings', pairing)).json());
    const edits = [1, 2, 3].map((i) => ({
      take: take.id,
      character,
      choices: choices({ balance: 0.9 + i / 100 }),
      summary: { ...summary, good: i },
    }));
    const { won } = await race('PUT', '/api/transfers', null, edits, transferSchema);
    expect(edits.map(({ summary: { good } }) => good)).toContain(won.summary.good);
    const after = (await served.rack()).pairings.find(({ performer }) => performer === take.skeleton)!;
    expect(after).toEqual(before);
  });

  it('of the limits of the production', async () => {
    const edits = [5, 6, 7].map((good) => ({ limits: { slide: { good, fault: 30 } } }));
    const answers = await Promise.all(edits.map((body) => served.send('PUT', '/api/limits', { base: 0, ...body })));
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409, 409]);
    expect((await served.rack()).limits.version).toBe(1);
  });

  it('of one’s own in a row, each from the answer before, are all done and in their order', async () => {
    let { version } = (await served.takes()).takes.find(({ id }) => id === take.id)!;
    for (let i = 0; i < 12; i++) {
      const answer = await served.send('PATCH', `/api/takes/${take.id}/settings`, { base: version, tags: [`round ${i}`] });
      expect(answer.status).toBe(200);
      const now = v.parse(takeSchema, await answer.json());
      expect([now.version, now.tags]).toEqual([version + 1, [`round ${i}`]]);
      ({ version } = now);
    }
  });

  it('of many takes at once count up the version of each that became different, and of no other', async () => {
    const more = (await served.upload(['b.bvh', walkBvh(71, 20)], ['c.bvh', walkBvh(72, 20)])).files.map(({ takes }) => takes[0]);
    const versions = async (): Promise<number[]> => {
      const { takes } = await served.takes();
      return more.map(({ id }) => takes.find((one) => one.id === id)!.version);
    };
    await served.send('POST', '/api/takes/change', { takes: [more[0].id], change: { kind: 'tag', tag: 'quay' } });
    expect(await versions()).toEqual([2, 1]);
    await served.send('POST', '/api/takes/change', { takes: more.map(({ id }) => id), change: { kind: 'tag', tag: 'quay' } });
    expect(await versions()).toEqual([2, 2]);
  });
});
