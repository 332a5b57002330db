// Everything that must hold, in one command: lint, types, Jasmine on Node.js, Karma and Playwright in headless chromium.
// Ends with one line, "N passed, N failed". Name parts to run only those: node scripts/test.mjs node web
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { findChromium } from './chromium.mjs';
import { installPackages } from './setup.mjs';

installPackages();
const { build } = await import('./build.mjs');
const { ROOT } = await import('./bundle.mjs');

const chromium = findChromium({ install: true });
const data = mkdtempSync(join(tmpdir(), 'hollow-stride-test-'));
const env = {
  ...process.env,
  CHROME_BIN: chromium,
  CHROMIUM_BIN: chromium,
  NG_CLI_ANALYTICS: 'false',
  FORCE_COLOR: '0',
  NO_COLOR: '1',
  HOLLOW_STRIDE_E2E_DATA: data,
};

/** Runs a command, its output shown and kept. */
function run(command, args, cwd = ROOT) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { cwd, env, stdio: ['ignore', 'pipe', 'pipe'] });
    let output = '';
    for (const stream of [child.stdout, child.stderr]) {
      stream.on('data', (chunk) => {
        output += chunk;
        process.stdout.write(chunk);
      });
    }
    child.on('close', (code) => resolve({ code: code ?? 1, output }));
  });
}

/** A check that either holds or not. */
async function check(command, args) {
  const { code } = await run(command, args);
  return code === 0 ? { passed: 1, failed: 0 } : { passed: 0, failed: 1 };
}

/** A count read off a runner's output; a runner that fell over counts as one failure. */
function counted({ code, output }, read) {
  const count = read(output);
  if (!count) return { passed: 0, failed: 1 };
  return code !== 0 && count.failed === 0 ? { ...count, failed: 1 } : count;
}

const PARTS = {
  lint: async () => {
    const counts = [await check('npx', ['eslint', '.']), await check('node', ['scripts/imports.mjs'])];
    return { passed: counts.filter((c) => c.passed).length, failed: counts.filter((c) => c.failed).length };
  },
  types: () => check('node', ['scripts/typecheck.mjs']),
  node: async () =>
    counted(await run('node', ['--import', 'tsx', 'node_modules/jasmine/bin/jasmine.js', '--config=jasmine.json']), (output) => {
      const found = /(\d+) specs?, (\d+) failures?/.exec(output);
      return found && { passed: Number(found[1]) - Number(found[2]), failed: Number(found[2]) };
    }),
  web: async () =>
    counted(await run('npx', ['ng', 'test', '--watch=false', '--progress=false'], join(ROOT, 'web')), (output) => {
      const all = [...output.matchAll(/Executed (\d+) of (\d+)(?: \((\d+) FAILED\))?/g)].pop();
      if (!all) return undefined;
      const failed = Number(all[3] ?? 0) + (Number(all[2]) - Number(all[1]));
      return { passed: Number(all[2]) - failed, failed };
    }),
  e2e: async () => {
    await build();
    const result = await run('npx', ['playwright', 'test'], join(ROOT, 'e2e'));
    const report = join(ROOT, 'test-results', 'e2e.json');
    return counted(result, () => {
      if (!existsSync(report)) return undefined;
      const { stats } = JSON.parse(readFileSync(report, 'utf8'));
      return { passed: stats.expected + stats.flaky, failed: stats.unexpected };
    });
  },
};

const wanted = process.argv.slice(2);
let passed = 0;
let failed = 0;
for (const [name, part] of Object.entries(PARTS)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue;
  console.log(`\n── ${name}`);
  const start = Date.now();
  const count = await part();
  passed += count.passed;
  failed += count.failed;
  console.log(`── ${name}: ${count.passed} passed, ${count.failed} failed, ${Math.round((Date.now() - start) / 1000)} s`);
}
rmSync(data, { recursive: true, force: true });
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
