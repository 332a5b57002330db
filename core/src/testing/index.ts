export * from './bodies';
export * from './walker';
export * from './rebuild';
export * from './labelling';
