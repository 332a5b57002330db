import type { Rig } from '../rig';
import { extraChains } from '../label';

/** An extra chain of the character, base to tip, and the performer's chain that drives it. */
export interface ExtraPartner {
  readonly name: string;
  readonly joints: readonly number[];
  /** Joints of the performer; undefined when nothing drives the chain. */
  readonly partner: readonly number[] | undefined;
  readonly partnerName: string | undefined;
}

/**
 * Finds for each extra chain of the character its partner: as set by hand, else the performer's chain of the same name.
 * @param byHand the performer's chain for each of the character's; null leaves a chain at rest
 */
export function partnersOf(performer: Rig, character: Rig, byHand: Readonly<Record<string, string | null>>): ExtraPartner[] {
  const theirs = extraChains(performer.roles);
  return [...extraChains(character.roles)].map(([name, joints]) => {
    const chosen = name in byHand ? byHand[name] : name;
    const partner = chosen === null ? undefined : theirs.get(chosen);
    return { name, joints, partner, partnerName: partner && chosen !== null ? chosen : undefined };
  });
}
