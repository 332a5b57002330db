export { layersOn, mend, type Mended } from './mend';
export { valueAt, weightsOf } from './curve';
export { byBody } from './axes';
export { frameOf, jointOfEnd, placeIn } from './reach';
export { partOf } from './parts';
