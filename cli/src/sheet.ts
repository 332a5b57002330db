import type { Figure, SheetFigure } from '@hollow-stride/core';

/** A figure as a check sheet shows it. */
export function sheetFigure({ id, name, unit, value, own, mark, looked, words, frame }: Figure): SheetFigure {
  const finite = (number: number | undefined): number | null => (number !== undefined && Number.isFinite(number) ? number : null);
  return { id, name, unit, value: finite(value), own: finite(own), mark, looked, words, frame: frame ?? null };
}
