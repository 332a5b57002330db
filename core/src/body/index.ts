export { prepareBody, labelFile, clipOf, legChain, type Body } from './body';
export type { Foot, Sole } from './feet';
export { UNIT_METRES, type Unit, type UnitGuess } from './unit';
export { CLEAN, scoreRest, type RestChoice } from './restDetector';
