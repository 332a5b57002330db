import type { ReelJson } from '@hollow-stride/contract';
import { Served } from './testing/serve';

describe('reels', () => {
  let served: Served;
  beforeAll(async () => {
    served = await Served.start();
  });
  afterAll(() => served.stop());

  const lane = { name: 'lane', character: 'a', clips: [{ name: 'in', take: 't', start: 0 }] };
  const add = async (name: string): Promise<ReelJson> =>
    (await (await served.send('POST', '/api/reels', { name, content: { lanes: [lane] } })).json()) as ReelJson;
  const change = (id: string, body: object): Promise<Response> => served.send('PATCH', `/api/reels/${id}`, body);

  it('are kept whole, with what is not said as it usually is', async () => {
    const { content, version } = await add('parade');
    expect([version, content.fps, content.touches, content.lanes[0].pace, content.lanes[0].clips[0].joined]).toEqual([1, 60, [], 1, true]);
    expect((await served.rack()).reels.map(({ name }) => name)).toContain('parade');
  });

  it('are changed from the version that was seen, and never over another’s change', async () => {
    const { id } = await add('night');
    expect((await change(id, { base: 1, name: 'night parade' })).status).toBe(200);
    const late = await change(id, { base: 1, content: { lanes: [] } });
    expect(late.status).toBe(409);
    const { current } = (await late.json()) as { current: ReelJson };
    expect([current.name, current.version, current.content.lanes.length]).toEqual(['night parade', 2, 1]);
    expect((await change(id, { base: 2 })).status).toBe(400);
    expect((await change('00000000-0000-4000-8000-000000000000', { base: 1, name: 'x' })).status).toBe(404);
  });

  it('are refused where they cannot be played', async () => {
    for (const content of [
      { lanes: [{ ...lane, clips: [{ ...lane.clips[0], from: 2, to: 1 }] }] },
      { lanes: [{ ...lane, pace: 0 }] },
      { lanes: [lane], touches: [{ a: { lane: 0, end: 'tail' }, b: { lane: 1, end: 'left.hand' }, from: 0, to: 1 }] },
    ]) {
      expect((await served.send('POST', '/api/reels', { name: 'x', content })).status).toBe(400);
    }
  });
});
