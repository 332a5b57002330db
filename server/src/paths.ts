import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The server workspace's folder, from the sources and from the bundle alike. */
export function serverFolder(): string {
  let folder = dirname(fileURLToPath(import.meta.url));
  while (!existsSync(join(folder, 'package.json'))) folder = dirname(folder);
  return folder;
}

/** The empty embedded database that the build makes; new ones are copies of it. */
export const emptyDatabase = (): string => join(serverFolder(), 'dist', 'database');
export const migrationsFolder = (): string => join(serverFolder(), 'migrations');
export const webFolder = (): string => join(dirname(serverFolder()), 'web', 'dist', 'browser');
