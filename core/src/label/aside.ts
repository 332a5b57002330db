import { readNames } from './lexicon';

/** Joints that by their names lie beside the limbs: twist joints, props and helpers. A chain filled from its ends leaves them out. */
export function jointsAside(names: readonly string[]): number[] {
  return readNames(names).flatMap(({ isTwist, fit }, j) =>
    isTwist || (fit.prop !== undefined && Object.keys(fit).length === 1) ? [j] : [],
  );
}
