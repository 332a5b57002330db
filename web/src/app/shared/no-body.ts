import type { FactsJson } from '@hollow-stride/contract';

/** True of a rig in which nothing of a body was found: a crane, a cart. */
export function isNoBody({ labels }: FactsJson): boolean {
  return labels !== undefined && labels.missing.length > 0 && Object.keys(labels.roles).length === 0;
}
