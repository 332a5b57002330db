export * from './pairing';
export { limbSegments, type RestMatch, type Residual, type RestMatchSettings } from './restMatch';
export type { Link } from './links';
export type { Scale } from './scale';
export { compareBodies, type SameBody } from './likeness';
