import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import type { AnalyseResult } from './worker';

/** Worker threads for what would block the server. */
export interface Pool {
  analyse(path: string, name: string): Promise<AnalyseResult>;
  close(): Promise<void>;
}

/** Longest that one file may take to be read. */
const TIME_LIMIT = 60_000;

export function makePool(): Pool {
  const isSource = import.meta.url.endsWith('.ts');
  const pool = new Piscina({
    filename: new URL(isSource ? './worker.ts' : './worker.js', import.meta.url).href,
    minThreads: 1,
    maxThreads: Math.max(1, Math.min(4, availableParallelism() - 1)),
    idleTimeout: 30_000,
    resourceLimits: { maxOldGenerationSizeMb: 2048 },
    ...(isSource ? { execArgv: ['--import', 'tsx'] } : {}),
  });
  return {
    analyse: async (path, name) => {
      try {
        return (await pool.run({ path, name }, { signal: AbortSignal.timeout(TIME_LIMIT) })) as AnalyseResult;
      } catch (error) {
        const late = error instanceof Error && error.name === 'AbortError';
        const message = late
          ? `reading the file took more than ${TIME_LIMIT / 1000} s`
          : 'reading the file failed: it may need too much memory';
        return { fault: { code: 'file/too-large', message, where: { file: name } } };
      }
    },
    close: () => pool.close(),
  };
}
