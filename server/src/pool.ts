import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import type { NamingScheme } from '@hollow-stride/core';
import type { Entry } from './intake/archive';
import type { Packed, PackJob } from './runs/pack';
import { threadOf } from './threads';
import type { AnalyseResult, AssembleResult, DemoParts, Job, LabelResult, MeshResult, RecordResult } from './worker';

/** Worker threads for what would block the server. */
export interface Pool {
  analyse(path: string, name: string, signal?: AbortSignal): Promise<AnalyseResult>;
  /** Reads a recording of a face or a sound. */
  record(path: string, name: string, signal?: AbortSignal): Promise<RecordResult>;
  /** Reads a mesh that a skeleton is to be fitted to. */
  mesh(path: string, name: string, signal?: AbortSignal): Promise<MeshResult>;
  assemble(entries: readonly Entry[], strict: boolean, into: string, signal?: AbortSignal): Promise<AssembleResult>;
  label(path: string, name: string, scheme: NamingScheme): Promise<LabelResult>;
  demo(into: string): Promise<DemoParts>;
  /** Makes what a run hands over beside its files. */
  pack(job: PackJob): Promise<readonly Packed[]>;
  close(): Promise<void>;
}

/** Longest that one file may take to be read. */
const TIME_LIMIT = 60_000;

/** @param failed is told of what broke a thread that nothing is known of */
export function makePool(failed?: (error: unknown) => void): Pool {
  const pool = new Piscina<Job, unknown>({
    ...threadOf('worker', import.meta.url),
    minThreads: 1,
    maxThreads: Math.max(1, Math.min(4, availableParallelism() - 1)),
    // An idle thread ends, and with it goes the memory that large files have taken.
    idleTimeout: 10_000,
    resourceLimits: { maxOldGenerationSizeMb: 1024 },
  });
  const run = async <T>(job: Job, file: string, signal?: AbortSignal): Promise<T | { fault: AnalyseFault }> => {
    const limit = AbortSignal.timeout(TIME_LIMIT);
    try {
      return (await pool.run(job, { signal: signal ? AbortSignal.any([signal, limit]) : limit })) as T;
    } catch (error) {
      if (!signal?.aborted && !limit.aborted) failed?.(error);
      const message = signal?.aborted
        ? 'reading was ended'
        : limit.aborted
          ? `reading took more than ${TIME_LIMIT / 1000} s`
          : (error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY'
            ? 'reading failed: it needs too much memory'
            : 'reading failed in a way that nobody foresaw; the log of the server says why';
      return { fault: { code: 'file/too-large', message, where: { file } } };
    }
  };
  return {
    analyse: (path, name, signal) => run<AnalyseResult>({ kind: 'analyse', path, name }, name, signal),
    record: (path, name, signal) => run<RecordResult>({ kind: 'record', path, name }, name, signal),
    mesh: (path, name, signal) => run<MeshResult>({ kind: 'mesh', path, name }, name, signal),
    assemble: async (entries, strict, into, signal) => {
      const name = entries[0]?.path ?? '';
      const result = await run<AssembleResult>({ kind: 'assemble', entries, strict, into }, name, signal);
      return 'fault' in result ? { files: [], faults: [{ name, fault: result.fault }], ignored: [] } : result;
    },
    label: (path, name, scheme) => run<LabelResult>({ kind: 'label', path, name, scheme }, name),
    demo: async (into) => (await pool.run({ kind: 'demo', into })) as DemoParts,
    pack: async (job) => (await pool.run({ kind: 'pack', ...job })) as readonly Packed[],
    close: () => pool.close({ force: true }),
  };
}

type AnalyseFault = Extract<AnalyseResult, { fault: unknown }>['fault'];
