import { dirname, join, resolve } from 'node:path';
import { serverFolder } from './paths';

/** How the server is set up; each by an environment variable. */
export interface Config {
  /** HOLLOW_STRIDE_PORT, 4747 by default; 0 takes any free port. */
  readonly port: number;
  /** HOLLOW_STRIDE_DATA, `.data` in the project by default. */
  readonly data: string;
  /** HOLLOW_STRIDE_LOG: level of the log, `info` by default. */
  readonly logLevel: string;
  /** HOLLOW_STRIDE_DEPOT_LATENCY: milliseconds that the simulated motion depot takes to answer, 250 by default. */
  readonly depotLatency: number;
}

export function readConfig(env: NodeJS.ProcessEnv): Config {
  const port = Number(env['HOLLOW_STRIDE_PORT'] ?? 4747);
  if (!Number.isInteger(port) || port < 0 || port > 65535) {
    throw new Error(`HOLLOW_STRIDE_PORT must be a port number, not "${env['HOLLOW_STRIDE_PORT']}"`);
  }
  const depotLatency = Number(env['HOLLOW_STRIDE_DEPOT_LATENCY'] ?? 250);
  if (!(depotLatency >= 0 && depotLatency <= 60_000)) throw new Error('HOLLOW_STRIDE_DEPOT_LATENCY must be milliseconds from 0 to 60000');
  return {
    port,
    data: resolve(env['HOLLOW_STRIDE_DATA'] ?? join(dirname(serverFolder()), '.data')),
    logLevel: env['HOLLOW_STRIDE_LOG'] ?? 'info',
    depotLatency,
  };
}
