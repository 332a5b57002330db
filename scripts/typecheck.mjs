// Type checks every workspace and its tests.
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './bundle.mjs';
import { run } from './setup.mjs';

const projects = ['core', 'contract', 'demo', 'server', 'cli'].flatMap((w) => [`${w}/tsconfig.json`, `${w}/tsconfig.spec.json`]);
projects.push('web/tsconfig.app.json', 'web/tsconfig.worker.json', 'web/tsconfig.spec.json', 'e2e/tsconfig.json');
let failed = 0;
for (const project of projects) {
  if (existsSync(join(ROOT, project)) && run('npx', ['tsc', '-p', project]) !== 0) failed++;
}
process.exit(failed === 0 ? 0 : 1);
