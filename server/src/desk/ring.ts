import { randomUUID } from 'node:crypto';
import { performance } from 'node:perf_hooks';
import {
  partnersOfJoints,
  quat,
  random,
  readMotionFile,
  sendable,
  skeletonOfStream,
  writeFrame,
  type Sendable,
  type StreamFrame,
} from '@hollow-stride/core';
import type { RingSettings } from '@hollow-stride/contract';
import type { Depot } from '../depot/depot';
import type { Hub, Line } from './hub';

const DEG = Math.PI / 180;
/** How often frames that are due are sent, ms. */
const TICK = 5;
/** A moment without sight, and one in which arms are exchanged, seconds. */
const [UNSEEN, EXCHANGED] = [0.12, 0.25];
/** Joints of arms, by the names that the demo's performers have. */
const ARM = /arm|hand|shoulder|clavicle/i;
/** Quality of joints that are seen badly. */
const DOUBTFUL = 70;

/**
 * The capture device of the scenario: a ring of eyes in the rope loft. It performs a motion of the depot round and round and sends what its
 * eyes see of it: with noise, moments without sight, arms that are taken for each other, and a floor that leans.
 */
export class Ring {
  private timer: ReturnType<typeof setInterval> | undefined;
  private line: Line | undefined;

  constructor(
    private readonly hub: Hub,
    private readonly depot: Depot,
  ) {}

  /** @throws Refusal 404 where the depot has no such motion */
  async connect(settings: RingSettings): Promise<void> {
    this.disconnect();
    const { title } = await this.depot.item(settings.motion);
    const made = await this.depot.file(settings.motion, { travel: 'travelling', fps: settings.rate, body: 'motion' });
    const file = await readMotionFile(made.bytes, made.name, false);
    const own = sendable(file, 0, { name: `Ring of eyes: ${title}`.slice(0, 80), session: randomUUID(), metres: METRES });
    const take = resized(own, settings.size);
    const line = this.hub.open(JSON.stringify(take.opening), true);
    this.line = line;
    this.hub.setDevice(settings);
    const seen = new Eyes(take, settings);
    const start = performance.now();
    let next = 0;
    this.timer = setInterval(() => {
      const due = Math.floor(((performance.now() - start) / 1000) * settings.rate);
      // A server that was busy does not send everything at once.
      if (due - next > settings.rate) next = due - settings.rate;
      for (; next <= due; next++) {
        const frame = seen.at(next);
        if (frame) line.frame(writeFrame(frame));
      }
    }, TICK);
  }

  disconnect(): void {
    clearInterval(this.timer);
    this.line?.close();
    this.line = undefined;
    this.hub.setDevice(null);
  }
}

/** The same motion by a larger or smaller performer: bones and ways alike. */
function resized(take: Sendable, size: number): Sendable {
  const scaled = (place: readonly [number, number, number]): [number, number, number] => [
    place[0] * size,
    place[1] * size,
    place[2] * size,
  ];
  const joints = take.opening.joints.map(({ offset, tip, ...joint }) => ({
    ...joint,
    offset: scaled(offset),
    ...(tip && { tip: scaled(tip) }),
  }));
  return {
    ...take,
    opening: { ...take.opening, joints },
    frame: (number) => {
      const frame = take.frame(number);
      return { ...frame, place: frame.place.map((v) => v * size) };
    },
  };
}

/** The demo's performers are measured in centimetres. */
const METRES = 0.01;

/** What the eyes see of a take. */
class Eyes {
  private readonly chance;
  private unseenUntil = -1;
  private exchangedUntil = -1;
  /** For each joint its counterpart on the other side, within the arms; itself elsewhere. */
  private readonly other: Int32Array;
  private readonly tilt = new Float64Array(4);
  private readonly wobble = new Float64Array(4);

  constructor(
    private readonly take: Sendable,
    private readonly settings: RingSettings,
  ) {
    this.chance = random(settings.seed);
    quat.fromAxisAngle(this.tilt, 0, 0, 0, 1, settings.tilt * DEG);
    const partners = partnersOfJoints(skeletonOfStream(take.opening));
    this.other = Int32Array.from(take.opening.joints, ({ name }, j) => (ARM.test(name) && partners[j] >= 0 ? partners[j] : j));
  }

  /** A frame as it is seen; undefined where nothing is. */
  at(number: number): StreamFrame | undefined {
    const { noise, dropouts, exchanges, rate } = this.settings;
    const perFrame = 1 / (60 * rate);
    if (this.chance.next() < dropouts * perFrame) this.unseenUntil = number + UNSEEN * rate;
    if (this.chance.next() < exchanges * perFrame) this.exchangedUntil = number + EXCHANGED * rate;
    const frame = this.take.frame(number);
    const turns = new Float32Array(frame.turns.length);
    const isExchanged = number < this.exchangedUntil;
    const quality = frame.quality.slice();
    const spread = noise * DEG;
    for (let j = 0; j < quality.length; j++) {
      const from = isExchanged ? this.other[j] : j;
      if (from !== j) quality[j] = DOUBTFUL;
      quat.exp(this.wobble, 0, spread * this.chance.normal(), spread * this.chance.normal(), spread * this.chance.normal());
      quat.mul(turns, j * 4, frame.turns, from * 4, this.wobble, 0);
    }
    const place = frame.place.slice();
    quat.mul(turns, 0, this.tilt, 0, turns, 0);
    quat.rotate(place, 0, this.tilt, 0, place, 0);
    return number < this.unseenUntil ? undefined : { ...frame, place, quality, turns };
  }
}
