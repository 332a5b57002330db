export { floorAt, type FloorAmounts } from './floorKeys';
export { lengthOf, prepareTake, layOnFloor, ownTimeOf, rangeOf, type OwnTime } from './prepare';
export type { SamplingFault, SamplingKind } from './fault';
export { findSamplingFaults } from './faults';
export { isRepairable, repair, repairsAll, smooth, type Repairable } from './clean';
export { lowPassSection, zeroPhase } from './lowPass';
export { partsOfJoints } from './joints';
export { turnCurves } from './curve';
