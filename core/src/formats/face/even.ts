import { trueFrameTime } from '../../clip';
import { fail } from '../../errors';
import { shortened, wellFormed } from '../../text';
import { MAX_CHANNEL_VALUE, MAX_CHANNELS, MAX_FACE_SAMPLES, type FaceTrack } from './track';

/** Rows of a table as they were written. */
export interface TableRows {
  readonly channels: readonly string[];
  /** Second of each row. */
  readonly times: ArrayLike<number>;
  /** Rows × channels; NaN where there is no value. */
  readonly values: ArrayLike<number>;
  /** Line of a row in its file, where it has lines. */
  readonly lineOf?: (row: number) => number;
}

/** Share of the usual step by which a row may come early or late and still be that frame. */
const MOST_UNEVEN = 0.25;
/** So many steps without a row are a gap: one row that is missing is a frame that was dropped. */
const GAP = 1.75;
/** A clock that begins later than this is one of the day: it says nothing of where the recording lies in a take, seconds. */
const DAY_CLOCK = 600;
/** Slowest and quickest recorder, frames a second. */
const RATES = [1, 1000] as const;

/**
 * Rows as even frames: at their own times where those are even, else on straight lines between them. A hole of more than one
 * frame stays a hole.
 * @throws FaultError face/table with the line
 */
export function evenTrack(name: string, { channels, times, values, lineOf }: TableRows): FaceTrack {
  const rows = times.length;
  const where = (row: number): { line?: number } => (lineOf ? { line: lineOf(row) } : {});
  if (channels.length === 0) fail('face/table', 'no column of numbers beside the time: there are no channels');
  if (channels.length > MAX_CHANNELS) fail('face/table', `${channels.length} channels; at most ${MAX_CHANNELS} are read`);
  if (rows < 2) fail('face/table', 'a recording has at least two frames');
  const steps: number[] = [];
  for (let r = 1; r < rows; r++) {
    const step = times[r] - times[r - 1];
    if (!(step > 0)) fail('face/table', 'the time does not rise from the row before', where(r));
    steps.push(step);
  }
  steps.sort((a, b) => a - b);
  const usual = steps[steps.length >> 1];
  // Frames that were dropped are counted by the holes that they left: the rate is that of the whole, truer than any step.
  const dropped = steps.reduce((sum, step) => sum + (step > GAP * usual ? Math.round(step / usual) - 1 : 0), 0);
  const mean = (times[rows - 1] - times[0]) / (rows - 1 + dropped);
  const frameTime = trueFrameTime(mean, Math.max(1e-3 / rows, 1e-6));
  const rate = 1 / frameTime;
  if (!(rate >= RATES[0] * 0.999 && rate <= RATES[1])) {
    fail('face/table', `the rows are ${frameTime.toPrecision(3)} s apart; between ${RATES[0]} and ${RATES[1]} a second are read`);
  }
  const first = times[0];
  const start = Math.abs(first) < DAY_CLOCK ? first : 0;
  const frames = Math.round((times[rows - 1] - first) / frameTime) + 1;
  const count = channels.length;
  if (frames * count > MAX_FACE_SAMPLES) {
    fail(
      'face/table',
      `${frames} frames of ${count} channels are more than the ${MAX_FACE_SAMPLES} samples that are read; split the recording`,
    );
  }
  const out = new Float32Array(frames * count).fill(NaN);
  let r = 0;
  for (let f = 0; f < frames; f++) {
    const time = first + f * frameTime;
    while (r + 1 < rows - 1 && times[r + 1] <= time) r++;
    const next = Math.min(r + 1, rows - 1);
    const [a, b] = [times[r], times[next]];
    const near = time - a < b - time ? r : next;
    const isOn = Math.abs(times[near] - time) < MOST_UNEVEN * frameTime;
    const isHole = b - a > GAP * frameTime;
    if (isHole && !isOn) continue;
    const share = isOn ? 0 : b > a ? Math.min(1, Math.max(0, (time - a) / (b - a))) : 0;
    for (let c = 0; c < count; c++) {
      const [low, high] = isOn ? [values[near * count + c], 0] : [values[r * count + c], values[next * count + c]];
      const value = isOn ? low : low + (high - low) * share;
      if (Number.isFinite(value) && Math.abs(value) > MAX_CHANNEL_VALUE) {
        fail('face/table', `channel "${channels[c]}" has the value ${value}, which no face has`, where(near));
      }
      out[f * count + c] = Number.isFinite(value) ? value : NaN;
    }
  }
  return { name, frameTime, frames, start, channels: distinct(channels), values: out };
}

/** Names as lists can hold them, each told from the others. */
function distinct(names: readonly string[]): string[] {
  const seen = new Map<string, number>();
  return names.map((raw, i) => {
    const name = shortened(wellFormed(raw).trim(), 120) || `channel ${i + 1}`;
    const before = seen.get(name) ?? 0;
    seen.set(name, before + 1);
    return before === 0 ? name : `${name} (${before + 1})`;
  });
}
