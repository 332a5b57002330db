/**
 * Runs the labelling study and writes its table: npm run labelling
 */
import { writeFile } from 'node:fs/promises';
import { BODY_KINDS, labellingStudy, type Score } from '@hollow-stride/core/testing/labelling';
import { NAMINGS } from '@hollow-stride/core/testing/namings';

const SIZE = { named: 4, nameless: 60 };

const share = ({ right, all }: Score): string => `${right === all ? '100' : ((100 * right) / all).toFixed(2)} %`;
const study = labellingStudy(SIZE);
const total = (scores: readonly Score[]): Score => ({
  right: scores.reduce((n, s) => n + s.right, 0),
  all: scores.reduce((n, s) => n + s.all, 0),
  wrong: [...new Set(scores.flatMap((s) => s.wrong))],
});
const named = total(study.namings.map(({ score }) => score));
const nameless = total(study.bodies.map((body) => body.scrambled));
const unknown = total(study.bodies.map((body) => body.unknown));

const lines = [
  '# Automatic labels, measured',
  '',
  `Written by \`npm run labelling\`: ${NAMINGS.length} ways of naming and ${BODY_KINDS.length} kinds of body, all of our own making, with random`,
  'lengths, joint axes, units and up axes. Counted are the 14 roles that a transfer needs; right is the joint that the body was',
  'made with for the role, and no other.',
  '',
  `- With names: ${named.right} of ${named.all} right (${share(named)}), each way of naming over each kind of body, ${SIZE.named} bodies of each.`,
  `- Names scrambled, from structure alone: ${nameless.right} of ${nameless.all} right (${share(nameless)}), ${SIZE.nameless} bodies of each kind.`,
  `- Names of no language: ${unknown.right} of ${unknown.all} right (${share(unknown)}), on the same bodies.`,
  `- Wrong without names: ${nameless.wrong.join(', ') || 'nothing'}.`,
  '',
  '| way of naming | upper arm left | second finger joint | second spine joint | right |',
  '| --- | --- | --- | --- | ---: |',
  ...study.namings.map(({ naming, score }) => {
    const names = ['left.upperArm', 'left.index.2', 'spine.2'].map((role) => `\`${naming.name(role)}\``);
    return `| ${naming.title} | ${names.join(' | ')} | ${share(score)} |`;
  }),
  '',
  '| kind of body | with names | scrambled | names of no language |',
  '| --- | ---: | ---: | ---: |',
  ...study.bodies.map((body) => `| ${body.kind.title} | ${share(body.named)} | ${share(body.scrambled)} | ${share(body.unknown)} |`),
  '',
];
await writeFile(new URL('../../docs/labelling.md', import.meta.url), lines.join('\n'));
process.stdout.write(`${lines.slice(2, 11).join('\n')}\n`);
