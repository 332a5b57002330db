export { layersOn, mend, type Mended } from './mend';
export { valueAt } from './curve';
export { type Axes } from './axes';
export { frameOf, placeIn } from './reach';
export { movedOn, turnedOn, turnFromRest } from './drag';
export { proposeLayer } from './propose';
export { thinPlaces, thinTurns, type Span as ThinnedSpan, type Thinned } from './thin';
