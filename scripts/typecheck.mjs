// Type checks every workspace and its tests, two at a time.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from './bundle.mjs';

const PROJECTS = [
  'web/tsconfig.spec.json',
  'web/tsconfig.app.json',
  'web/tsconfig.worker.json',
  'server/tsconfig.spec.json',
  'demo/tsconfig.spec.json',
  'cli/tsconfig.spec.json',
  'contract/tsconfig.spec.json',
  'core/tsconfig.spec.json',
  // Once more without tests, as the core has no DOM.
  'core/tsconfig.json',
  'e2e/tsconfig.json',
];
// The build checks the page, templates included, with the same compiler.
if (process.argv.includes('--beside-build')) PROJECTS.splice(PROJECTS.indexOf('web/tsconfig.app.json'), 1);
const TSC = join(ROOT, 'node_modules', 'typescript', 'bin', 'tsc');

let failed = 0;
const next = async () => {
  for (let project = PROJECTS.shift(); project !== undefined; project = PROJECTS.shift()) {
    const code = await new Promise((resolve) => {
      spawn(process.execPath, [TSC, '-p', project, '--noEmit'], { cwd: ROOT, stdio: 'inherit' }).on('close', resolve);
    });
    if (code !== 0) {
      console.error(`${project} does not type check`);
      failed++;
    }
  }
};
await Promise.all([next(), next()]);
process.exit(failed === 0 ? 0 : 1);
