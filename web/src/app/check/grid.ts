import type { ProductionLimits, RunItemJson, SummaryJson } from '@hollow-stride/contract';
import { FIGURE_IDS, LIMITS, markBy, type FigureId, type Limit, type Mark } from '@hollow-stride/core';

/** Figures that a cell shows as bars, in this order. */
const BARS: readonly FigureId[] = ['held.feet', 'held.hands', 'slide', 'sink', 'knees', 'elbows', 'flips', 'likeness.arms'];

/** A figure of a cell: its mark, and how far towards a fault it stands, 0 to 1. */
export interface Bar {
  readonly id: FigureId;
  readonly mark: Mark;
  readonly size: number;
  readonly title: string;
}

export interface Cell {
  readonly item: RunItemJson;
  readonly bars: readonly Bar[];
  /** Its worst mark by the production's limits; undefined while there is none. */
  readonly verdict: Mark | undefined;
  /** Faults count a hundredfold: what is sorted by. */
  readonly badness: number;
  /** Against another run: how much less bad it is; undefined where there is nothing to compare with. */
  readonly better: number | undefined;
  readonly words: string;
}

export interface Row {
  readonly id: string;
  readonly name: string;
  readonly cells: readonly (Cell | undefined)[];
  readonly badness: number;
}

export interface Grid {
  readonly characters: readonly { readonly id: string; readonly name: string }[];
  readonly rows: readonly Row[];
  readonly shown: number;
  readonly all: number;
}

/** Filter of a run's items. */
export interface Filter {
  readonly verdict: '' | 'fault' | 'caution' | 'good' | 'open' | 'returned' | 'accepted';
  /** A figure that must be over its limit. */
  readonly figure: FigureId | '';
  readonly tag: string;
  readonly character: string;
}
export const NO_FILTER: Filter = { verdict: '', figure: '', tag: '', character: '' };

/** The limits of a figure: those of the production, else the program's own. */
function limitsOf(id: FigureId, own: ProductionLimits): Pick<Limit, 'good' | 'fault'> {
  return own[id] ?? LIMITS[id];
}

/** The mark of a figure: the judge's, but where the production has limits of its own. */
export function markIn(summary: SummaryJson, id: FigureId, own: ProductionLimits): Mark {
  const value = summary.figures[id];
  if (value === undefined || value === null) return 'unseen';
  return own[id] ? markBy(id, value, own[id]) : (summary.marks?.[id] ?? markBy(id, value, LIMITS[id]));
}

/** How far a value stands from its good limit towards its fault, 0 to 1; 0 within the limit. */
export function severity(id: FigureId, value: number, own: ProductionLimits): number {
  const { good, fault } = limitsOf(id, own);
  if (good === fault) return value === good ? 0 : 1;
  return Math.max(0, Math.min(1, (value - good) / (fault - good)));
}

function cellOf(item: RunItemJson, own: ProductionLimits, other: RunItemJson | undefined): Cell {
  const { summary } = item;
  if (!summary)
    return { item, bars: [], verdict: undefined, badness: item.state === 'failed' ? 1e4 : -1, better: undefined, words: stateWords(item) };
  const marks = FIGURE_IDS.map((id) => markIn(summary, id, own));
  const verdict = marks.includes('fault') ? 'fault' : marks.includes('caution') ? 'caution' : 'good';
  const bars = BARS.map((id): Bar => {
    const value = summary.figures[id];
    const { unit, name, places } = LIMITS[id];
    const text = value === undefined || value === null ? 'not seen' : `${value.toFixed(places)}${unit === '' ? '' : ` ${unit}`}`;
    return {
      id,
      mark: markIn(summary, id, own),
      size: value === undefined || value === null ? 0 : severity(id, value, own),
      title: `${name} ${text}`,
    };
  });
  const badness = badnessOf(summary, own);
  const better = other?.summary ? badnessOf(other.summary, own) - badness : undefined;
  const words = verdict === 'good' ? 'good' : summary.worst || verdict;
  return { item, bars, verdict, badness, better, words };
}

function badnessOf(summary: SummaryJson, own: ProductionLimits): number {
  let sum = 0;
  for (const id of FIGURE_IDS) {
    const value = summary.figures[id];
    if (value === undefined || value === null) continue;
    const mark = markIn(summary, id, own);
    sum += mark === 'fault' ? 100 + severity(id, value, own) : mark === 'caution' ? 1 + severity(id, value, own) : 0;
  }
  return sum;
}

function stateWords({ state, fault }: RunItemJson): string {
  if (state === 'failed') return fault?.message ?? 'failed';
  return { waiting: 'waiting', working: 'being solved', cancelled: 'cancelled', done: 'done' }[state];
}

/** Items of one row: those of a take, or one lane of a reel. */
const rowOf = ({ take, lane }: RunItemJson): string => (lane ? `${lane.reel} ${lane.index}` : take);

/** Takes and lanes by characters, what is worst first. @param beside items of a run that it is compared with */
export function gridOf(items: readonly RunItemJson[], own: ProductionLimits, filter: Filter, beside: readonly RunItemJson[] = []): Grid {
  const others = new Map(beside.map((item) => [`${rowOf(item)} ${item.character}`, item]));
  const cells = items.map((item) => cellOf(item, own, others.get(`${rowOf(item)} ${item.character}`)));
  const shown = cells.filter((cell) => isShown(cell, own, filter));
  const badOf = (list: readonly Cell[]): number => list.reduce((sum, { badness }) => sum + Math.max(0, badness), 0);
  const characters = [...new Map(shown.map(({ item }) => [item.character, item.characterName]))]
    .map(([id, name]) => ({ id, name, badness: badOf(shown.filter(({ item }) => item.character === id)) }))
    .sort((a, b) => b.badness - a.badness || a.name.localeCompare(b.name));
  const byTake = new Map<string, Cell[]>();
  for (const cell of shown) byTake.set(rowOf(cell.item), [...(byTake.get(rowOf(cell.item)) ?? []), cell]);
  const rows = [...byTake]
    .map(([id, list]): Row => ({
      id,
      name: list[0].item.takeName,
      badness: badOf(list),
      cells: characters.map(({ id }) => list.find(({ item }) => item.character === id)),
    }))
    .sort((a, b) => b.badness - a.badness || a.name.localeCompare(b.name));
  return { characters, rows, shown: shown.length, all: items.length };
}

function isShown({ item, verdict }: Cell, own: ProductionLimits, filter: Filter): boolean {
  if (filter.character !== '' && item.character !== filter.character) return false;
  if (filter.tag !== '' && !item.tags.includes(filter.tag)) return false;
  if (filter.figure !== '') {
    const mark = item.summary ? markIn(item.summary, filter.figure, own) : 'unseen';
    if (mark !== 'fault' && mark !== 'caution') return false;
  }
  switch (filter.verdict) {
    case '':
      return true;
    case 'open':
      return item.review === 'none';
    case 'returned':
    case 'accepted':
      return item.review === filter.verdict;
    default:
      return verdict === filter.verdict;
  }
}

/** Where a transfer is worst: the frame of its worst figure, 0 where none has one. */
export function worstFrameOf({ summary }: RunItemJson, own: ProductionLimits): number {
  if (!summary) return 0;
  const bad = FIGURE_IDS.filter((id) => summary.frameOf?.[id] !== undefined)
    .map((id) => ({ id, mark: markIn(summary, id, own), size: severity(id, summary.figures[id] ?? 0, own) }))
    .sort((a, b) => RANK[a.mark] - RANK[b.mark] || b.size - a.size);
  return bad.length > 0 ? (summary.frameOf?.[bad[0].id] ?? 0) : 0;
}

const RANK: Readonly<Record<Mark, number>> = { fault: 0, caution: 1, unseen: 3, good: 2 };
