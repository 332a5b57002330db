export * from './schemas';
export * from './depot';
export * from './kept';
export * from './runs';
