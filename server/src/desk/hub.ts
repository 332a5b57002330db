import { asFault, fail, parseOpening, readFrame, shortened, StreamReceiver, type Opening, type StreamFrame } from '@hollow-stride/core';
import type { DeskRecording, DeskState, DeskStream, RingSettings } from '@hollow-stride/contract';

/** Streams at once, those that are not open any more included: the oldest of those gives way. */
const MOST_STREAMS = 8;
const MOST_OPEN = 4;
/** Longest that a frame may be, and how many a second are taken in of one sender. */
export const LONGEST_MESSAGE = 256 * 1024;
const FASTEST = 600;

/** Counts are told so often at most, ms. */
const TOLD = 200;

/** Who watches: told of every change of the state, and of every frame that was taken in. */
export interface Watcher {
  readonly state: (state: DeskState) => void;
  readonly frame: (session: string, bytes: Uint8Array) => void;
}

/** What takes frames down while a recording runs. */
export interface Taker {
  frame(bytes: Uint8Array): void;
  readonly shown: DeskRecording;
}

interface Live {
  readonly opening: Opening;
  readonly isDevice: boolean;
  readonly receiver: StreamReceiver;
  isOpen: boolean;
  refused: number;
  reason: string | null;
  /** Frames of this second, and when it began. */
  second: { at: number; frames: number };
}

/** One sender's line. */
export interface Line {
  readonly opening: Opening;
  /** @throws FaultError stream/frame where the frame is refused; the line stays */
  frame(bytes: Uint8Array): void;
  close(): void;
}

/** Streams as they come in, who watches them, and what takes them down. */
export class Hub {
  private readonly streams = new Map<string, Live>();
  private readonly watchers = new Set<Watcher>();
  private taker: Taker | undefined;
  private device: RingSettings | null = null;
  private telling: ReturnType<typeof setTimeout> | undefined;

  /**
   * Opens a line. A sender that comes back with the session it had goes on where it was.
   * @throws FaultError stream/opening
   */
  open(text: string, isDevice = false): Line {
    const opening = parseOpening(text);
    const { session } = opening;
    const known = this.streams.get(session);
    if (known?.isOpen) fail('stream/opening', 'a sender of this session is on the line already');
    if ([...this.streams.values()].filter(({ isOpen }) => isOpen).length >= MOST_OPEN) {
      fail('stream/opening', `there are ${MOST_OPEN} senders already; end one of them first`);
    }
    const isSame = known && JSON.stringify(known.opening) === JSON.stringify(opening);
    const live: Live = isSame
      ? known
      : { opening, isDevice, receiver: new StreamReceiver(), isOpen: true, refused: 0, reason: null, second: { at: 0, frames: 0 } };
    live.isOpen = true;
    this.streams.set(session, live);
    for (const [id, { isOpen }] of this.streams) if (this.streams.size > MOST_STREAMS && !isOpen) this.streams.delete(id);
    this.tell();
    return {
      opening,
      frame: (bytes) => this.take(session, live, bytes),
      close: () => {
        live.isOpen = false;
        this.tell();
      },
    };
  }

  watch(watcher: Watcher): () => void {
    this.watchers.add(watcher);
    watcher.state(this.state);
    return () => this.watchers.delete(watcher);
  }

  /** Lets a recording take down the frames of its stream; undefined ends that. */
  setTaker(taker: Taker | undefined): void {
    this.taker = taker;
    this.tell();
  }

  setDevice(device: RingSettings | null): void {
    this.device = device;
    this.tell();
  }

  opening(session: string): Opening | undefined {
    return this.streams.get(session)?.opening;
  }

  get state(): DeskState {
    return {
      streams: [...this.streams].map(([session, live]): DeskStream => {
        const { opening, isDevice, isOpen, refused, reason, receiver } = live;
        return { session, opening, isDevice, isOpen, refused, reason, ...receiver.count };
      }),
      device: this.device,
      recording: this.taker?.shown ?? null,
    };
  }

  /** Tells all who watch how things stand. */
  tell(): void {
    const { state } = this;
    for (const { state: told } of this.watchers) told(state);
  }

  /** Tells of counts by and by. */
  private tellSoon(): void {
    this.telling ??= setTimeout(() => {
      this.telling = undefined;
      this.tell();
    }, TOLD).unref();
  }

  private take(session: string, live: Live, bytes: Uint8Array): void {
    this.tellSoon();
    const now = Date.now();
    if (now - live.second.at >= 1000) live.second = { at: now, frames: 0 };
    let frame: StreamFrame;
    try {
      if (++live.second.frames > FASTEST) fail('stream/frame', `more than ${FASTEST} frames came within a second`);
      frame = readFrame(bytes, live.opening.joints.length);
    } catch (error) {
      live.refused++;
      live.reason = shortened(asFault(error).message, 300);
      throw error;
    }
    if (live.receiver.take(frame) === undefined) return;
    if (this.taker?.shown.session === session) this.taker.frame(bytes);
    for (const { frame: shown } of this.watchers) shown(session, bytes);
  }
}
