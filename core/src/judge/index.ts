export type { Case } from './case';
export { judge, type Figure, type RestSeen, type Verdict } from './judge';
export { FIGURE_IDS, LIMITS, markBy, markOf, type FigureId, type Limit, type Mark } from './limits';
export { findRests, type Rest } from './rests';
export { summaryOf, valueText, worstFirst, type Summary } from './summary';
