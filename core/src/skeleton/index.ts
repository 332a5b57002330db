export * from './skeleton';
export * from './pose';
export * from './basis';
export * from './turnBelow';
export * from './print';
