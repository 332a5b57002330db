import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { chownSync, existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { once } from 'node:events';

/** A PostgreSQL server of our own, for as long as a test takes. */
export interface PostgresServer {
  readonly address: string;
  /** Ends it, whoever is connected, and starts it again after so many milliseconds. */
  restart(away?: number): Promise<void>;
  stop(): Promise<void>;
}

/** Where PostgreSQL's programs lie: as the system's packages put them. Undefined where it is not installed. */
function programs(): string | undefined {
  const base = '/usr/lib/postgresql';
  const folders = existsSync(base) ? readdirSync(base).map((version) => join(base, version, 'bin')) : [];
  return folders.find((folder) => existsSync(join(folder, 'initdb')));
}

/** Starts a PostgreSQL server on a free port of the loopback address; undefined where none is installed. */
export async function startPostgres(): Promise<PostgresServer | undefined> {
  const bin = programs();
  if (bin === undefined) return undefined;
  const folder = mkdtempSync(join(tmpdir(), 'hollow-stride-pg-'));
  // PostgreSQL does not run as root.
  const isRoot = process.getuid?.() === 0;
  const user = isRoot ? idOf('postgres') : undefined;
  if (isRoot && !user) return undefined;
  if (user) chownSync(folder, user.uid, user.gid);
  const data = join(folder, 'data');
  const made = spawnSync(join(bin, 'initdb'), ['-D', data, '-U', 'wright', '-A', 'trust', '-N', '--no-locale', '-E', 'UTF8'], user ?? {});
  if (made.status !== 0) throw new Error(`initdb failed: ${made.stderr.toString()}`);
  const port = await freePort();
  const args = ['-D', data, '-p', String(port), '-c', 'listen_addresses=127.0.0.1', '-c', `unix_socket_directories=${folder}`];
  let server = await launch();
  return {
    address: `postgres://wright@127.0.0.1:${port}/postgres`,
    restart: async (away = 0) => {
      await end();
      if (away > 0) await new Promise((resolve) => setTimeout(resolve, away));
      server = await launch();
    },
    stop: async () => {
      await end();
      rmSync(folder, { recursive: true });
    },
  };

  async function launch(): Promise<ChildProcess> {
    const child = spawn(join(bin!, 'postgres'), args, { ...user, stdio: ['ignore', 'ignore', 'pipe'] });
    await new Promise<void>((resolve, reject) => {
      let said = '';
      child.stderr.on('data', (chunk: Buffer) => {
        said += chunk.toString();
        if (said.includes('ready to accept connections')) resolve();
      });
      child.on('exit', () => reject(new Error(`PostgreSQL did not start: ${said}`)));
    });
    return child;
  }

  /** At once, whoever is connected. */
  async function end(): Promise<void> {
    const ended = once(server, 'exit');
    server.kill('SIGINT');
    await ended;
  }
}

function idOf(name: string): { uid: number; gid: number } | undefined {
  const [uid, gid] = ['-u', '-g'].map((flag) => Number(spawnSync('id', [flag, name]).stdout?.toString()));
  return uid > 0 ? { uid, gid } : undefined;
}

async function freePort(): Promise<number> {
  const probe = createServer();
  await new Promise<void>((resolve) => probe.listen(0, '127.0.0.1', resolve));
  const { port } = probe.address() as AddressInfo;
  await new Promise((resolve) => probe.close(resolve));
  return port;
}
