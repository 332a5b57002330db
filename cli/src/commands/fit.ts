import { extname } from 'node:path';
import {
  bindMesh,
  DEFAULT_FIT,
  fail,
  landmarksFile,
  layMesh,
  openMesh,
  parseLandmarks,
  withLandmarks,
  type BoundMesh,
  type FitChoices,
  type LaidMesh,
} from '@hollow-stride/core';
import { stem } from '../inputs';
import type { Output } from '../output';
import type { Workspace } from '../workspace';

export interface FitOptions {
  readonly out?: string;
  readonly landmarks?: string;
  readonly saveLandmarks?: string;
  readonly fingers?: string;
  readonly spine?: string;
  readonly neck?: string;
  readonly twists?: boolean;
  readonly keep?: boolean;
  readonly apart?: boolean;
  readonly json?: boolean;
}

/** Fits a skeleton to a mesh that has none, binds its points, and writes it as a character. */
export async function fitCommand(path: string, options: FitOptions, output: Output, workspace: Workspace): Promise<void> {
  if (options.out !== undefined && extname(options.out).toLowerCase() !== '.glb')
    fail('option', `--out must end in .glb, not "${options.out}"`);
  workspace.input(path, 'the mesh');
  workspace.input(options.landmarks, '--landmarks');
  workspace.output(options.out, '--out');
  workspace.output(options.saveLandmarks, '--save-landmarks');
  const mesh = await openMesh(await workspace.bytes(path, 'the mesh'), path);
  let choices: FitChoices = {
    ...DEFAULT_FIT,
    skeleton: options.keep === true ? 'keep' : 'new',
    mirrored: options.apart !== true,
  };
  if (options.landmarks) {
    const file = parseLandmarks(await workspace.text(options.landmarks, '--landmarks'), options.landmarks);
    choices = withLandmarks(choices, layMesh(mesh, choices), file);
  }
  const { detail } = choices;
  choices = {
    ...choices,
    detail: {
      fingers: oneOf('--fingers', options.fingers, [0, 3, 5] as const) ?? detail.fingers,
      spine: oneOf('--spine', options.spine, [1, 2, 3, 4, 5] as const) ?? detail.spine,
      neck: oneOf('--neck', options.neck, [1, 2] as const) ?? detail.neck,
      twists: options.twists ?? detail.twists,
    },
  };
  const laid = layMesh(mesh, choices);
  const bound = options.out ? await bindMesh(laid, choices, stem(options.out)) : undefined;
  if (options.out && bound) await workspace.save(options.out, '--out', bound.glb);
  if (options.saveLandmarks) {
    await workspace.save(options.saveLandmarks, '--save-landmarks', `${JSON.stringify(landmarksFile(laid, choices), null, 2)}\n`);
  }
  if (options.json) {
    const { landmarks, found } = laid;
    const result = bound && { joints: bound.names, pull: bound.pull, doubts: bound.doubts };
    output.out(JSON.stringify({ mesh: mesh.facts, landmarks, confidence: found.confidence, ...result }, null, 2));
    return;
  }
  for (const line of describe(path, laid, bound)) output.out(line);
  if (options.out) output.out(`${options.out} written`);
}

function describe(path: string, { mesh, landmarks, found, body }: LaidMesh, bound: BoundMesh | undefined): string[] {
  const facts = mesh.facts;
  return [
    `${path}: ${facts.points} points, ${facts.triangles} triangles in ${facts.shells} shells; ${facts.stand}`,
    ...Object.entries(landmarks).map(([name, place]) => {
      const sure = found.confidence[name] ?? 1;
      return `  ${name.padEnd(16)} ${place.map((v) => v.toFixed(3).padStart(7)).join(' ')}${sure < 0.5 ? '  (by usual proportions: look at it)' : ''}`;
    }),
    ...(bound
      ? [
          `${bound.names.length} joints; in the range check the skin is drawn out by ${Math.round(bound.pull * body.height * 1000)} mm at most`,
          ...bound.doubts.map(({ joint, message }) => `  caution    ${joint}: ${message}`),
        ]
      : []),
  ];
}

function oneOf<T extends number>(option: string, given: string | undefined, among: readonly T[]): T | undefined {
  if (given === undefined) return undefined;
  return among.find((value) => String(value) === given) ?? fail('option', `${option} is one of ${among.join(', ')}, not "${given}"`);
}
