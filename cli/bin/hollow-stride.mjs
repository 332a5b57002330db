#!/usr/bin/env node
// Starts the command line: builds its bundle first when the sources are newer, so that it runs from a fresh clone.
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { ensureBundle } from '../../scripts/bundle.mjs';

const cli = dirname(dirname(fileURLToPath(import.meta.url)));
const bundle = await ensureBundle('cli');
const { main } = await import(pathToFileURL(join(cli, bundle)).href);
await main(process.argv.slice(2));
