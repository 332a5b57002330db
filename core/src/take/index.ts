export { lengthOf, prepareTake, layOnFloor, ownTimeOf, rangeOf, type OwnTime } from './prepare';
export { findSamplingFaults, type SamplingFault, type SamplingKind } from './faults';
export { fillGaps, removeSpikes, smooth } from './clean';
export { lowPassSection, zeroPhase } from './lowPass';
export { partsOfJoints } from './joints';
export { turnCurves } from './curve';
