import { unzipSync } from 'fflate';
import * as v from 'valibot';
import { DEFAULT_OUTPUT, keptNameTableSchema, runSchema, takeSchema, type TakeJson } from '@hollow-stride/contract';
import { DEFAULT_NAME_TABLE, DEFAULT_TAKE, faceCsv, readMotionFile, writeWav } from '@hollow-stride/core';
import { makeFaceTrack, makeFile, makeGlb, randomShape, withFace } from '@hollow-stride/core/testing/index';
import { readManifest } from './backup/write';
import { Served, walkBvh } from './testing/serve';

const track = makeFaceTrack(['jawOpen', 'browInnerUp'], { seconds: 2 });
const table = faceCsv({ channels: track.channels, times: Array.from({ length: track.frames }, (_, f) => f / 60), values: track.values });
const sound = writeWav({ rate: 8000, samples: new Float32Array(16_000) });
const NO_FACE = { rate: null, spikes: false, smooth: null };

describe('recordings of faces and sounds', () => {
  let served: Served;
  let take: TakeJson;

  beforeAll(async () => {
    served = await Served.start();
    const body = await makeGlb(makeFile(randomShape(5, { spine: 3, clavicles: true })).skeleton, { sheath: true });
    const { files } = await served.upload(
      ['call.bvh', walkBvh(1, 60)],
      ['body.glb', (await withFace(body, [['mouthOpen', 'browsUp']])) as Uint8Array<ArrayBuffer>],
      ['face.csv', table],
      ['voice.wav', sound],
      ['notes.csv', 'who,what\na,b\n'],
    );
    expect(files.map(({ fileName, error }) => [fileName, error?.code])).toEqual([
      ['call.bvh', undefined],
      ['body.glb', undefined],
      ['face.csv', undefined],
      ['voice.wav', undefined],
      ['notes.csv', 'face/table'],
    ]);
    [take] = files[0].takes;
  });
  afterAll(() => served.stop());

  const layFace = async (recording: string, offset: number): Promise<TakeJson> => {
    const choices = { ...DEFAULT_TAKE, face: { recording, offset, ...NO_FACE } };
    const answer = await served.edit('PATCH', `/api/takes/${take.id}/settings`, { choices });
    return v.parse(takeSchema, await answer.json());
  };

  it('are on the rack with what they hold, come back as they were, and are known again', async () => {
    const { recordings, characters } = await served.rack();
    expect(characters[0].facts.shapes).toEqual(['mouthOpen', 'browsUp']);
    expect(recordings.map(({ fileName, facts }) => [fileName, facts.kind])).toEqual([
      ['face.csv', 'face'],
      ['voice.wav', 'sound'],
    ]);
    const [{ facts, file }] = recordings;
    expect(facts.kind === 'face' && [facts.frames, facts.fps, facts.channels.map(({ name }) => name)]).toEqual([
      121,
      60,
      ['jawOpen', 'browInnerUp'],
    ]);
    expect(await (await fetch(`${served.base}/api/files/${file}`)).text()).toBe(table);
    const again = await served.upload(['again.csv', table]);
    expect([again.files[0].known, again.files[0].recordings[0].id]).toEqual([true, recordings[0].id]);
    expect((await served.rack()).recordings.length).toBe(2);
  });

  it('are renamed and taken off the rack and put back as everything is', async () => {
    const { recordings } = await served.rack();
    const voice = recordings.find(({ facts }) => facts.kind === 'sound')!;
    await served.edit('PATCH', `/api/recordings/${voice.id}`, { name: 'Voice of the quay' });
    await served.edit('PATCH', `/api/recordings/${voice.id}`, { removed: true });
    expect((await served.rack()).recordings.map(({ name }) => name)).not.toContain('Voice of the quay');
    await served.edit('PATCH', `/api/recordings/${voice.id}`, { removed: false, name: 'voice' });
    expect((await served.rack()).recordings.map(({ name }) => name)).toContain('voice');
  });

  it('keep name tables beside them', async () => {
    const answer = await served.send('POST', '/api/name-tables', { name: 'quay faces', table: { ...DEFAULT_NAME_TABLE, exchange: true } });
    const kept = v.parse(keptNameTableSchema, await answer.json());
    expect((await served.rack()).nameTables).toContain(kept);
    expect((await served.send('POST', '/api/name-tables', { name: 'bad', table: { rows: { a: { strength: 99 } } } })).status).toBe(400);
  });

  it('go into the files of a run, at the frames that they were recorded at', async () => {
    const { recordings, characters } = await served.rack();
    await layFace(recordings[0].id, 0.1);
    const started = await served.send('POST', '/api/runs', {
      name: 'faces',
      takes: [take.id],
      characters: [characters[0].id],
      output: DEFAULT_OUTPUT,
    });
    const run = v.parse(runSchema, await started.json());
    await new Promise<void>((resolve) => {
      const end = served.services.runs.watch((event) => {
        if (event.kind === 'run' && event.run.id === run.id && event.run.waiting + event.run.working === 0) {
          end();
          resolve();
        }
      });
    });
    const archive = new Uint8Array(await (await fetch(`${served.base}/api/runs/${run.id}/zip`)).arrayBuffer());
    const files = unzipSync(archive);
    const name = Object.keys(files).find((path) => path.endsWith('.glb'))!;
    const { faces } = await readMotionFile(files[name], name);
    const face = faces!.at(-1)!;
    expect(face.channels).toEqual(['mouthOpen', 'browsUp']);
    for (const seconds of [0.3, 0.35]) {
      const got = face.values[Math.round((seconds - face.start) / face.frameTime) * 2];
      expect(got).toBeCloseTo(track.values[Math.round((seconds - 0.1) * 60) * 2], 2);
    }
  });

  it('go along in a backup, and takes there name them by their ids there', async () => {
    const { recordings } = await served.rack();
    await layFace(recordings[0].id, 0.25);
    const archive = new Uint8Array(await (await fetch(`${served.base}/api/backup`)).arrayBuffer());
    const other = await Served.start();
    await other.upload(['rack.zip', archive]);
    const there = await other.rack();
    expect(there.recordings.map(({ name, file }) => [name, file]).sort()).toEqual(recordings.map(({ name, file }) => [name, file]).sort());
    expect(there.nameTables.map(({ name }) => name)).toEqual((await served.rack()).nameTables.map(({ name }) => name));
    const [laid] = (await other.takes()).takes;
    expect(laid.choices.face).toEqual({ recording: there.recordings.find(({ name }) => name === 'face')!.id, offset: 0.25, ...NO_FACE });
    expect(await (await fetch(`${other.base}/api/files/${recordings[0].file}`)).text()).toBe(table);
    const { takes } = await readManifest(other.services.library.db);
    expect(takes[0].choices!.face!.recording).toBe(recordings[0].file);
    await other.stop();
  });
});
