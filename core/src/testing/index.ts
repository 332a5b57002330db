export * from './bodies';
export * from './walker';
