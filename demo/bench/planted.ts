/**
 * Plants faults in good transfers, one at a time, and lists which figures of the judge tell of each, as a Markdown table.
 *
 *   npm run planted                 prints the table
 *   npm run planted -- --write      writes docs/planted.md
 */
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { judge, LIMITS, valueText, type Figure } from '@hollow-stride/core';
import { PLANTED } from '../src/planted/faults';
import { makeScene, type Scene } from '../src/planted/scene';

const CHARACTERS = ['lantern-bearer', 'bellkeeper'];
const lines: string[] = [];
const scenes = new Map<string, Scene>();
for (const { name, take, figure, plant } of PLANTED) {
  for (const character of CHARACTERS) {
    const key = `${take} ${character}`;
    const scene = scenes.get(key) ?? (await makeScene(take, character));
    scenes.set(key, scene);
    const { given, from, to } = plant(scene);
    const { figures, frameTime } = judge(given);
    const before = new Map(scene.verdict.figures.map((one) => [one.id, one]));
    const faults = figures.filter((one) => one.mark === 'fault' && before.get(one.id)!.mark !== 'fault');
    const meant = figures.find((one) => one.id === figure)!;
    const text = (one: Figure): string => valueText(one);
    const isInPlace = from === undefined || to === undefined || meant.frame === undefined || (meant.frame >= from && meant.frame <= to);
    const where = from === undefined ? 'everywhere' : `${(from * frameTime).toFixed(1)} to ${(to! * frameTime).toFixed(1)} s`;
    lines.push(
      `| ${[
        name,
        `${take}, ${character}`,
        where,
        LIMITS[figure].name,
        text(before.get(figure)!),
        `${text(meant)}${meant.mark === 'fault' ? '' : ' (missed)'}${isInPlace ? '' : ` (at ${((meant.frame ?? 0) * frameTime).toFixed(1)} s)`}`,
        faults
          .filter(({ id }) => id !== figure)
          .map((one) => one.name)
          .join(', '),
      ].join(' | ')} |`,
    );
  }
}
const untouched = [...scenes].map(([key, { verdict }]) => {
  const marked = (mark: Figure['mark']): string =>
    verdict.figures
      .filter((one) => one.mark === mark)
      .map((one) => `${one.name} ${valueText(one)}`)
      .join(', ') || '–';
  return `| ${key.replace(' ', ', ')} | ${marked('fault')} | ${marked('caution')} |`;
});
const page = `# Planted faults

Written by \`npm run planted -- --write\`: each fault is planted by hand in a good transfer, and the judge must tell of it by name and
at its place. The last column lists other figures that became faults with it.

| fault | transfer | planted | figure | untouched | planted value | other faults |
| --- | --- | --- | --- | --- | --- | --- |
${lines.join('\n')}

The transfers as they are:

| transfer | faults | cautions |
| --- | --- | --- |
${untouched.join('\n')}
`;
if (process.argv.includes('--write')) await writeFile(join(import.meta.dirname, '../../docs/planted.md'), page);
else process.stdout.write(page);
