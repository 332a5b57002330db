/** Codes of PostgreSQL and of the system that say that the database does not answer for now, and may again. */
const AWAY = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  // admin_shutdown, crash_shutdown, cannot_connect_now, and the class of connection exceptions.
  '57P01',
  '57P02',
  '57P03',
  '08000',
  '08001',
  '08003',
  '08004',
  '08006',
]);

/** True when an error says that the database server is away: not that it refuses what it was asked. */
export function isAway(error: unknown): boolean {
  for (let inner = error, depth = 0; inner instanceof Error && depth < 6; depth++) {
    const { code } = inner as NodeJS.ErrnoException;
    if (code !== undefined && AWAY.has(code)) return true;
    if (/^(Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error)/.test(inner.message))
      return true;
    inner = inner instanceof AggregateError ? inner.errors[0] : inner.cause;
  }
  return false;
}

/** Between two tries while the database is away, ms. */
const PAUSE = 1000;

/**
 * Waits for the database: says once that it is away and once that it is back, and asks again in between.
 */
export class Patience {
  private readonly ended = new AbortController();
  private away = false;

  /**
   * @param say told once each time that the database goes away, and when it is back
   * @param between two tries, ms
   */
  constructor(
    private readonly say: (isAway: boolean) => void,
    private readonly between = PAUSE,
  ) {}

  /** Runs what may be run again until the database takes it. @throws its error when it is another one, or the waiting is ended */
  async of<T>(work: () => Promise<T>): Promise<T> {
    for (;;) {
      try {
        const value = await work();
        this.tell(false);
        return value;
      } catch (error) {
        if (!isAway(error) || this.ended.signal.aborted) throw error;
        this.tell(true);
        await this.pause();
      }
    }
  }

  /** Gives up waiting: what waits fails. */
  end(): void {
    this.ended.abort();
  }

  private tell(isAway: boolean): void {
    if (this.away === isAway) return;
    this.away = isAway;
    this.say(isAway);
  }

  private pause(): Promise<void> {
    const { signal } = this.ended;
    return new Promise((resolve) => {
      const done = (): void => {
        clearTimeout(timer);
        signal.removeEventListener('abort', done);
        resolve();
      };
      const timer = setTimeout(done, this.between);
      signal.addEventListener('abort', done);
      if (signal.aborted) done();
    });
  }
}
