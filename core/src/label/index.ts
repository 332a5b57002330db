export * from './roles';
export * from './assign';
export * from './scheme';
export { labelSkeleton, type Labels } from './label';
export { fillChain, rolesOfChain, type FilledChain } from './fillChain';
export { applyFix, findMistakes, type Mistake, type MistakeKind } from './mistakes';
export { mirrorLabels, partnersOfJoints } from './partners';
export { splitName } from './lexicon';
