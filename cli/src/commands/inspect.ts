import { describeFault, factsOf, type Facts } from '@hollow-stride/core';
import type { Output } from '../output';
import type { Workspace } from '../workspace';

/** Prints what a file holds. */
export async function inspect(path: string, options: { json?: boolean }, output: Output, workspace: Workspace): Promise<void> {
  const facts = factsOf(await workspace.load(path, 'the file'));
  output.out(options.json ? JSON.stringify(facts, null, 2) : describe(path, facts));
}

function describe(path: string, { format, joints, hasMesh, prefix, clips, body, warnings }: Facts): string {
  const lines = [
    `${path}: ${format.toUpperCase()}, ${joints} joints${hasMesh ? ', with a mesh' : ''}`,
    ...clips.map((c) => `  take       ${c.name}: ${c.frames} frames at ${c.fps} a second, ${c.seconds} s`),
    `  prefix     ${prefix === '' ? 'none' : prefix}`,
  ];
  if (body) {
    lines.push(
      `  unit       ${body.unit.unit} (${body.unit.reason})`,
      `  up         ${body.up.axis} (${body.up.reason})`,
      `  facing     ${body.facing}° from +Z`,
      `  rest pose  ${body.rest.reason} (score ${body.rest.score})`,
      `  size       ${body.height} m, legs ${body.legLength} m, soles ${(body.sole.depth * 1000).toFixed(0)} mm (${body.sole.known})`,
      ...(body.floor === null ? [] : [`  floor      ${(body.floor * 1000).toFixed(0)} mm`]),
    );
  }
  lines.push(...warnings.map((w) => `  caution    ${describeFault(w)}`));
  return lines.join('\n');
}
