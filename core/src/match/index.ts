export * from './pairing';
export { makeJointPairing } from './byJoint';
export { type RestMatch, type Residual, type RestMatchSettings } from './restMatch';
export type { Link } from './links';
export type { Scale } from './scale';
export { compareBodies, type SameBody } from './likeness';
export { partnersOf, type ExtraPartner } from './extras';
export { sharedProps, type SharedProp } from './props';
export { laddersOf, rungAt, type Ladder, type LadderJoint, type LadderRung } from './ladder';
