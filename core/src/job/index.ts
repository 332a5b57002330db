export * from './facts';
export * from './report';
export { fitPairing, fitSkeleton } from './fit';
export { cautionsOfLabels, checkLabels } from './labels';
export {
  caseOf,
  caseOfResult,
  cautionsOf,
  deliver,
  formatOf,
  outputOf,
  JobMemory,
  judgeTransfer,
  plainPass,
  prepare,
  runJob,
  solveJob,
  mendReady,
  solveBelow,
  solvePlain,
  solveReady,
  type Job,
  type Outcome,
  type Solved,
  type Ready,
} from './job';
