import { readConfig } from './config';
import { startServer } from './start';

// From the very beginning: a first start takes a while, and may be ended on its way.
const ending = new AbortController();
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => ending.abort());

// Threads do not keep a process going: without this it could run out of work in the middle of ending.
setInterval(() => undefined, 60_000);

try {
  const running = await startServer(readConfig(process.env), ending.signal);
  process.stdout.write(`\nHollow Stride is at ${running.address}\nStop it with Ctrl+C.\n\n`);
  if (!ending.signal.aborted) await new Promise((resolve) => ending.signal.addEventListener('abort', resolve, { once: true }));
  try {
    await running.stop();
    process.exit(0);
  } catch (error) {
    running.log.error({ err: error }, 'stopping failed');
    process.exit(1);
  }
} catch (error) {
  if (ending.signal.aborted) process.exit(0);
  const taken = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
  const message = taken ? 'the port is taken; set HOLLOW_STRIDE_PORT to another' : error instanceof Error ? error.message : String(error);
  process.stderr.write(`Hollow Stride cannot start: ${message}\n`);
  process.exit(1);
}
