// Bundles server and cli with esbuild: one ES module a program, packages left outside, sources of the workspaces inside. And the empty database.
import { existsSync, mkdirSync, readdirSync, statSync, writeFileSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { run } from './setup.mjs';

export const ROOT = dirname(dirname(fileURLToPath(import.meta.url)));

const BUNDLES = {
  cli: { entries: ['src/program.ts'], main: 'dist/program.js', from: ['core', 'cli'] },
  server: {
    main: 'dist/main.js',
    entries: ['src/main.ts', 'src/worker.ts', 'src/itemWorker.ts', 'src/workMain.ts', 'src/makeDemo.ts', 'src/initMain.ts'],
    from: ['core', 'contract', 'demo', 'server'],
  },
};

/** Newest modification time below a folder, of sources only. */
export function newest(folder) {
  let time = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === 'node_modules' || entry.name === 'dist' || entry.name.startsWith('.')) continue;
    const path = join(folder, entry.name);
    time = Math.max(time, entry.isDirectory() ? newest(path) : statSync(path).mtimeMs);
  }
  return time;
}

/** Bundles a workspace when its sources are newer than its bundle. Returns the main file's path within it. */
export async function ensureBundle(name) {
  const { entries, main, from } = BUNDLES[name];
  const folder = join(ROOT, name);
  const stamp = join(folder, 'dist', '.stamp');
  const sources = Math.max(...from.map((workspace) => newest(join(ROOT, workspace))));
  if (existsSync(stamp) && Number(readFileSync(stamp, 'utf8')) >= sources) return main;
  const { build } = await import('esbuild');
  const own = JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8'));
  const packages = new Set(Object.keys(own.dependencies));
  for (const workspace of from) {
    const { dependencies = {} } = JSON.parse(readFileSync(join(ROOT, workspace, 'package.json'), 'utf8'));
    Object.keys(dependencies).forEach((dependency) => packages.add(dependency));
  }
  await build({
    absWorkingDir: folder,
    entryPoints: entries,
    outdir: 'dist',
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    splitting: true,
    sourcemap: true,
    external: [...packages].filter((dependency) => !dependency.startsWith('@hollow-stride/')),
    banner: { js: "import { createRequire as __createRequire } from 'node:module'; const require = __createRequire(import.meta.url);" },
    logLevel: 'warning',
  });
  mkdirSync(join(folder, 'dist'), { recursive: true });
  writeFileSync(stamp, String(sources));
  return main;
}

/** Makes the empty database that the server's new ones are copies of, where there is none of this version: with the server's bundle. */
export function ensureDatabase() {
  const { version } = JSON.parse(readFileSync(join(ROOT, 'node_modules', '@electric-sql', 'pglite', 'package.json'), 'utf8'));
  const folder = join(ROOT, 'server', 'dist', 'database');
  const stamp = `${folder}.version`;
  if (existsSync(folder) && existsSync(stamp) && readFileSync(stamp, 'utf8') === version) return;
  console.log('Making an empty database …');
  if (run('node', [join(ROOT, 'server', 'dist', 'initMain.js')]) !== 0) {
    console.error('Making an empty database failed; see above.');
    process.exit(1);
  }
  writeFileSync(stamp, version);
}
