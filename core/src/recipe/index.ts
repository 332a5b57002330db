export * from './choices';
export * from './recipe';
export * from './touchUps';
