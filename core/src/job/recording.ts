import { duration } from '../clip';
import { findFaceFaults, type FaceFaultKind } from '../face';
import { isWav, readFace, readWav } from '../formats';

/** Faults that the facts of a recording tell of. */
const MOST_FAULTS = 200;

/** Facts about a recording that belongs beside a body take. Plain data, fit for JSON; frames count from 0. */
export type RecordingFacts =
  | {
      readonly kind: 'face';
      readonly frames: number;
      readonly fps: number;
      readonly seconds: number;
      /** Second of the recorder's clock at the first frame. */
      readonly start: number;
      /** Lowest and highest value of each; null for a channel without any. */
      readonly channels: readonly { readonly name: string; readonly low: number | null; readonly high: number | null }[];
      readonly faults: readonly {
        readonly kind: FaceFaultKind;
        readonly from: number;
        readonly to: number;
        readonly channel: string | null;
        readonly message: string;
      }[];
    }
  | { readonly kind: 'sound'; readonly seconds: number; readonly rate: number };

/** Reads a recording of a face or a sound and says what it holds. @throws FaultError of the readers */
export async function recordingFacts(bytes: Uint8Array, name: string): Promise<RecordingFacts> {
  if (isWav(bytes)) {
    const { rate, samples } = readWav(bytes, name);
    return { kind: 'sound', seconds: rounded(samples.length / rate), rate };
  }
  const track = await readFace(bytes, name);
  const { frames, frameTime, start, channels, values } = track;
  const ranges = channels.map((channel, c) => {
    let [low, high] = [Infinity, -Infinity];
    for (let f = 0; f < frames; f++) {
      const value = values[f * channels.length + c];
      if (value < low) low = value;
      if (value > high) high = value;
    }
    return { name: channel, low: low <= high ? rounded(low) : null, high: low <= high ? rounded(high) : null };
  });
  return {
    kind: 'face',
    frames,
    fps: rounded(1 / frameTime),
    seconds: rounded(duration(track)),
    start: rounded(start),
    channels: ranges,
    faults: findFaceFaults(track)
      .slice(0, MOST_FAULTS)
      .map(({ channel, ...fault }) => ({ ...fault, channel: channel < 0 ? null : channels[channel] })),
  };
}

const rounded = (value: number): number => Math.round(value * 10_000) / 10_000;
