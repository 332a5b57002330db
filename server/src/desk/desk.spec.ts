import { once } from 'node:events';
import { cpSync, mkdirSync, readdirSync, truncateSync, statSync } from 'node:fs';
import { join } from 'node:path';
import * as v from 'valibot';
import { WebSocket } from 'ws';
import { deskStateSchema, recordedSchema, type DeskState, type RecordedJson } from '@hollow-stride/contract';
import { readMotionFile, sendable, writeFrame } from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '@hollow-stride/core/testing/index';
import { pino } from 'pino';
import { Served } from '../testing/serve';
import { makeDesk } from './desk';

const shape = randomShape(781, { spine: 3, neck: 1, clavicles: true });
const file = makeFile(shape, { metres: 0.01 }, walk(shape, { seed: 781, frames: 120 }));
const senderOf = (session: string) => sendable(file, 0, { name: 'walker', session, metres: 0.01 });

/** A line to the desk, and what came over it. */
class TestLine {
  readonly told: string[] = [];
  readonly frames: Uint8Array[] = [];
  private constructor(readonly socket: WebSocket) {
    socket.on('message', (data: Buffer, isBinary) => (isBinary ? this.frames.push(new Uint8Array(data)) : this.told.push(data.toString())));
  }
  static async open(base: string, way: string, headers: Record<string, string> = {}): Promise<TestLine> {
    const line = new TestLine(new WebSocket(`${base.replace('http', 'ws')}/api/desk/${way}`, { headers }));
    await once(line.socket, 'open');
    return line;
  }
  /** Waits until something was told. */
  async heard(what: (text: string) => boolean): Promise<string> {
    for (;;) {
      const found = this.told.find(what);
      if (found !== undefined) return found;
      await once(this.socket, 'message');
    }
  }
}

describe('the capture desk', () => {
  let served: Served;
  beforeAll(async () => (served = await Served.start()));
  afterAll(() => served.stop());

  const state = async (): Promise<DeskState> => v.parse(deskStateSchema, await (await fetch(`${served.base}/api/desk`)).json());
  const until = async (fits: (state: DeskState) => boolean): Promise<DeskState> => {
    const watch = await TestLine.open(served.base, 'watch');
    const text = await watch.heard((told) => fits(JSON.parse(told) as DeskState));
    watch.socket.close();
    return v.parse(deskStateSchema, JSON.parse(text));
  };
  const record = (session: string, name: string, more: object = {}): Promise<Response> =>
    served.send('POST', '/api/desk/record', { session, name, ...more });
  const stop = async (): Promise<RecordedJson> => v.parse(recordedSchema, await (await served.send('POST', '/api/desk/stop', {})).json());
  const streamOf = async (session: string) => (await state()).streams.find((stream) => stream.session === session)!;

  it('records what a sender from outside sends, over a lost line, as a take with its numbers, gaps and floor', async () => {
    const take = senderOf('outside-0001');
    const watch = await TestLine.open(served.base, 'watch');
    let line = await TestLine.open(served.base, 'stream');
    line.socket.send(JSON.stringify(take.opening));
    await line.heard((text) => text.includes('"open"'));
    expect(
      (await record('outside-0001', 'Walker', { tags: ['desk'], note: 'first try', floor: { height: 0.02, heading: 10 } })).status,
    ).toBe(201);
    for (let i = 0; i < 50; i++) line.socket.send(writeFrame(take.frame(i)));
    await watch.heard((text) => (JSON.parse(text) as DeskState).recording?.kept === 50);
    // The line is lost; the sender comes back and sends again what it does not know to have come.
    line.socket.terminate();
    await until(({ streams }) => streams.some(({ session, isOpen }) => session === 'outside-0001' && !isOpen));
    line = await TestLine.open(served.base, 'stream');
    line.socket.send(JSON.stringify(take.opening));
    await line.heard((text) => text.includes('"open"'));
    for (let i = 45; i < 110; i++) if (i < 60 || i > 63) line.socket.send(writeFrame(take.frame(i)));
    await watch.heard((text) => (JSON.parse(text) as DeskState).recording?.frames === 106);
    const counted = await streamOf('outside-0001');
    expect([counted.received, counted.lost, counted.doubled]).toEqual([106, 4, 5]);
    const made = await stop();
    expect([made.name, made.frames, made.lost]).toEqual(['Walker 1', 110, 4]);
    const found = (await served.takes()).takes.find(({ id }) => id === made.take)!;
    expect([found.tags, found.note, found.choices.floor.height, found.choices.floor.heading]).toEqual([['desk'], 'first try', 0.02, 10]);
    const bytes = new Uint8Array(await (await fetch(`${served.base}/api/files/${found.file}`)).arrayBuffer());
    const { clips, skeleton } = await readMotionFile(bytes, 'walker.bvh');
    expect([clips[0].frames, skeleton.names.length]).toEqual([110, file.skeleton.names.length]);
    // Every frame that was seen is on a page that watches, each once.
    expect(watch.frames.length).toBe(106);
    // The next of its name counts on.
    await record('outside-0001', 'Walker');
    line.socket.send(writeFrame(take.frame(111)));
    line.socket.send(writeFrame(take.frame(112)));
    await watch.heard((text) => (JSON.parse(text) as DeskState).recording?.kept === 2);
    expect((await stop()).name).toBe('Walker 2');
    watch.socket.close();
    line.socket.close();
  }, 30_000);

  it('refuses bad frames with their reason and keeps the line, and what is no opening, and other pages', async () => {
    const take = senderOf('outside-0002');
    const line = await TestLine.open(served.base, 'stream');
    line.socket.send(JSON.stringify(take.opening));
    await line.heard((text) => text.includes('"open"'));
    line.socket.send(new Uint8Array(7));
    const told = await line.heard((text) => text.includes('refused'));
    expect(told).toContain('this one 7');
    line.socket.send(writeFrame(take.frame(0)));
    await until(({ streams }) => streams.some(({ session, received }) => session === 'outside-0002' && received === 1));
    expect((await streamOf('outside-0002')).refused).toBe(1);
    const second = await TestLine.open(served.base, 'stream');
    second.socket.send(JSON.stringify(take.opening));
    expect(await second.heard((text) => text.includes('refused'))).toContain('on the line already');
    await once(second.socket, 'close');
    const bad = await TestLine.open(served.base, 'stream');
    bad.socket.send('{"format":"other"}');
    expect(await bad.heard((text) => text.includes('refused'))).toContain('stream/opening');
    line.socket.close();
    const foreign = new WebSocket(`${served.base.replace('http', 'ws')}/api/desk/watch`, {
      headers: { origin: 'http://elsewhere.example' },
    });
    const [error] = (await once(foreign, 'error')) as [Error];
    expect(error.message).toContain('403');
  }, 20_000);

  it('keeps what had come to the disk when it is killed in a recording: the next start makes a take of it', async () => {
    const take = senderOf('outside-0003');
    const line = await TestLine.open(served.base, 'stream');
    line.socket.send(JSON.stringify(take.opening));
    await line.heard((text) => text.includes('"open"'));
    await record('outside-0003', 'Cut off', { note: 'killed' });
    for (let i = 0; i < 80; i++) line.socket.send(writeFrame(take.frame(i)));
    await until(({ recording }) => recording?.kept === 80);
    // What a kill leaves: the journal as it lies on the disk, its last record half written.
    const [folder, left] = [join(served.folder, 'desk'), join(served.folder, 'left')];
    mkdirSync(left);
    const [journal] = readdirSync(folder);
    cpSync(join(folder, journal), join(left, journal));
    truncateSync(join(left, journal), statSync(join(left, journal)).size - 5);
    const { services } = served;
    const next = makeDesk(left, services, pino({ level: 'silent' }));
    await next.recorder.recover();
    const found = (await served.takes()).takes.find(({ name }) => name === 'Cut off 1')!;
    expect([found.tags, found.note, found.facts.clips[0].frames]).toEqual([['recovered'], 'killed', 79]);
    expect(readdirSync(left)).toEqual([]);
    await stop();
    line.socket.close();
  }, 20_000);

  it('has a ring of eyes that performs a motion of the depot, and sees it badly where it is told to', async () => {
    const { motions } = await served.services.depot.search({ text: '', tag: '', shortest: 0, longest: 600, page: 0 });
    const [motion] = motions;
    const answer = await served.send('POST', '/api/desk/device', {
      motion: motion.id,
      rate: 120,
      dropouts: 60,
      exchanges: 60,
      tilt: 3,
      size: 0.6,
      seed: 3,
    });
    expect(answer.status).toBe(200);
    const seen = await until(({ streams }) => streams.some(({ isDevice, received, lost }) => isDevice && received > 150 && lost > 0));
    const stream = seen.streams.find(({ isDevice }) => isDevice)!;
    expect(stream.refused).toBe(0);
    expect(stream.opening.name).toContain(motion.title);
    // A child of six tenths: the hips stand that much lower.
    const [, hips] = stream.opening.joints[0].offset;
    expect(hips * stream.opening.metres).toBeLessThan(0.65);
    expect(hips * stream.opening.metres).toBeGreaterThan(0.4);
    await record(stream.session, 'Ring');
    await until(({ recording }) => (recording?.kept ?? 0) > 60);
    const made = await stop();
    expect(made.frames).toBeGreaterThan(60);
    await served.send('DELETE', '/api/desk/device', {});
    expect((await state()).device).toBeNull();
    expect((await served.send('POST', '/api/desk/device', { motion: 'no such motion' })).status).toBe(404);
    expect((await record(stream.session, 'x'.repeat(500))).status).toBe(400);
  }, 30_000);
});
