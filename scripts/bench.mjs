// Bundles and runs the bench, so that it measures what ships.
import { join } from 'node:path';
import { installPackages, run } from './setup.mjs';

installPackages();
const { ROOT } = await import('./bundle.mjs');
const { build } = await import('esbuild');
const outfile = join(ROOT, '.cache', 'bench.mjs');
await build({
  absWorkingDir: ROOT,
  entryPoints: ['demo/bench/bench.ts'],
  outfile,
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  external: ['@gltf-transform/core', 'valibot'],
  logLevel: 'warning',
});
process.exit(run(process.execPath, ['--expose-gc', outfile, ...process.argv.slice(2)]));
