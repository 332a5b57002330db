import { LIMITS, valueText, type Figure, type FigureId, type Mark, type Thresholds } from '../judge';
import type { Looked } from './look';

/** A figure as a sheet shows it. */
export interface SheetFigure {
  readonly id: FigureId;
  readonly name: string;
  readonly unit: string;
  /** Rounded to what it means; null where there was nothing to look at. */
  readonly value: number | null;
  /** The performer's own, where it has one. */
  readonly performer: number | null;
  readonly mark: Mark;
  /** The limits that it was marked by. */
  readonly limit: Thresholds;
  readonly looked: string;
  readonly words: string;
  /** Worst frame, from 0. */
  readonly frame: number | null;
}

/** One transfer on a sheet. */
export interface SheetItem {
  readonly take: string;
  readonly character: string;
  readonly fileName: string;
  readonly frames: number;
  readonly fps: number;
  readonly figures: readonly SheetFigure[];
  /** The same for the plain transfer. */
  readonly plain: readonly SheetFigure[];
  readonly cautions: readonly string[];
  readonly note: string;
  readonly review: string;
  readonly looked: Looked | undefined;
}

/** A value as people read it. */
export function textOf({ id, value, unit }: Pick<SheetFigure, 'id' | 'value' | 'unit'>): string {
  return valueText({ id, unit, value: value ?? NaN });
}

/** A figure of the judge as a sheet shows it: plain data, fit for JSON. */
export function sheetFigure({ id, name, unit, value, performer, mark, limit, looked, words, frame }: Figure): SheetFigure {
  const rounded = (number: number | undefined): number | null => {
    if (number === undefined || !Number.isFinite(number)) return null;
    // A value that rounds to zero has no sign.
    return Number(number.toFixed(LIMITS[id].places)) + 0;
  };
  const { good, fault } = limit;
  return {
    id,
    name,
    unit,
    value: rounded(value),
    performer: rounded(performer),
    mark,
    limit: { good: rounded(good) ?? good, fault: rounded(fault) ?? fault },
    looked,
    words: mark === 'unseen' ? `nothing to look at: ${looked}` : words,
    frame: frame ?? null,
  };
}
