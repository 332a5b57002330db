// Checks how files lean on each other: core's folders only on those before them and only through their index, and no file on
// itself through others, types included (which the linter's own rule leaves out).
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import ts from 'typescript';
import { ROOT } from './bundle.mjs';

/** Folders of core, each of which may lean on those before it. */
const ORDER = [
  'errors',
  'version',
  'text',
  'math',
  'skeleton',
  'clip',
  'formats',
  'label',
  'recipe',
  'rig',
  'take',
  'contact',
  'joints',
  'match',
  'touchup',
  'solve',
  'mend',
  'reel',
  'face',
  'fit',
  'live',
  'judge',
  'sheet',
  'output',
  'job',
  'index',
  'testing',
];
/** What the judge may not know. */
const APART = { judge: ['contact', 'joints', 'match', 'touchup', 'solve', 'mend', 'reel', 'face', 'fit', 'live'] };
const WORKSPACES = ['core', 'contract', 'demo', 'server', 'cli', 'web', 'e2e'];
const CORE = join(ROOT, 'core', 'src');

const files = WORKSPACES.flatMap((workspace) => sources(join(ROOT, workspace)));
const imports = new Map(files.map((file) => [file, importsOf(file)]));
const faults = [...circles(), ...[...imports].flatMap(([file, targets]) => targets.flatMap((target) => coreFaults(file, target)))];
for (const fault of faults) console.error(fault);
process.exit(faults.length === 0 ? 0 : 1);

function sources(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) return ['node_modules', 'dist', 'migrations'].includes(entry.name) ? [] : sources(path);
    return entry.name.endsWith('.ts') && !entry.name.endsWith('.d.ts') ? [path] : [];
  });
}

/** The files of ours that a file imports, by value or by type. */
function importsOf(file) {
  return ts.preProcessFile(readFileSync(file, 'utf8'), true, true).importedFiles.flatMap(({ fileName }) => {
    if (!fileName.startsWith('.')) return [];
    const base = resolve(dirname(file), fileName);
    const found = [`${base}.ts`, join(base, 'index.ts'), base].find((path) => existsSync(path) && statSync(path).isFile());
    return found ? [found] : [];
  });
}

/** Each circle once, as the files on it. */
function circles() {
  const found = [];
  const done = new Set();
  const walk = (file, path) => {
    const at = path.indexOf(file);
    if (at >= 0) found.push(`a circle: ${[...path.slice(at), file].map(name).join(' → ')}`);
    if (at >= 0 || done.has(file)) return;
    for (const target of imports.get(file) ?? []) walk(target, [...path, file]);
    done.add(file);
  };
  for (const file of files) walk(file, []);
  return found;
}

function coreFaults(file, target) {
  if (!file.startsWith(CORE) || !target.startsWith(CORE)) return [];
  const [from, to] = [folderOf(file), folderOf(target)];
  if (from === to) return [];
  const isTest = file.endsWith('.spec.ts') || from === 'testing';
  const found = [];
  const isFace = relative(CORE, target).split('/').length <= 2 && (to === 'math' || /(^|\/)(index|errors|text|version)\.ts$/.test(target));
  if (!isFace) found.push(`${name(file)} reaches past the index of core's ${to}, to ${name(target)}`);
  if (!isTest && ORDER.indexOf(to) > ORDER.indexOf(from)) found.push(`${name(file)}: core's ${from} does not lean on ${to}`);
  if (!isTest && APART[from]?.includes(to)) found.push(`${name(file)}: core's ${from} knows nothing of ${to}`);
  return found;
}

function folderOf(file) {
  return relative(CORE, file).split('/')[0].replace(/\.ts$/, '');
}

function name(file) {
  return relative(ROOT, file);
}
