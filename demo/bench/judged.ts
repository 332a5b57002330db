/**
 * Judges every take of the demo production and of the motion depot on every character, worst first, as a Markdown table.
 *
 *   npm run judged                 prints the table
 *   npm run judged -- --write      writes docs/judged.md
 */
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { JobMemory, LIMITS, readMotionFile, solveJob, type Figure, type FigureId, type MotionFile } from '@hollow-stride/core';
import { asTaken, depotMotions } from '../src/depot';
import { makeDemo } from '../src/index';
import { jobWith } from './things';

/** The figures that a column is kept for. */
const SHOWN: readonly FigureId[] = [
  'held.feet',
  'held.hands',
  'meet',
  'touch',
  'inside',
  'slide',
  'sink',
  'float',
  'knees',
  'elbows',
  'hips',
  'wrists',
  'jumps',
  'likeness.legs',
  'likeness.hands',
  'moment.arms',
  'energy.upper',
  'places.feet',
  'places.hands',
  'grip',
  'crossing',
  'pull',
];
const MARKS = { fault: '✗', caution: '!', good: '', unseen: '' } as const;

interface Row {
  readonly take: string;
  readonly character: string;
  readonly figures: readonly Figure[];
  readonly plain: readonly Figure[];
}

async function judgeAll(): Promise<Row[]> {
  const files = await Promise.all((await makeDemo()).map(({ name, bytes }) => readMotionFile(bytes, name)));
  const takes: { file: MotionFile; thing?: string }[] = files.filter(({ name }) => name.endsWith('.bvh')).map((file) => ({ file }));
  for (const motion of depotMotions()) {
    const { name, bytes } = await motion.file({ travel: 'travelling', body: 'motion', ...asTaken(motion.id) });
    takes.push({ file: await readMotionFile(bytes, name), thing: motion.thing });
  }
  const rows: Row[] = [];
  for (const character of files.filter(({ name }) => name.endsWith('.glb'))) {
    const memory = new JobMemory();
    for (const { file: take, thing } of takes) {
      const { report } = solveJob(jobWith(thing, take, character), memory);
      rows.push({ take: take.name, character: character.name, figures: report.verdict.figures, plain: report.plain!.figures });
    }
  }
  return rows;
}

const countOf = (row: Row, mark: Figure['mark']): number => row.figures.filter((figure) => figure.mark === mark).length;
const figureOf = (figures: readonly Figure[], id: FigureId): Figure => figures.find((figure) => figure.id === id)!;
const text = ({ id, value, mark }: Figure): string =>
  Number.isFinite(value) ? `${value.toFixed(LIMITS[id].places)}${MARKS[mark] === '' ? '' : ` ${MARKS[mark]}`}` : '–';

const markdown = (head: readonly string[], lines: readonly (readonly (string | number)[])[]): string =>
  [head, head.map(() => '---'), ...lines].map((cells) => `| ${cells.join(' | ')} |`).join('\n');

/** Pairs that are listed one by one; the sums are of all. */
const LISTED = 30;

function tableOf(rows: readonly Row[]): string {
  const sorted = [...rows].sort((a, b) => countOf(b, 'fault') - countOf(a, 'fault') || countOf(b, 'caution') - countOf(a, 'caution'));
  const head = ['take', 'character', 'faults', 'cautions', ...SHOWN.map((id) => LIMITS[id].name), 'other faults'];
  const lines = sorted.slice(0, LISTED).map((row) => {
    const others = row.figures.filter(({ id, mark }) => mark === 'fault' && !SHOWN.includes(id)).map((f) => `${f.name} ${text(f)}`);
    return [
      row.take,
      row.character,
      countOf(row, 'fault'),
      countOf(row, 'caution'),
      ...SHOWN.map((id) => text(figureOf(row.figures, id))),
      others.join(', '),
    ];
  });
  return markdown(head, lines);
}

/** For each figure how many pairs are good, how many not, and the same of the plain transfer. */
function sumsOf(rows: readonly Row[]): string {
  const lines = (Object.keys(LIMITS) as FigureId[])
    // Those of other kinds of pairing are not seen here.
    .filter((id) => rows.some(({ figures }) => figures.some((figure) => figure.id === id)))
    .map((id) => {
      const count = (of: 'figures' | 'plain', mark: Figure['mark']): number =>
        rows.filter((row) => figureOf(row[of], id).mark === mark).length;
      const { name, unit } = LIMITS[id];
      return [
        unit === '' ? name : `${name} (${unit})`,
        count('figures', 'good'),
        count('figures', 'caution'),
        count('figures', 'fault'),
        count('figures', 'unseen'),
        count('plain', 'fault'),
      ];
    });
  const head = ['figure', 'good', 'caution', 'fault', 'nothing to look at', 'faults of the plain transfer'];
  return markdown(head, lines);
}

const rows = await judgeAll();
const good = rows.filter((row) => countOf(row, 'fault') + countOf(row, 'caution') === 0).length;
const without = rows.filter((row) => countOf(row, 'fault') === 0).length;
const page = `# Every take on every character

Written by \`npm run judged -- --write\`: all takes of the demo production and of the motion depot, transferred to all its
characters by the default recipe, nothing corrected by hand, as the judge sees them. ✗ is a fault, ! a caution, – nothing to look
at. The depot's motions come as a capture sees them, with its tremor and frames that are lost, at 30, 60 and 24 frames a second.
The meaning of each figure and the reasons for its limits are in \`core/src/judge/limits.ts\`.

Of ${rows.length} pairs ${without} are without a fault and ${good} without a caution.

${sumsOf(rows)}

## The worst ${LISTED}

${tableOf(rows)}
`;
if (process.argv.includes('--write')) await writeFile(join(import.meta.dirname, '../../docs/judged.md'), page);
else process.stdout.write(page);
