export { frameGrid, trueFrameTime, type FrameGrid } from './rates';
export { backwards } from './backwards';
export * from './clip';
export { clipFromBasis, clipToBasis } from './basis';
