import type { PairReason } from '@hollow-stride/core';

/** Why two joints are a pair, for people. */
export const REASONS: Readonly<Record<PairReason, string>> = {
  hand: 'paired by hand',
  name: 'by its name',
  order: 'by its place in the list',
  shape: 'by its place in the tree',
};
