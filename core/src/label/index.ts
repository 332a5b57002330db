export * from './roles';
export { labelSkeleton, type Labels } from './label';
export { splitName } from './lexicon';
