export type { Case } from './case';
export type { Figure, RestSeen, Verdict } from './figure';
export { figureOf, judge } from './judge';
export { judgeFace, type FaceCase } from './face';
export { judgeJoints, type JointCase } from './joints';
export { FIGURE_IDS, LIMITS, type FigureId, type Limit } from './limits';
export { isRising, limitFault, limitText, markBy, type FigureLimits, type Mark, type Thresholds } from './marks';
export { findRests, type Rest } from './look/rests';
export { summaryOf, valueText, verdictOf, withLimits, worstFirst, type Summary } from './summary';
