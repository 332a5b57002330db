import type { Figure, Verdict } from './figure';
import { LIMITS } from './limits';
import { markBy, type FigureLimits, type Mark } from './marks';

/** Summary of a verdict for lists: plain data, fit for JSON. */
export interface Summary {
  readonly frames: number;
  /** Figures by their mark. */
  readonly good: number;
  readonly cautions: number;
  readonly faults: number;
  readonly unseen: number;
  /** The worst of them in words; empty where all is well. */
  readonly worst: string;
  /** By the figure's name in the code; null where there was nothing to look at. */
  readonly figures: Record<string, number | null>;
  readonly marks: Record<string, Mark>;
  /** Worst frames, from 0. */
  readonly frameOf: Record<string, number>;
}

/** A figure's value as people read it; what rounds to zero has no sign. */
export function valueText({ id, value, unit }: Pick<Figure, 'id' | 'value' | 'unit'>): string {
  if (!Number.isFinite(value)) return '–';
  const digits = value.toFixed(LIMITS[id].places).replace(/^-(0(\.0*)?)$/, '$1');
  return unit === '' ? digits : `${digits} ${unit}`;
}

const RANK = { fault: 0, caution: 1, good: 2, unseen: 3 } as const;

/** Figures with the worst first, and those that had nothing to look at last. */
export function worstFirst(figures: readonly Figure[]): Figure[] {
  return [...figures].sort((a, b) => RANK[a.mark] - RANK[b.mark]);
}

/** Figures marked by the limits that a person has set, where there are some. */
export function withLimits<F extends Pick<Figure, 'id' | 'mark' | 'limit'> & { readonly value: number | null }>(
  figures: readonly F[],
  limits: FigureLimits,
): F[] {
  return figures.map((figure) => {
    const limit = limits[figure.id];
    return limit ? { ...figure, limit, mark: markBy(figure.id, figure.value ?? NaN, limit) } : figure;
  });
}

/** One word for all figures: the worst of what was seen. */
export function verdictOf(figures: readonly { readonly mark: Mark }[]): Mark {
  const has = (mark: Mark): boolean => figures.some((figure) => figure.mark === mark);
  return has('fault') ? 'fault' : has('caution') ? 'caution' : has('good') ? 'good' : 'unseen';
}

/** The part of a verdict that is kept with a transfer. */
export function summaryOf({ frames, figures }: Pick<Verdict, 'frames' | 'figures'>): Summary {
  const count = (mark: Figure['mark']): number => figures.filter((figure) => figure.mark === mark).length;
  const [worst] = worstFirst(figures);
  const isBad = worst !== undefined && (worst.mark === 'fault' || worst.mark === 'caution');
  return {
    frames,
    good: count('good'),
    cautions: count('caution'),
    faults: count('fault'),
    unseen: count('unseen'),
    worst: isBad ? `${worst.name} ${valueText(worst)}: ${worst.words}`.slice(0, 600) : '',
    figures: Object.fromEntries(figures.map(({ id, value }) => [id, Number.isFinite(value) ? value : null])),
    marks: Object.fromEntries(figures.map(({ id, mark }) => [id, mark])),
    frameOf: Object.fromEntries(figures.flatMap(({ id, frame }) => (frame === undefined ? [] : [[id, frame]]))),
  };
}
