/** The computation of Hollow Stride: no interface, no DOM, no Node.js. */
export * from './errors';
export * from './text';
export * from './math';
export * from './skeleton';
export * from './clip';
export * from './formats';
export * from './label';
export * from './recipe';
export * from './rig';
export * from './take';
export * from './contact';
export * from './match';
export * from './touchup';
export * from './solve';
export * from './judge';
export * from './output';
export * from './job';
