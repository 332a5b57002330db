import { extname } from 'node:path';
import {
  applyRecipe,
  clipOf,
  DEFAULT_DECISIONS,
  DEFAULT_PAIRING,
  DEFAULT_SKELETON,
  describeFault,
  fail,
  measure,
  parseRecipe,
  plainPass,
  RECIPE_FORMAT,
  RECIPE_VERSION,
  reportOf,
  solve,
  writeMotion,
  type Figures,
  type OutputFormat,
  type Recipe,
  type Report,
  type SolveSettings,
} from '@hollow-stride/core';
import { load, loadText, save } from '../files';
import type { Output } from '../main';

export interface SolveOptions {
  readonly take: string;
  readonly character: string;
  readonly out: string;
  readonly report?: string;
  readonly fps?: number;
  readonly plain?: boolean;
  readonly recipe?: string;
  readonly clip?: number;
  readonly floor?: string;
  readonly marks?: boolean;
  readonly inPlace?: boolean;
  readonly json?: boolean;
}

/** Solves one take onto one character, file to file. */
export async function solveCommand(options: SolveOptions, output: Output): Promise<void> {
  const format = extname(options.out).slice(1).toLowerCase();
  if (format !== 'bvh' && format !== 'glb') fail('option', `--out must end in .bvh or .glb, not "${options.out}"`);
  if (options.floor !== undefined && options.floor !== 'take' && options.floor !== 'zero')
    fail('option', `--floor is "take" or "zero", not "${options.floor}"`);
  const [take, target] = await Promise.all([load(options.take), load(options.character)]);
  const recipe = options.recipe ? parseRecipe(await loadText(options.recipe), options.recipe) : undefined;
  const clipIndex = (options.clip ?? 1) - 1;
  if (take.clips.length > 0 && !(clipIndex in take.clips)) {
    fail('option', `--clip ${clipIndex + 1}: the file holds ${take.clips.length} takes`, { file: take.name });
  }
  const plan: Recipe = recipe ?? {
    format: RECIPE_FORMAT,
    version: RECIPE_VERSION,
    name: 'defaults',
    performer: DEFAULT_SKELETON,
    character: DEFAULT_SKELETON,
    pairing: DEFAULT_PAIRING,
    solve: DEFAULT_DECISIONS,
  };
  // What is said on the command line goes before what the recipe says.
  const prepared = applyRecipe(
    {
      ...plan,
      pairing: { ...plan.pairing, ...(options.marks ? { stride: 'marks' as const } : {}) },
      solve: {
        floor: (options.floor as 'take' | 'zero' | undefined) ?? plan.solve.floor,
        inPlace: options.inPlace ?? plan.solve.inPlace,
        fps: options.fps ?? plan.solve.fps,
      },
    },
    take,
    clipIndex,
    target,
  );
  const { performer, character, pairing } = prepared;
  const settings: SolveSettings = { ...prepared.settings, plain: options.plain ?? false };
  reportWarnings(prepared.notes.map(describeFault), options.json ? SILENT : output);
  const clip = clipOf(performer, clipIndex);
  const transfer = solve(pairing, clip, settings);
  await save(options.out, writeMotion(target, character.basis, transfer.clip, format as OutputFormat));
  if (!options.report && !options.json) {
    output.out(`${options.out} written: ${transfer.clip.frames} frames`);
    reportWarnings(pairing.warnings.map(describeFault), output);
    return;
  }
  // Timed once more, as the first run of a program is mostly its engine warming up.
  const time = { solve: timed(() => solve(pairing, clip, settings)), plainPass: timed(() => plainPass(transfer)) };
  const figures = measure(transfer);
  const plain = settings.plain ? undefined : measure(solve(pairing, clip, { ...settings, plain: true }));
  const report = reportOf(transfer, figures, plain, time);
  if (options.report) await save(options.report, `${JSON.stringify(report, null, 2)}\n`);
  if (options.json) output.out(JSON.stringify(report, null, 2));
  else {
    output.out(`${options.out} written: ${transfer.clip.frames} frames`);
    output.out(table(report, figures, plain));
    reportWarnings(report.warnings.map(describeFault), output);
  }
}

/** JSON on its own must stay readable by programs. */
const SILENT: Output = { out: () => undefined, err: () => undefined };

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

function reportWarnings(warnings: readonly string[], output: Output): void {
  warnings.forEach((text) => output.out(`caution: ${text}`));
}

function table(report: Report, figures: Figures, plain: Figures | undefined): string {
  const rows: [string, (f: Figures) => string][] = [
    ['slide, all plants', (f) => `${f.slide.sum.toFixed(2)} mm`],
    ['slide, worst plant', (f) => `${f.slide.worst.toFixed(2)} mm`],
    ['sink', (f) => `${f.sink.worst.toFixed(2)} mm`],
    ['float', (f) => `${f.float.toFixed(2)} mm`],
    ['likeness, arms', (f) => `${f.likeness.arms.toFixed(2)}°`],
    ['likeness, legs', (f) => `${f.likeness.legs.toFixed(2)}°`],
    ['pop', (f) => f.pop.ratio.toFixed(2)],
    ['flips', (f) => String(f.flips.count)],
  ];
  const lines = rows.map(([name, of]) => `  ${name.padEnd(20)}${of(figures).padStart(12)}${plain ? of(plain).padStart(14) : ''}`);
  return [
    `  ${''.padEnd(20)}${'solved'.padStart(12)}${plain ? 'plain'.padStart(14) : ''}`,
    ...lines,
    `  scale: lift ${report.pairing.lift.toFixed(3)}, stride ${report.pairing.stride.toFixed(3)}; cost: ${report.cost?.overPlainPass.toFixed(1)} plain passes`,
  ].join('\n');
}
