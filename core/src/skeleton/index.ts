export * from './skeleton';
export * from './pose';
export * from './basis';
