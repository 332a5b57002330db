// Finds Debian's chromium, and installs it where that is allowed.
import { existsSync } from 'node:fs';
import { installDebian } from './debian.mjs';

const PLACES = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];

export function findChromium({ install = false } = {}) {
  const named = process.env.CHROME_BIN ?? process.env.CHROMIUM_BIN;
  const found = named && existsSync(named) ? named : PLACES.find((path) => existsSync(path));
  if (found) return found;
  if (install && installDebian('chromium')) return findChromium();
  console.error('The browser tests need chromium. Install Debian\'s package "chromium", or set CHROME_BIN to one.');
  process.exit(1);
}
