/** The take's own faults, which no figure counts. */
import type { Clip } from '../clip';
import { findSamplingFaults, type SamplingFault } from '../take';
import type { Case } from './case';
import type { Rest } from './rests';

const found = new WeakMap<Clip, readonly SamplingFault[]>();

/** The take's known faults, found once for all transfers of it. */
export function faultsOf({ performer, take }: Case): readonly SamplingFault[] {
  const known = found.get(take);
  if (known) return known;
  const faults = findSamplingFaults(performer.skeleton, take, performer.roles, performer.legLength);
  found.set(take, faults);
  return faults;
}

/** Rests without the take's known faults: a held frame is a gap and no rest. */
export function restsBeside(rests: readonly Rest[], left: Uint8Array): Rest[] {
  return rests.flatMap((rest) => {
    let { first, last } = rest;
    while (first <= last && left[first] === 1) first++;
    while (last >= first && left[last] === 1) last--;
    return last - first >= 3 ? [{ ...rest, first, last }] : [];
  });
}
