import type { FaceTrack } from '../formats';

export type FaceFaultKind = 'gap' | 'spike' | 'flat' | 'range' | 'repeat';

/** A fault of a recording: where, and of which channel. */
export interface FaceFault {
  readonly kind: FaceFaultKind;
  /** −1 where it is of all channels. */
  readonly channel: number;
  /** Frames, from 0. */
  readonly from: number;
  readonly to: number;
  readonly message: string;
}

/** Faults of a kind that are listed for one channel. */
const MOST_OF_A_KIND = 20;
/** A channel that moves by less than this in all says nothing, in its own unit where 1 is its full. */
const FLAT = 1e-4;
/** Beyond this a channel that goes from 0 to 1 is out of range: recorders overshoot by some percent. */
const OVER = 0.05;
/** One frame beside its neighbours by more than this, and by so many times the usual step, is a spike. */
const SPIKE = 0.15;
const SPIKE_TIMES = 6;
/** All channels of a recording that stand still for so long while they move elsewhere were lost, seconds. */
const STILL = 0.2;

/** Full of the channels: 1, or 100 where they are percents. */
export function fullOf({ values }: FaceTrack): number {
  let most = 0;
  for (const value of values) if (value > most) most = value;
  return most > 5 ? 100 : 1;
}

/** Holes, spikes, channels that do not move, values out of range, and frames that repeat. */
export function findFaceFaults(track: FaceTrack): FaceFault[] {
  const full = fullOf(track);
  const whole = holes(track, (f) => track.channels.every((_, c) => !Number.isFinite(track.values[f * track.channels.length + c])));
  const gaps = whole.map(([from, to]): FaceFault => {
    const message = `nothing recorded for ${((to - from + 1) * track.frameTime * 1000).toFixed(0)} ms`;
    return { kind: 'gap', channel: -1, from, to, message };
  });
  const isWhole = (f: number): boolean => whole.some(([from, to]) => f >= from && f <= to);
  const faults = track.channels.flatMap((name, c) => channelFaults(track, name, c, full, isWhole));
  return [...gaps, ...faults, ...repeats(track)].sort((a, b) => a.from - b.from || a.channel - b.channel);
}

/** First and last frames of stretches for which something holds. */
function holes({ frames }: Pick<FaceTrack, 'frames'>, holds: (frame: number) => boolean): [number, number][] {
  const out: [number, number][] = [];
  for (let f = 0; f < frames; f++) {
    if (!holds(f)) continue;
    const from = f;
    while (f + 1 < frames && holds(f + 1)) f++;
    out.push([from, f]);
  }
  return out;
}

function channelFaults(track: FaceTrack, name: string, channel: number, full: number, isWhole: (frame: number) => boolean): FaceFault[] {
  const { frames, frameTime } = track;
  const column = columnOf(track, channel);
  const out: FaceFault[] = [];
  const add = (kind: FaceFaultKind, from: number, to: number, message: string): void => {
    if (out.filter((fault) => fault.kind === kind).length < MOST_OF_A_KIND) out.push({ kind, channel, from, to, message });
  };
  for (const [from, to] of holes(track, (f) => !Number.isFinite(column[f]) && !isWhole(f))) {
    add('gap', from, to, `${name}: nothing recorded for ${((to - from + 1) * frameTime * 1000).toFixed(0)} ms`);
  }
  const known = column.filter(Number.isFinite);
  const [low, high] = known.reduce(([a, b], x) => [Math.min(a, x), Math.max(b, x)], [Infinity, -Infinity]);
  if (!(high - low > FLAT * full))
    add('flat', 0, frames - 1, `${name} does not move${known.length > 0 ? `; it stays at ${low.toFixed(3)}` : ''}`);
  for (const f of spikesOf(column, full)) add('spike', f, f, `${name}: one frame jumps to ${column[f].toFixed(2)}`);
  const isOver = (x: number): boolean => x > full * (1 + OVER) || x < -full * OVER;
  // Channels that go both ways have their own range.
  const isBothWays = low < -0.2 * full && high <= full * (1 + OVER) && low >= -full * (1 + OVER);
  for (const [from, to] of isBothWays ? [] : holes(track, (f) => isOver(column[f]))) {
    const worst = column.subarray(from, to + 1).reduce((most, x) => (Math.abs(x) > Math.abs(most) ? x : most), 0);
    add('range', from, to, `${name} goes to ${worst.toFixed(2)}, out of 0 to ${full}`);
  }
  return out;
}

/** Frames that alone lie off the straight line between their neighbours by far more than the channel's usual steps. */
export function spikesOf(column: Float64Array, full: number): number[] {
  const off: number[] = [];
  for (let f = 1; f + 1 < column.length; f++) off.push(Math.abs(column[f] - (column[f - 1] + column[f + 1]) / 2));
  const sorted = off.filter(Number.isFinite).sort((a, b) => a - b);
  const usual = sorted.length === 0 ? 0 : sorted[Math.floor(sorted.length * 0.95)];
  const least = Math.max(SPIKE * full, SPIKE_TIMES * usual);
  const out: number[] = [];
  off.forEach((by, i) => {
    const f = i + 1;
    const [before, after] = [column[f] - column[f - 1], column[f] - column[f + 1]];
    // It comes back at once: a step that stays is motion.
    const isAlone = before * after > 0 && Math.min(Math.abs(before), Math.abs(after)) > 0.7 * Math.max(Math.abs(before), Math.abs(after));
    if (by > least && isAlone) out.push(f);
  });
  return out;
}

function repeats({ frames, channels, values, frameTime }: FaceTrack): FaceFault[] {
  const count = channels.length;
  const same = (f: number): boolean => {
    for (let c = 0; c < count; c++) {
      const [a, b] = [values[f * count + c], values[(f - 1) * count + c]];
      if (a !== b && (Number.isFinite(a) || Number.isFinite(b))) return false;
    }
    return true;
  };
  const out: FaceFault[] = [];
  for (const [from, to] of holes({ frames }, (f) => f > 0 && same(f))) {
    const seconds = (to - from + 1) * frameTime;
    const isHeld = Number.isFinite(values[from * count]);
    if (seconds < STILL || to - from + 1 >= frames - 1 || !isHeld || out.length >= MOST_OF_A_KIND) continue;
    const message = `all channels stand still for ${(seconds * 1000).toFixed(0)} ms: the face was lost`;
    out.push({ kind: 'repeat', channel: -1, from, to, message });
  }
  return out;
}

/** One channel over time. */
export function columnOf({ frames, channels, values }: FaceTrack, channel: number): Float64Array {
  return Float64Array.from({ length: frames }, (_, f) => values[f * channels.length + channel]);
}
