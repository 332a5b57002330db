export * from './choices';
export * from './recipe';
