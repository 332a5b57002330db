export * from './base';
export * from './recordings';
export * from './meshes';
export * from './desk';
export * from './schemas';
export * from './depot';
export * from './kept';
export * from './runs';
