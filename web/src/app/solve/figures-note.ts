import { summaryOf } from '@hollow-stride/core';
import type { Solved } from '../solver/messages';

/** How the figures of a result stand, in a few words. */
export function figuresNote({ report }: Solved): string {
  const { good, cautions, faults } = summaryOf(report.verdict);
  const parts = [faults > 0 ? `${faults} over the limit` : '', cautions > 0 ? `${cautions} to look at` : '', `${good} good`];
  return parts.filter((part) => part !== '').join(', ');
}
