import type { StreamFrame } from './frame';

/** What is known of how frames come in. */
export interface StreamCount {
  readonly received: number;
  /** Frames whose numbers were passed over. */
  readonly lost: number;
  /** Frames that came a second time, or after later ones; they are dropped. */
  readonly doubled: number;
}

/**
 * Tells frames that come in order from those that were lost, doubled or late, by their numbers. A sender that comes back after a lost line
 * goes on counting: nothing is doubled, and what is missing is told.
 */
export class StreamReceiver {
  private last: StreamFrame | undefined;
  private received = 0;
  private lost = 0;
  private doubled = 0;

  get count(): StreamCount {
    return { received: this.received, lost: this.lost, doubled: this.doubled };
  }

  get latest(): StreamFrame | undefined {
    return this.last;
  }

  /** @returns how many frames are missing before this one; undefined where it is dropped */
  take(frame: StreamFrame): number | undefined {
    const before = this.last;
    if (before && (frame.number <= before.number || frame.seconds <= before.seconds)) {
      this.doubled++;
      return undefined;
    }
    const missing = before ? frame.number - before.number - 1 : 0;
    this.last = frame;
    this.received++;
    this.lost += missing;
    return missing;
  }
}
