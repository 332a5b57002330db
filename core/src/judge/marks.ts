import { LIMITS, type FigureId, type Limit } from './limits';

export type Mark = 'good' | 'caution' | 'fault' | 'unseen';

/** From where on a value is good, and from where on a fault. */
export type Thresholds = Pick<Limit, 'good' | 'fault'>;
/** Limits that a person sets for a production, by figure; the program's own hold where nothing is set. */
export type FigureLimits = Partial<Record<FigureId, Thresholds>>;

/** True where more of a figure is better. */
export const isRising = (id: FigureId): boolean => (LIMITS[id] as Limit).rising === true;

/** The mark of a value by limits. @param value in the figure's unit; NaN where there was nothing to look at */
export function markBy(id: FigureId, value: number, { good, fault }: Thresholds): Mark {
  if (!Number.isFinite(value)) return 'unseen';
  if (isRising(id)) return value >= good ? 'good' : value >= fault ? 'caution' : 'fault';
  if (value <= good) return 'good';
  return value < fault ? 'caution' : 'fault';
}

/** Contradiction between limits, in words; undefined for none. */
export function limitFault(id: FigureId, { good, fault }: Thresholds): string | undefined {
  const { name, unit } = LIMITS[id];
  if (![good, fault].every((value) => Number.isFinite(value))) return `the limits of ${name} must be numbers`;
  const isApart = isRising(id) ? good >= fault : good <= fault;
  if (isApart) return undefined;
  const word = isRising(id) ? 'less' : 'more';
  return `${name}: good ${isRising(id) ? 'from' : 'up to'} ${good} ${unit} must not be ${word} than the fault limit, ${fault} ${unit}`.replace(
    / +/g,
    ' ',
  );
}

/** Limits in words: "good up to 5, fault from 25 mm/s". */
export function limitText(id: FigureId, { good, fault }: Thresholds): string {
  const { unit } = LIMITS[id];
  const text = isRising(id)
    ? `good from ${round(good)}, fault below ${round(fault)}`
    : `good up to ${round(good)}, fault from ${round(fault)}`;
  return unit === '' ? text : `${text} ${unit}`;
}

const round = (value: number): number => Math.round(value * 100) / 100;
