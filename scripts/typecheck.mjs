// Type checks every workspace and its tests, two at a time.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from './bundle.mjs';

const PROJECTS = [
  'web/tsconfig.spec.json',
  // All that runs on Node.js at once: each of its workspaces takes the core in as source.
  'tsconfig.node.json',
  'web/tsconfig.app.json',
  'web/tsconfig.worker.json',
  // Once more without tests, as the core has neither the DOM nor Node.js.
  'core/tsconfig.json',
  'e2e/tsconfig.json',
];
// The build checks the page, templates included, and the page's tests check themselves, with the same compiler.
const BESIDE = { '--beside-build': 'web/tsconfig.app.json', '--beside-web': 'web/tsconfig.spec.json' };
for (const [flag, project] of Object.entries(BESIDE)) if (process.argv.includes(flag)) PROJECTS.splice(PROJECTS.indexOf(project), 1);
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
