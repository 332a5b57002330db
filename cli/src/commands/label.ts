import { describeFault, labelFacts, labelFile } from '@hollow-stride/core';
import { load } from '../files';
import type { Output } from '../main';

/** Prints the role of each labelled joint. */
export async function label(path: string, options: { json?: boolean }, output: Output): Promise<void> {
  const file = await load(path);
  const labels = labelFile(file);
  const { roles, confidence } = labelFacts(labels, file.skeleton);
  const warnings = [...file.warnings, ...labels.warnings].map(describeFault);
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
