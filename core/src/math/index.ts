export * as quat from './quat';
export * as vec3 from './vec';
export * as trig from './trig';
export type { Numbers } from './quat';
export * from './filter';
export * from './random';
