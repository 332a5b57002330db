export { frameGrid, trueFrameTime, type FrameGrid } from './rates';
export { backwards } from './backwards';
export * from './clip';
export { canBeSized } from './sizes';
export { mixedTracks, type Track } from './track';
export { clipFromBasis, clipToBasis } from './basis';
