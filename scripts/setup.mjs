// Installs packages when the lock file is newer than what is installed. Needs nothing but Node.js and npm.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const ROOT = dirname(dirname(fileURLToPath(import.meta.url)));

/** Runs a command, its output passed through; returns the exit code. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: ROOT, stdio: 'inherit', ...options });
  if (result.error) throw result.error;
  return result.status ?? 1;
}

export function installPackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Hollow Stride needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
    process.exit(1);
  }
  const lock = join(ROOT, 'package-lock.json');
  const hash = createHash('sha256').update(readFileSync(lock)).digest('hex');
  const stamp = join(ROOT, 'node_modules', '.installed');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === hash) return;
  console.log('Installing packages (once, a few minutes) …');
  if (run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']) !== 0) {
    console.error('Installing the packages failed; see above.');
    process.exit(1);
  }
  writeFileSync(stamp, hash);
}
