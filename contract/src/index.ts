export * from './schemas';
export * from './kept';
export * from './runs';
