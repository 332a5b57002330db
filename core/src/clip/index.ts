export { frameGrid, trueFrameTime, type FrameGrid } from './rates';
export * from './clip';
export { clipFromBasis, clipToBasis } from './basis';
