// Installs a package of Debian's where that is allowed: as root, where apt-get is.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';

/** @returns whether it was tried; whether it is there now shows where it lies */
export function installDebian(name) {
  if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get')) return false;
  console.log(`Installing ${name} (once) …`);
  spawnSync('sh', ['-c', `apt-get update -qq && apt-get install -y -qq --no-install-recommends ${name}`], {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  });
  return true;
}

/** PostgreSQL's programs, for the tests of several worker processes; those are left out where it cannot be installed. */
export function ensurePostgres() {
  const isThere = () => existsSync('/usr/lib/postgresql');
  if (!isThere()) installDebian('postgresql');
  if (!isThere()) {
    console.log('Without Debian\'s package "postgresql" the tests of several worker processes are left out.');
  }
}
