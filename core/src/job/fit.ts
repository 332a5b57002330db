import type { MotionFile } from '../formats';
import type { PairingSettings, SkeletonChoices } from '../recipe';
import { labelFile, type Rig } from '../rig';

/** Choices as they can be used on a file: labels that leave a required role without a joint are given up. */
export function fitSkeleton(file: MotionFile, choices: SkeletonChoices): SkeletonChoices {
  if (choices.labels === null) return choices;
  return labelFile(file, 0, choices).missing.length > 0 ? { ...choices, labels: null, turns: {}, reference: null } : choices;
}

/** The part of a pairing's choices that fits another pair, and in words the part that does not. */
export function fitPairing(choices: PairingSettings, performer: Rig, character: Rig): { choices: PairingSettings; dropped: string[] } {
  const dropped: string[] = [];
  const keep = <T>(record: Readonly<Record<string, T>>, fits: (key: string, value: T) => boolean, what: string): Record<string, T> => {
    const out: Record<string, T> = {};
    for (const [key, value] of Object.entries(record)) {
      if (fits(key, value)) out[key] = value;
      else dropped.push(`${what} ${key} is left out: there is no such joint here`);
    }
    return out;
  };
  const { turns, links, extras } = choices;
  return {
    choices: {
      ...choices,
      turns: keep(turns, (role) => character.roles.has(role), 'the turn of'),
      links: keep(
        links,
        (role, rung) => character.roles.has(role) && (rung === null || (performer.roles.has(rung.a) && performer.roles.has(rung.b))),
        'the rung of',
      ),
      extras: keep(extras, (name) => character.roles.has(`extra.${name}.1`), 'the link of the chain'),
    },
    dropped,
  };
}
