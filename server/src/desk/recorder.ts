import { randomUUID } from 'node:crypto';
import { mkdir, open, readdir, readFile, rm, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { eq, like } from 'drizzle-orm';
import { asFault, clipOfFrames, DEFAULT_TAKE, writeRecorded } from '@hollow-stride/core';
import { asName, recordSchema, type DeskRecording, type RecordedJson, type RecordRequest } from '@hollow-stride/contract';
import type { Logger } from 'pino';
import * as v from 'valibot';
import { takes } from '../db/schema';
import { refuse } from '../errors';
import { takeInBytes, type UploadServices } from '../intake/one';
import type { Hub, Taker } from './hub';
import { journalRecord, readJournal } from './journal';

const JOURNAL = '.journal';
/** How often what was taken down is synced to the disk, ms: what a power cut may cost. */
const SYNC = 250;
/** Longest recording, frames, and turns of joints: no more than a take may have. */
const LONGEST = { frames: 400_000, turns: 8_000_000 };

/** What a journal says of its recording. */
const aboutSchema = v.object({ ...recordSchema.entries, take: v.number() });
type About = v.InferOutput<typeof aboutSchema>;

/** Takes streams down to the disk as they come, and makes takes of them. */
export class Recorder {
  private running: Running | undefined;

  /** @param folder where journals lie until they are takes */
  constructor(
    private readonly folder: string,
    private readonly hub: Hub,
    private readonly services: UploadServices,
    private readonly log: Logger,
  ) {}

  /** Begins a recording. @throws Refusal 404, 409 */
  async start(request: RecordRequest): Promise<DeskRecording> {
    if (this.running) refuse(409, 'a recording is running already; stop it first');
    const opening = this.hub.opening(request.session);
    if (!opening) refuse(404, 'this stream is not on the desk');
    const about: About = { ...request, take: await this.nextTake(request.name) };
    await mkdir(this.folder, { recursive: true });
    const path = join(this.folder, `${randomUUID()}${JOURNAL}`);
    const file = await open(path, 'wx');
    const longest = Math.min(LONGEST.frames, Math.floor(LONGEST.turns / opening.joints.length));
    const running = new Running(path, file, about, longest, () => this.hub.tell());
    running.write(new TextEncoder().encode(JSON.stringify(about)));
    running.write(new TextEncoder().encode(JSON.stringify(opening)));
    await running.sync();
    this.running = running;
    this.hub.setTaker(running);
    return running.shown;
  }

  /** Ends the recording and puts it on the rack. @throws Refusal 409, 422 */
  async stop(): Promise<RecordedJson> {
    const { running } = this;
    if (!running) refuse(409, 'nothing is recorded');
    this.running = undefined;
    this.hub.setTaker(undefined);
    await running.close();
    return this.keep(running.path);
  }

  /** Makes takes of what a kill has left: all of it that had come to the disk. */
  async recover(): Promise<void> {
    for (const name of await readdir(this.folder).catch(() => [] as string[])) {
      if (!name.endsWith(JOURNAL)) continue;
      const path = join(this.folder, name);
      try {
        const { name: title, frames } = await this.keep(path, 'recovered');
        this.log.info({ title, frames }, 'a recording that was cut off is on the rack');
      } catch (error) {
        const { code, message } = asFault(error);
        this.log.warn({ reason: message, path }, 'a recording that was cut off cannot be made a take');
        // Only what holds nothing goes; for the rest the next start tries again.
        if (code === 'stream/journal') await rm(path, { force: true });
      }
    }
  }

  /** Ends without a take; what was taken down is found at the next start. */
  async end(): Promise<void> {
    const { running } = this;
    this.running = undefined;
    this.hub.setTaker(undefined);
    await running?.close();
  }

  private async keep(path: string, tag?: string): Promise<RecordedJson> {
    const { about: given, opening, frames } = readJournal(await readFile(path));
    const about = v.parse(aboutSchema, given);
    const title = asName(`${about.name} ${about.take}`, 'recording');
    const { clip, gaps } = clipOfFrames(title, opening, frames);
    const bytes = writeRecorded(opening, clip);
    const tags = [...about.tags, ...(tag === undefined ? [] : [tag])];
    const { takes: made, error } = await takeInBytes(bytes, `${title}.bvh`, this.services, { title, tags, note: about.note });
    if (error) refuse(422, error.message, error.code as 'option');
    const [take] = made;
    if (about.floor) {
      const { height, heading } = about.floor;
      const choices = { ...DEFAULT_TAKE, floor: { ...DEFAULT_TAKE.floor, height, heading } };
      await this.services.library.db.update(takes).set({ choices }).where(eq(takes.id, take.id));
    }
    await rm(path, { force: true });
    return { take: take.id, name: take.name, frames: clip.frames, lost: gaps.reduce((sum, { from, to }) => sum + to - from + 1, 0) };
  }

  /** One more than the takes of this name that were ever on the rack. */
  private async nextTake(name: string): Promise<number> {
    const rows = await this.services.library.db
      .select({ name: takes.name })
      .from(takes)
      .where(like(takes.name, `${name.replace(/[\\%_]/g, (sign) => `\\${sign}`)} %`));
    const numbers = rows.map((row) => Number(row.name.slice(name.length + 1))).filter(Number.isInteger);
    return Math.max(0, ...numbers) + 1;
  }
}

/** A recording that runs: frames go to the disk in the order in which they come. */
class Running implements Taker {
  private queue: Promise<void> = Promise.resolve();
  private frames = 0;
  private kept = 0;
  private pending: Uint8Array[] = [];
  private fault: string | null = null;
  private readonly timer: ReturnType<typeof setInterval>;

  constructor(
    readonly path: string,
    private readonly file: FileHandle,
    private readonly about: About,
    private readonly longest: number,
    private readonly told: () => void,
  ) {
    this.timer = setInterval(() => void this.sync(), SYNC);
  }

  get shown(): DeskRecording {
    const { session, name, take } = this.about;
    return { session, name, take, frames: this.frames, kept: this.kept, fault: this.fault };
  }

  frame(bytes: Uint8Array): void {
    if (this.fault !== null) return;
    if (this.frames >= this.longest) {
      this.fault = `a recording of this skeleton has ${this.longest.toLocaleString('en')} frames at most; stop it and begin another`;
      return;
    }
    this.frames++;
    this.write(bytes);
  }

  write(bytes: Uint8Array): void {
    this.pending.push(journalRecord(bytes));
  }

  /** Brings all that was taken down so far to the disk. */
  sync(): Promise<void> {
    const frames = this.frames;
    const parts = this.pending;
    this.pending = [];
    this.queue = this.queue.then(async () => {
      try {
        if (parts.length > 0) {
          await this.file.appendFile(Buffer.concat(parts));
          await this.file.datasync();
        }
        this.kept = frames;
      } catch (error) {
        // What had come before is on the disk; a person is told at once.
        this.fault ??= `no more of it can be kept: ${asFault(error).message}`.slice(0, 400);
      }
      this.told();
    });
    return this.queue;
  }

  async close(): Promise<void> {
    clearInterval(this.timer);
    await this.sync();
    await this.file.close();
  }
}
