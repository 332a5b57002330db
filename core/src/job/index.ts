export * from './facts';
export { solveAround, type SolvedBefore } from './around';
export * from './report';
export { clapsOf, recordingOf, type ClapsFound } from './face';
export { recordingFacts, type RecordingFacts } from './recording';
export { fitPairing, fitSkeleton } from './fit';
export { cautionsOfLabels, checkLabels } from './labels';
export {
  caseOf,
  cautionsOf,
  deliver,
  formatOf,
  outputOf,
  JobMemory,
  judgeTransfer,
  lookedAtTransfer,
  plainPass,
  prepare,
  runJob,
  solveJob,
  mendReady,
  solveBelow,
  solvePlain,
  solveReady,
  transferOfResult,
  type Job,
  type Outcome,
  type Solved,
  type Ready,
} from './job';
export { judgeLane, reelSource, writeLane } from './lane';
export { LiveTransfer, type TransferredFrame } from './live';
export { bindMesh, layMesh, openMesh, type BoundMesh, type FitDoubt, type LaidMesh, type MeshFacts, type OpenMesh } from './mesh';
export { Memory } from './memory';
