/**
 * One definition of the time of a frame, for reading, writing and reading back: frame f of a clip is at f times its frame time, and
 * a frame time that a file gives rounded is that of the common rate that it was rounded from.
 */

/** Frames a second that recorders and programs use; those of television, a thousandth slower, too. */
const COMMON_RATES = [24, 25, 30, 48, 50, 60, 90, 100, 120, 150, 200, 240, 24_000 / 1001, 30_000 / 1001, 60_000 / 1001, 120_000 / 1001];
/** A frame time that is off by more than this share was not rounded: it is another rate. */
const MOST_OFF = 0.011;

/**
 * The frame time that a written one stands for.
 * @param written seconds
 * @param off seconds by which it may be off for having been rounded
 */
export function trueFrameTime(written: number, off: number): number {
  const most = Math.min(off, MOST_OFF * written);
  let best = written;
  let least = Infinity;
  for (const rate of COMMON_RATES) {
    const by = Math.abs(written - 1 / rate);
    // Where both are meant by the same digits, a whole rate is likelier than one of television.
    const cost = by + (Number.isInteger(rate) ? 0 : most);
    if (by > most || cost >= least) continue;
    [best, least] = [1 / rate, cost];
  }
  return best;
}

/** Even frames on which all keys of an animation lie. */
export interface FrameGrid {
  /** Seconds of the first frame. */
  readonly first: number;
  readonly frameTime: number;
  readonly frames: number;
}

/** Farthest that a key may be from its frame, in frames: times are written in single precision. */
const MOST_FROM_FRAME = 0.05;

/**
 * The frames that key times lie on, where they lie on even frames at all: some keys may have been left out.
 * @param lists key times of each channel, seconds, rising
 * @param known seconds of a frame, where they are known: so many keys may have been left out that nothing tells
 * @returns undefined where keys lie between frames, or too sparsely to tell
 */
export function frameGrid(lists: readonly ArrayLike<number>[], known?: number): FrameGrid | undefined {
  let [first, last, gap] = [Infinity, -Infinity, Infinity];
  let longest: ArrayLike<number> = [];
  for (const times of lists) {
    if (times.length === 0) continue;
    first = Math.min(first, times[0]);
    last = Math.max(last, times[times.length - 1]);
    if (times.length > longest.length) longest = times;
    for (let k = 1; k < times.length; k++) {
      const by = times[k] - times[k - 1];
      if (by > 1e-6 && by < gap) gap = by;
    }
  }
  if (!(last > first) || (known === undefined && gap > 1 / 15)) return undefined;
  const rough = known ?? refined(longest, gap);
  const steps = Math.round((last - first) / rough);
  const frameTime = trueFrameTime((last - first) / steps, (MOST_FROM_FRAME * rough) / steps);
  return isOn(lists, first, frameTime) ? { first, frameTime, frames: steps + 1 } : undefined;
}

/**
 * The frame time by key times, from a first guess: each key counts the frames from the first one by what the keys before it say, and
 * then says it better. One gap alone says little far from zero, where single precision leaves few digits.
 */
function refined(times: ArrayLike<number>, gap: number): number {
  let frameTime = gap;
  for (let k = 1, most = 0; k < times.length; k++) {
    const since = times[k] - times[0];
    const frames = Math.round(since / frameTime);
    if (frames <= most || Math.abs(since / frameTime - frames) > 0.3) continue;
    most = frames;
    frameTime = since / frames;
  }
  return frameTime;
}

function isOn(lists: readonly ArrayLike<number>[], first: number, frameTime: number): boolean {
  for (const times of lists) {
    for (let k = 0; k < times.length; k++) {
      const at = (times[k] - first) / frameTime;
      if (Math.abs(at - Math.round(at)) > MOST_FROM_FRAME) return false;
    }
  }
  return true;
}
