// Builds what has changed: the server's bundle, the command line's, and the web application.
import { copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { installPackages, run } from './setup.mjs';

installPackages();
const { ensureBundle, ensureDatabase, newest, ROOT } = await import('./bundle.mjs');

const DECODERS = {
  'three/examples/jsm/libs/draco/gltf': ['draco_decoder.js', 'draco_decoder.wasm', 'draco_wasm_wrapper.js'],
  draco3dgltf: ['draco_decoder_gltf.wasm'],
};

export async function build() {
  await ensureBundle('server');
  ensureDatabase();
  await ensureBundle('cli');
  const stamp = join(ROOT, 'web', 'dist', '.stamp');
  const sources = Math.max(...['core', 'contract', 'web'].map((workspace) => newest(join(ROOT, workspace))));
  if (existsSync(stamp) && Number(readFileSync(stamp, 'utf8')) >= sources) return;
  console.log('Building the web application …');
  if (
    run('npx', ['ng', 'build', '--progress=false'], { cwd: join(ROOT, 'web'), env: { ...process.env, NG_CLI_ANALYTICS: 'false' } }) !== 0
  ) {
    console.error('Building the web application failed; see above.');
    process.exit(1);
  }
  // Decoders of packed meshes are programs of their own, fetched by the page when it meets such a mesh.
  const draco = join(ROOT, 'web', 'dist', 'browser', 'draco');
  mkdirSync(draco, { recursive: true });
  for (const [folder, names] of Object.entries(DECODERS)) {
    for (const name of names) copyFileSync(join(ROOT, 'node_modules', folder, name), join(draco, name));
  }
  writeFileSync(stamp, String(sources));
}

if (import.meta.url === `file://${process.argv[1]}`) await build();
