import { basename, extname } from 'node:path';
import {
  clapsOf,
  DEFAULT_NAME_TABLE,
  DEFAULT_RECIPE,
  describeFault,
  fail,
  labelFile,
  LIMITS,
  makeTakeFace,
  measureReference,
  parseNameTable,
  parseRecipe,
  plainPass,
  prepare,
  printOf,
  reportOf,
  reportRecord,
  samePrint,
  solveJob,
  solveReady,
  type Figure,
  type Job,
  type MotionFile,
  type NameTable,
  type Recipe,
  type Report,
  type Sound,
} from '@hollow-stride/core';
import type { Output } from '../output';
import type { Workspace } from '../workspace';

export interface SolveOptions {
  readonly take: string;
  readonly character: string;
  readonly out: string;
  readonly report?: string;
  readonly fps?: number;
  readonly plain?: boolean;
  readonly recipe?: string;
  readonly reference?: string;
  readonly clip?: number;
  readonly floor?: string;
  readonly marks?: boolean;
  readonly inPlace?: boolean;
  readonly face?: string;
  readonly names?: string;
  readonly faceOffset?: number;
  readonly sound?: string;
  readonly json?: boolean;
}

/** Solves one take onto one character, file to file. Cautions are printed always: beside the text, or beside the JSON. */
export async function solveCommand(options: SolveOptions, output: Output, workspace: Workspace): Promise<void> {
  const format = extname(options.out).slice(1).toLowerCase();
  if (format !== 'bvh' && format !== 'glb') fail('option', `--out must end in .bvh or .glb, not "${options.out}"`);
  if (options.floor !== undefined && options.floor !== 'take' && options.floor !== 'zero')
    fail('option', `--floor is "take" or "zero", not "${options.floor}"`);
  for (const [what, path] of [
    ['--take', options.take],
    ['--character', options.character],
    ['--recipe', options.recipe],
    ['--reference', options.reference],
    ['--face', options.face],
    ['--names', options.names],
    ['--sound', options.sound],
  ] as const)
    workspace.input(path, what);
  workspace.output(options.out, '--out');
  workspace.output(options.report, '--report');
  const take = await workspace.load(options.take, '--take');
  const character = await workspace.load(options.character, '--character');
  const given = options.recipe ? parseRecipe(await workspace.text(options.recipe, '--recipe'), options.recipe) : DEFAULT_RECIPE;
  const clip = (options.clip ?? 1) - 1;
  if (take.clips.length > 0 && !(clip in take.clips)) {
    fail('option', `--clip ${clip + 1}: the file holds ${take.clips.length} takes`, { file: take.name });
  }
  const measured = options.reference ? withReference(given, await workspace.load(options.reference, '--reference'), take) : given;
  const face = options.face ? await workspace.face(options.face, '--face') : undefined;
  const named = options.names ? parseNameTable(await workspace.text(options.names, '--names'), options.names).table : undefined;
  const decided: Recipe = withOptions(measured, options, format);
  const laid =
    face || options.names || options.sound || options.faceOffset !== undefined ? withFaceOptions(decided, options, named) : decided;
  const sound = options.sound ? await workspace.sound(options.sound, '--sound') : undefined;
  const whole: Job = { take, clip, character, recipe: laid, face };
  const job = sound ? broughtTogether(whole, sound, output) : whole;
  const { ready, transfer, report, output: made } = solveJob(job);
  await workspace.save(options.out, '--out', made.parts());
  const wantsReport = options.report !== undefined || options.json === true;
  // Timed once more, as the first run of a program is mostly its engine warming up.
  const time = wantsReport ? { solve: timed(() => solveReady(ready)), plainPass: timed(() => plainPass(transfer)) } : undefined;
  const full: Report = { ...report, cost: time && reportOf(transfer, report.verdict, report.plain, [], time).cost };
  if (options.report) await workspace.save(options.report, '--report', `${JSON.stringify(reportRecord(full), null, 2)}\n`);
  if (options.json) output.out(JSON.stringify(reportRecord(full), null, 2));
  else {
    output.out(`${options.out} written: ${transfer.clip.frames} frames`);
    if (wantsReport) output.out(table(full));
  }
  // JSON on its own must stay readable by programs: what is said beside it goes the other way.
  const say = options.json ? output.err.bind(output) : output.out.bind(output);
  for (const caution of report.cautions) say(`${caution.code === 'judge/fault' ? 'fault' : 'caution'}: ${describeFault(caution)}`);
}

/** Options on the command line override the recipe. */
function withOptions(recipe: Recipe, options: SolveOptions, format: 'bvh' | 'glb'): Recipe {
  return {
    ...recipe,
    pairing: { ...recipe.pairing, ...(options.marks ? { stride: 'marks' as const } : {}) },
    solve: {
      ...recipe.solve,
      floor: (options.floor as 'take' | 'zero' | undefined) ?? recipe.solve.floor,
      inPlace: options.inPlace ?? recipe.solve.inPlace,
      fps: options.fps ?? recipe.solve.fps,
      plain: options.plain ?? recipe.solve.plain,
    },
    delivery: { ...recipe.delivery, format },
  };
}

/** A face that is given goes before the one that the recipe names. @throws FaultError option where there is none to set */
function withFaceOptions(recipe: Recipe, { face, faceOffset }: SolveOptions, names: NameTable | undefined): Recipe {
  const set = recipe.take.face ?? (face === undefined ? undefined : makeTakeFace(basename(face)));
  if (!set) fail('option', '--sound, --names and --face-offset need a face: give it by --face, or by the recipe');
  return {
    ...recipe,
    take: { ...recipe.take, face: { ...set, offset: faceOffset ?? set.offset } },
    pairing: { ...recipe.pairing, face: names ?? recipe.pairing.face ?? DEFAULT_NAME_TABLE },
  };
}

/** The face laid where the clap that is heard is the clap that is seen. @throws FaultError option where there is none */
function broughtTogether(job: Job, sound: Sound, output: Output): Job {
  const { found } = clapsOf(prepare(job), sound);
  if (!found) fail('option', 'no clap is both heard and seen; say where the face begins by --face-offset', { file: job.take.name });
  output.err(`the clap is at one time where the face begins at ${found.offset.toFixed(3)} s of the take`);
  const { recipe } = job;
  return { ...job, recipe: { ...recipe, take: { ...recipe.take, face: { ...recipe.take.face!, offset: found.offset } } } };
}

/** The performer measured on another of its takes. */
function withReference(recipe: Recipe, file: MotionFile, take: MotionFile): Recipe {
  if (!samePrint(printOf(file.skeleton), printOf(take.skeleton))) {
    fail('option', `it stands on another skeleton than ${take.name}; give a take of the same performer`, { file: file.name });
  }
  const labels = labelFile(file, 0, recipe.performer);
  if (labels.missing.length > 0)
    fail('label/missing', `the reference cannot be labelled: ${labels.missing.join(', ')}`, { file: file.name });
  return { ...recipe, performer: { ...recipe.performer, reference: measureReference(file, labels, 0, recipe.performer) } };
}

/** The shortest of a few runs, in milliseconds. */
function timed(work: () => unknown): number {
  let shortest = Infinity;
  for (let i = 0; i < 10; i++) {
    const start = performance.now();
    work();
    shortest = Math.min(shortest, performance.now() - start);
  }
  return shortest;
}

const MARKS = { good: 'good', caution: 'look at it', fault: 'FAULT', unseen: 'not seen' } as const;

function table({ verdict, plain, pairing, cost }: Report): string {
  const text = ({ id, value, unit }: Figure): string =>
    Number.isFinite(value) ? `${value.toFixed(LIMITS[id].places)} ${unit}`.trim() : '–';
  const lines = verdict.figures.map((figure, i) =>
    [
      `  ${figure.name.padEnd(18)}${text(figure).padStart(12)}`,
      plain ? text(plain.figures[i]).padStart(14) : '',
      `  ${MARKS[figure.mark].padEnd(11)}${figure.looked}`,
    ].join(''),
  );
  return [
    `  ${''.padEnd(18)}${'solved'.padStart(12)}${plain ? 'plain'.padStart(14) : ''}  ${'verdict'.padEnd(11)}looked at`,
    ...lines,
    `  scale: lift ${pairing.lift.toFixed(3)}, stride ${pairing.stride.toFixed(3)}; cost: ${cost?.overPlainPass.toFixed(1)} plain passes`,
  ].join('\n');
}
