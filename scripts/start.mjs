// From a fresh clone to the running application: installs, builds, then becomes the server.
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from './build.mjs';
import { ROOT } from './bundle.mjs';

await build();
await import(pathToFileURL(join(ROOT, 'server', 'dist', 'main.js')).href);
