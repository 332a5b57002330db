/** The take's own faults, which no figure counts. */
import type { Clip } from '../../clip';
import { findSamplingFaults, type SamplingFault } from '../../take';
import type { Case } from '../case';
import type { Rest } from './rests';

const found = new WeakMap<Clip, readonly SamplingFault[]>();

/** The take's known faults, found once for all transfers of it. */
function faultsOf({ performer, take }: Case): readonly SamplingFault[] {
  const known = found.get(take);
  if (known) return known;
  const faults = findSamplingFaults(performer.skeleton, take, performer.roles, performer.legLength);
  found.set(take, faults);
  return faults;
}

/** Frames on each side of a fault whose second difference touches it. */
const AROUND = 1;

/** 1 for each frame in which a known fault of the take lasts; a slow drift leaves its frames as good as they are. */
export function leftOf(given: Case): Uint8Array {
  const { frames } = given.take;
  const left = new Uint8Array(frames);
  for (const { kind, from, to } of faultsOf(given)) {
    if (kind !== 'drift') left.fill(1, Math.max(0, from - AROUND), Math.min(frames, to + AROUND + 1));
  }
  return left;
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
