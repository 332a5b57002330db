import {
  describeFault,
  findMistakes,
  fitScheme,
  labelFacts,
  labelFile,
  missingRoles,
  parseScheme,
  samplePoses,
  schemeOf,
} from '@hollow-stride/core';
import type { Output } from '../output';
import type { Workspace } from '../workspace';

/** Prints the role of each labelled joint. */
export async function label(
  path: string,
  options: { json?: boolean; scheme?: string; saveScheme?: string },
  output: Output,
  workspace: Workspace,
): Promise<void> {
  workspace.input(path, 'the file');
  workspace.input(options.scheme, '--scheme');
  workspace.output(options.saveScheme, '--save-scheme');
  const file = await workspace.load(path, 'the file');
  const automatic = labelFile(file);
  let labels = automatic;
  if (options.scheme) {
    const fit = fitScheme(parseScheme(await workspace.text(options.scheme, '--scheme'), options.scheme), file.skeleton);
    const warnings = fit.misses.map((role) => ({
      code: 'label/scheme' as const,
      message: `the scheme's joint for ${role} is not here`,
      where: {},
    }));
    labels = {
      roles: fit.roles,
      confidence: new Map([...fit.roles.keys()].map((role) => [role, 1])),
      missing: missingRoles(fit.roles),
      warnings,
    };
  }
  const { roles, confidence } = labelFacts(labels, file.skeleton);
  const mistakes = findMistakes(file.skeleton, labels.roles, samplePoses(file), automatic).map(({ why, instead }) => `${why}: ${instead}`);
  const warnings = [...[...file.warnings, ...labels.warnings].map(describeFault), ...mistakes];
  if (options.saveScheme) {
    const name = file.name.replace(/\.[^.]*$/, '');
    await workspace.save(options.saveScheme, '--save-scheme', `${JSON.stringify(schemeOf(name, file.skeleton, labels.roles), null, 2)}\n`);
  }
  if (options.json) {
    output.out(JSON.stringify({ roles, confidence, warnings }, null, 2));
    return;
  }
  const width = Math.max(8, ...Object.keys(roles).map((role) => role.length));
  for (const [role, joint] of Object.entries(roles)) {
    output.out(
      `${role.padEnd(width)}  ${Math.round(confidence[role] * 100)
        .toString()
        .padStart(3)} %  ${joint}`,
    );
  }
  warnings.forEach((text) => output.out(`caution: ${text}`));
}
