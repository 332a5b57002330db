import { leastCost } from '../joints';
import type { FaceSource } from '../recipe';
import { faceLikeness, readFaceNames, type FaceWords } from './words';

/** Why channels drive a shape. */
export type FaceReason = 'same' | 'alike' | 'together' | 'both' | 'hand' | 'none';

/** What drives a shape by its name. */
export interface Proposal {
  readonly from: readonly FaceSource[];
  readonly reason: FaceReason;
  /** 0…1. */
  readonly likeness: number;
}

/** Names below this likeness are not taken for each other. */
const ALIKE = 0.55;
const NOTHING: Proposal = { from: [], reason: 'none', likeness: 0 };

/**
 * The channels that drive each shape by their names: one to one where that fits best in all (the Hungarian method); then the
 * channels of both sides together for a shape that has none, and one channel for the shapes of both sides.
 */
export function proposeNames(channels: readonly string[], shapes: readonly string[]): Proposal[] {
  const [ours, theirs] = [readFaceNames(channels), readFaceNames(shapes)];
  const out: Proposal[] = shapes.map(() => NOTHING);
  const used = new Set<number>();
  const take = (shape: number, found: readonly number[], reason: FaceReason, likeness: number): void => {
    out[shape] = { from: found.map((c) => ({ channel: channels[c], weight: 1 / found.length })), reason, likeness };
    found.forEach((c) => used.add(c));
  };
  for (const [shape, channel, likeness] of oneToOne(channels, shapes, ours, theirs)) {
    take(shape, [channel], likeness >= 0.999 ? 'same' : 'alike', likeness);
  }
  const alikeTo = (shape: FaceWords, c: number): number => faceLikeness(ours[c], shape);
  const best = (shape: FaceWords, candidates: readonly number[]): { found: number[]; likeness: number } => {
    const likeness = candidates.map((c) => alikeTo(shape, c));
    const most = likeness.reduce((top, one) => Math.max(top, one), 0);
    return { found: candidates.filter((_, i) => likeness[i] > most - 1e-9), likeness: most };
  };
  const sided = channels.map((_, c) => c).filter((c) => ours[c].side !== undefined);
  const unsided = channels.map((_, c) => c).filter((c) => ours[c].side === undefined);
  theirs.forEach((shape, s) => {
    const had = out[s];
    if (shape.side !== undefined) {
      // A shape of one side shares the channel that has none.
      if (had.from.length > 0) return;
      const { found, likeness } = best(shape, unsided);
      if (found.length === 1 && likeness >= ALIKE) take(s, found, 'both', likeness);
      return;
    }
    // One of no side takes both sides of a channel, beside the one that it has, where they fit as well.
    const own = had.from.map(({ channel }) => channels.indexOf(channel));
    const { found, likeness } = best(
      shape,
      sided.filter((c) => !used.has(c)),
    );
    const isEven = found.filter((c) => ours[c].side === 'left').length * 2 === found.length;
    const least = own.length > 0 ? alikeTo(shape, own[0]) - 1e-9 : ALIKE;
    if (found.length >= 2 && isEven && likeness >= Math.max(ALIKE, least)) take(s, [...own, ...found], 'together', likeness);
  });
  return out;
}

/** Shapes and channels of the same side whose names are most alike in all. */
function oneToOne(
  channels: readonly string[],
  shapes: readonly string[],
  ours: readonly FaceWords[],
  theirs: readonly FaceWords[],
): [shape: number, channel: number, likeness: number][] {
  const likenessOf = (s: number, c: number): number => {
    if (theirs[s].side !== ours[c].side) return 0;
    // The very same name is never second to another that means the same.
    return shapes[s].toLowerCase() === channels[c].toLowerCase() ? 1 : 0.995 * faceLikeness(ours[c], theirs[s]);
  };
  const isTurned = shapes.length > channels.length;
  const [rows, columns] = isTurned ? [channels.length, shapes.length] : [shapes.length, channels.length];
  if (rows === 0) return [];
  const costs = new Float64Array(rows * columns);
  for (let r = 0; r < rows; r++) {
    for (let c = 0; c < columns; c++) {
      const likeness = isTurned ? likenessOf(c, r) : likenessOf(r, c);
      costs[r * columns + c] = 1 - (likeness >= ALIKE ? likeness : 0);
    }
  }
  return [...leastCost(costs, rows, columns)].flatMap((column, row) => {
    const [shape, channel] = isTurned ? [column, row] : [row, column];
    const likeness = column < 0 ? 0 : likenessOf(shape, channel);
    return likeness >= ALIKE ? [[shape, channel, likeness] as [number, number, number]] : [];
  });
}
