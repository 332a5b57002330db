import { run } from './main';
import { removeUnfinished } from './save';

/** Exit code of a program that a signal ended: 128 and the signal's number. */
const SIGNALS = { SIGINT: 130, SIGTERM: 143, SIGHUP: 129 } as const;

/** The command line as a program of its own: ends with an exit code, leaves no half-written file, and takes a broken pipe quietly. */
export async function main(args: readonly string[]): Promise<void> {
  for (const [signal, code] of Object.entries(SIGNALS)) {
    process.on(signal, () => {
      removeUnfinished();
      process.exit(code);
    });
  }
  process.stdout.on('error', (error: NodeJS.ErrnoException) => {
    removeUnfinished();
    // Who read has read enough, as `head` does.
    if (error.code === 'EPIPE') process.exit(0);
    process.stderr.write(`hollow-stride: the output cannot be written: ${error.code === 'ENOSPC' ? 'the disk is full' : error.message}\n`);
    process.exit(1);
  });
  process.stderr.on('error', () => process.exit(1));
  process.exitCode = await run(args);
}
