import { readConfig } from './config';
import { startServer } from './start';

try {
  const running = await startServer(readConfig(process.env));
  process.stdout.write(`\nHollow Stride is at ${running.address}\nStop it with Ctrl+C.\n\n`);
  let stopping = false;
  for (const signal of ['SIGINT', 'SIGTERM'] as const) {
    process.on(signal, () => {
      if (stopping) return;
      stopping = true;
      running.stop().then(
        () => process.exit(0),
        (error: unknown) => {
          running.log.error({ err: error }, 'stopping failed');
          process.exit(1);
        },
      );
    });
  }
} catch (error) {
  const taken = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
  const message = taken ? 'the port is taken; set HOLLOW_STRIDE_PORT to another' : error instanceof Error ? error.message : String(error);
  process.stderr.write(`Hollow Stride cannot start: ${message}\n`);
  process.exit(1);
}
