export type { Case } from './case';
export type { Figure, RestSeen, Verdict } from './figure';
export { judge } from './judge';
export {
  FIGURE_IDS,
  isRising,
  limitFault,
  LIMITS,
  limitText,
  markBy,
  type FigureId,
  type FigureLimits,
  type Limit,
  type Mark,
  type Thresholds,
} from './limits';
export { findRests, type Rest } from './look/rests';
export { summaryOf, valueText, verdictOf, withLimits, worstFirst, type Summary } from './summary';
