// Everything that must hold, in one command: lint, types, Jasmine on Node.js, Karma and Playwright in headless chromium.
// Ends with one line, "N passed, N failed". Name parts to run only those: node scripts/test.mjs core web
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { findChromium } from './chromium.mjs';
import { ensurePostgres } from './debian.mjs';
import { installPackages } from './setup.mjs';

installPackages();
const { ensureBundle, ensureDatabase, ROOT } = await import('./bundle.mjs');

const chromium = findChromium({ install: true });
ensurePostgres();
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

/** Of a runner's counting line only the last is worth reading. */
const PROGRESS = /^.*Executed \d+ of \d+ SUCCESS.*\n(?=.*Executed )/gm;

/** Runs a command; its output is kept and shown when the command has ended, as others run beside it. */
function run(command, args, cwd = ROOT) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { cwd, env, stdio: ['ignore', 'pipe', 'pipe'] });
    let output = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => (output += chunk));
    child.on('close', (code) => resolve({ code: code ?? 1, output: output.replace(PROGRESS, '') }));
  });
}

/** A check that either holds or not. */
async function check(command, args) {
  const { code, output } = await run(command, args);
  return code === 0 ? { passed: 1, failed: 0, output } : { passed: 0, failed: 1, output };
}

/** A count read off a runner's output; a runner that fell over counts as one failure. */
function counted({ code, output }, read) {
  const count = { ...(read(output) ?? { passed: 0, failed: 1 }), output };
  return code !== 0 && count.failed === 0 ? { ...count, failed: 1 } : count;
}

/** The specs of some workspaces on Node.js. */
async function jasmine(...workspaces) {
  const specs = workspaces.map((name) => `${name}/src/**/*.spec.ts`);
  return counted(
    await run('node', ['--import', 'tsx', 'node_modules/jasmine/bin/jasmine.js', '--config=jasmine.json', ...specs]),
    (output) => {
      const found = /(\d+) specs?, (\d+) failures?/.exec(output);
      return found && { passed: Number(found[1]) - Number(found[2]), failed: Number(found[2]) };
    },
  );
}

const PARTS = {
  lint: async () => {
    const [style, imports] = [await check('npx', ['eslint', '.']), await check('node', ['scripts/imports.mjs'])];
    return { passed: style.passed + imports.passed, failed: style.failed + imports.failed, output: style.output + imports.output };
  },
  types: () =>
    check('node', ['scripts/typecheck.mjs', ...['build', 'web'].filter((part) => wanted.has(part)).map((part) => `--beside-${part}`)]),
  core: () => jasmine('core'),
  demo: () => jasmine('demo', 'contract'),
  server: () => jasmine('server', 'cli'),
  web: async () =>
    counted(await run('npx', ['ng', 'test', '--watch=false', '--progress=false'], join(ROOT, 'web')), (output) => {
      const all = [...output.matchAll(/Executed (\d+) of (\d+)(?: \((\d+) FAILED\))?/g)].pop();
      if (!all) return undefined;
      const failed = Number(all[3] ?? 0) + (Number(all[2]) - Number(all[1]));
      return { passed: Number(all[2]) - failed, failed };
    }),
  build: async () => {
    const { code, output } = await run('node', ['scripts/build.mjs']);
    return { passed: 0, failed: code === 0 ? 0 : 1, output };
  },
  e2e: async () => {
    const result = await run('npx', ['playwright', 'test'], join(ROOT, 'e2e'));
    const report = join(ROOT, 'test-results', 'e2e.json');
    return counted(result, () => {
      if (!existsSync(report)) return undefined;
      const { stats } = JSON.parse(readFileSync(report, 'utf8'));
      return { passed: stats.expected + stats.flaky, failed: stats.unexpected };
    });
  },
};

/**
 * Three parts at a time, the longest first, so that none is left to run alone at the end: one for each of two cores, and one more, as the server
 * waits for half of its time for programs to start and to be killed. The real application runs alone, when all is built.
 */
const ROUNDS = [['web', 'server', 'core', 'demo', 'types', 'build', 'lint'], ['e2e']];
const AT_A_TIME = 3;

const asked = process.argv.slice(2);
const wanted = new Set(asked.length > 0 ? asked : Object.keys(PARTS));
if (wanted.has('e2e')) wanted.add('build');
let passed = 0;
let failed = 0;
/** Outputs of the parts that failed, cut to what tells why. */
const failures = [];

/** The end of an output from its list of failures on; its last lines where there is no such list. */
function reasonIn(output) {
  const from = Math.max(output.lastIndexOf('\nFailures:'), output.search(/\n.* FAILED\n/), output.search(/\n {2}1\) /));
  const lines = (from < 0 ? output : output.slice(from)).trim().split('\n');
  return (from < 0 ? lines.slice(-40) : lines.slice(0, 60)).map((line) => line.slice(0, 300)).join('\n');
}

async function runPart(name) {
  const start = Date.now();
  const count = await PARTS[name]();
  passed += count.passed;
  failed += count.failed;
  if (count.failed > 0) failures.push(`\n── ${name}: why it failed\n${reasonIn(count.output)}`);
  console.log(`\n── ${name}\n${count.output}`);
  console.log(`── ${name}: ${count.passed} passed, ${count.failed} failed, ${Math.round((Date.now() - start) / 1000)} s`);
}

/** Takes parts off a list one after the other, until it is empty. */
async function runFrom(names) {
  for (let name = names.shift(); name !== undefined; name = names.shift()) await runPart(name);
}

// Tests of server and command line start these; made once, before parts run side by side.
for (const bundle of ['server', 'cli']) await ensureBundle(bundle);
ensureDatabase();
for (const round of ROUNDS) {
  const names = round.filter((name) => wanted.has(name));
  await Promise.all(Array.from({ length: AT_A_TIME }, () => runFrom(names)));
}
rmSync(data, { recursive: true, force: true });
for (const failure of failures) console.log(failure);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
