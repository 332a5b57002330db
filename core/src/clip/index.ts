export * from './clip';
export { clipFromBasis, clipToBasis } from './basis';
