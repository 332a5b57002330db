export * from './schemas';
export * from './kept';
