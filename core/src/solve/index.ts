export * from './settings';
export { STAGES, type Stage, type StageId } from './stages';
export { solve, SolveMemory, type Miss, type SolveOptions, type Transfer } from './solve';
export { solveWindow, windowAround } from './window';
export { slidesAway } from './pose';
export { LiveSolver, type LiveFrame, type LiveOptions } from './live';
