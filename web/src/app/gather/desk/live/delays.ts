/** What half of some milliseconds stay below, and 99 of 100. */
export interface Spread {
  readonly half: number;
  readonly most: number;
}

/** Values that are looked at: the latest ten seconds at 60 a second. */
const LATEST = 600;

/** How long each frame is on its way through a live transfer. */
export class Delays {
  private readonly arrived = new Map<number, number>();
  private readonly delays: number[] = [];
  private readonly works: number[] = [];

  /** A frame has come in. @param now milliseconds */
  came(number: number, now: number): void {
    this.arrived.set(number, now);
    // What has not come out by now does not come any more.
    for (const old of this.arrived.keys()) {
      if (this.arrived.size <= LATEST) break;
      this.arrived.delete(old);
    }
  }

  /** Frames have come out. @param work milliseconds that they took */
  went(numbers: readonly number[], work: number, now: number): void {
    for (const number of numbers) {
      const came = this.arrived.get(number);
      if (came === undefined) continue;
      this.arrived.delete(number);
      keep(this.delays, now - came);
      keep(this.works, work / numbers.length);
    }
  }

  get delay(): Spread {
    return spreadOf(this.delays);
  }

  /** Milliseconds of work a frame. */
  get work(): Spread {
    return spreadOf(this.works);
  }
}

function keep(list: number[], value: number): void {
  list.push(value);
  if (list.length > LATEST) list.shift();
}

function spreadOf(list: readonly number[]): Spread {
  if (list.length === 0) return { half: 0, most: 0 };
  const sorted = [...list].sort((a, b) => a - b);
  const at = (share: number): number => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))];
  return { half: at(0.5), most: at(0.99) };
}
