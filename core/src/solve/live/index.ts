export { LiveSolver, type LiveFrame, type LiveOptions } from './liveSolver';
