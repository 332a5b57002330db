import { sheetFigure, type Figure, type Output } from '@hollow-stride/core';
import { type FigureJson, type ReportJson, type SummaryJson } from '@hollow-stride/contract';

/** What comes of an item before its file is kept. */
export interface Made {
  readonly output: Output;
  readonly summary: SummaryJson;
  readonly report: Omit<ReportJson, 'written'>;
}

/** No longer than the contract lets through. */
export function figureJson(figure: Figure): FigureJson {
  const { looked, words, ...rest } = sheetFigure(figure);
  return { ...rest, looked: looked.slice(0, 400), words: words.slice(0, 1000) };
}
