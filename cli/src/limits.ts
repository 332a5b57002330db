import { FIGURE_IDS, fail, limitFault, type FigureId, type FigureLimits, type Thresholds } from '@hollow-stride/core';
import type { Workspace } from './workspace';

/** Limits of a production from a file; none where no file is named. @throws FaultError option that says which is wrong and how */
export async function limitsFrom(path: string | undefined, workspace: Workspace): Promise<FigureLimits> {
  return path === undefined ? {} : parseLimits(await workspace.text(path, '--limits'), path);
}

function parseLimits(text: string, file: string): FigureLimits {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    fail('option', 'the limits are not valid JSON', { file });
  }
  if (typeof json !== 'object' || json === null || Array.isArray(json)) fail('option', SHAPE, { file });
  for (const [id, limit] of Object.entries(json)) {
    if (!FIGURE_IDS.some((known) => known === id))
      fail('option', `there is no figure "${id}"; there are ${FIGURE_IDS.join(', ')}`, { file });
    if (!isLimit(limit)) fail('option', `${id}: ${SHAPE}`, { file });
    const wrong = limitFault(id as FigureId, limit);
    if (wrong !== undefined) fail('option', wrong, { file });
  }
  return json;
}

const SHAPE = 'limits are figures with the numbers "good" and "fault" each, like {"slide": {"good": 5, "fault": 20}}';

function isLimit(value: unknown): value is Thresholds {
  const keys = ['good', 'fault'] as const;
  return typeof value === 'object' && value !== null && keys.every((key) => Number.isFinite((value as Record<string, unknown>)[key]));
}
