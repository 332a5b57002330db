export { prepareBody, labelFile, clipOf, legChain, samplePoses, type Body } from './body';
export type { Foot, Sole } from './feet';
export { UNIT_METRES, type Unit, type UnitGuess } from './unit';
export { CLEAN, keepPose, scoreRest, type RestChoice } from './restDetector';
export { applyTurns, copyPose, mirrorTurn, turnsBetween, type Heading } from './turns';
export { PRESSES, press, type Press } from './presses';
export { bareBody, type BareBody } from './bare';
export { rangeCheck, RANGE_FRAMES, RANGE_STEPS, wiggle, type RangeStep } from './rangeCheck';
export { keepRest } from './keepRest';
