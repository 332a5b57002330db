// Finds Debian's chromium, and installs it where that is allowed.
import { existsSync } from 'node:fs';
import { spawnSync } from 'node:child_process';

const PLACES = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];

export function findChromium({ install = false } = {}) {
  const named = process.env.CHROME_BIN ?? process.env.CHROMIUM_BIN;
  const found = named && existsSync(named) ? named : PLACES.find((path) => existsSync(path));
  if (found) return found;
  if (install && process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    console.log('Installing chromium (once) …');
    spawnSync('sh', ['-c', 'apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium'], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
    return findChromium();
  }
  console.error('The browser tests need chromium. Install Debian\'s package "chromium", or set CHROME_BIN to one.');
  process.exit(1);
}
