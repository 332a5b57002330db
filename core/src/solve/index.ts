export * from './settings';
export { solve, type Transfer } from './solve';
export { findPlants, PLANT_LIMITS, type Plant, type Contacts } from './plants';
export type { Anchor, FlatSpan, FootPlan } from './stances';
export { contactsOf, solveWindow } from './window';
