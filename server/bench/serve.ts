import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const ROOT = join(fileURLToPath(new URL('.', import.meta.url)), '..', '..');
const { scripts } = JSON.parse(readFileSync(join(ROOT, 'package.json'), 'utf8')) as { scripts: { start: string } };
/** What `npm start` gives Node.js. */
const AS_STARTED = scripts.start.match(/--\S+/g) ?? [];

/** The built server as a process of its own, on a data folder. */
export class Program {
  private constructor(
    readonly child: ChildProcess,
    readonly base: string,
    /** Milliseconds from its start to its address. */
    readonly took: number,
  ) {}

  /** @param core the only one that the process and all its threads may use; undefined for all (needs taskset of util-linux) */
  static async start(data: string, env: NodeJS.ProcessEnv = {}, core?: number): Promise<Program> {
    const began = performance.now();
    const [command, ...args] = [...(core === undefined ? [] : ['taskset', '-c', String(core)]), process.execPath, ...AS_STARTED];
    const child = spawn(command, [...args, join(ROOT, 'server/dist/main.js')], {
      env: {
        ...process.env,
        HOLLOW_STRIDE_PORT: '0',
        HOLLOW_STRIDE_DATA: data,
        HOLLOW_STRIDE_LOG: 'error',
        HOLLOW_STRIDE_DEMO: 'no',
        ...env,
      },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let said = '';
    for await (const chunk of child.stdout!) {
      said += String(chunk);
      const found = /http:\/\/localhost:\d+/.exec(said);
      if (found) return new Program(child, found[0], performance.now() - began);
    }
    throw new Error(`the server did not start: ${said}`);
  }

  async kill(signal: NodeJS.Signals = 'SIGKILL'): Promise<void> {
    const ended = once(this.child, 'exit');
    this.child.kill(signal);
    await ended;
  }

  /** Seconds that all threads of the process have worked, garbage collection and compilation included. */
  worked(): number {
    // Behind the name, which may hold anything, stand user and system time as the 12th and 13th number, in hundredths.
    const fields = readFileSync(`/proc/${this.child.pid}/stat`, 'utf8').split(') ')[1].split(' ');
    return (Number(fields[11]) + Number(fields[12])) / 100;
  }

  /** Counts the most memory from now on. */
  resetPeak(): void {
    writeFileSync(`/proc/${this.child.pid}/clear_refs`, '5');
  }

  /** Most memory that the process has held, MB. */
  peak(): number {
    return Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${this.child.pid}/status`, 'utf8'))?.[1]) / 1024;
  }

  async post(name: string, content: Uint8Array | string): Promise<{ error?: { message: string }; takes: { id: string }[] }[]> {
    const form = new FormData();
    form.append('file', new Blob([content as Uint8Array<ArrayBuffer>]), name);
    const response = await fetch(`${this.base}/api/files`, { method: 'POST', body: form });
    return ((await response.json()) as { files: { error?: { message: string }; takes: { id: string }[] }[] }).files;
  }
}

/** How long /api/health takes to answer while something else goes on. */
export class Answers {
  private readonly took: number[] = [];

  /** @param at how to ask: where the server is may change between two questions */
  constructor(private readonly at: () => string) {}

  /** Asks every few milliseconds until the work is done; what is not answered, because the server was ended, does not count. */
  async during<T>(work: Promise<T>): Promise<T> {
    let busy = true;
    const done = work.finally(() => (busy = false));
    while (busy) {
      const start = performance.now();
      const answered = await fetch(`${this.at()}/api/health`).then(
        async (answer) => !!(await answer.text()),
        () => false,
      );
      if (answered) this.took.push(performance.now() - start);
      await new Promise((resolve) => setTimeout(resolve, 5));
    }
    return done;
  }

  toString(): string {
    const sorted = [...this.took].sort((a, b) => a - b);
    const at = (share: number): string => (sorted[Math.ceil(share * sorted.length) - 1] ?? NaN).toFixed(0);
    return `/api/health in ms: half under ${at(0.5)}, p99 ${at(0.99)}, longest ${at(1)} of ${sorted.length}`;
  }
}

/** Random numbers from a seed (mulberry32). */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

export const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1];
export const print = (text: string): void => void process.stdout.write(`${text}\n`);
