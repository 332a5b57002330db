export { solveItem as default } from './runs/solveItem';
