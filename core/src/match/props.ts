import { isBelow } from '../skeleton';
import { extraRole, type Role } from '../label';
import type { Pairing } from './pairing';

/** A thing beside the body on both skeletons. */
export interface SharedProp {
  /** On the performer. */
  readonly role: Role;
  readonly source: number;
  readonly joint: number;
}

/** The character's props that go with one of the performer's: their bases hang on no body, and the file can say where they are. */
export function sharedProps({ performer, character, extras }: Pick<Pairing, 'performer' | 'character' | 'extras'>): SharedProp[] {
  return extras.flatMap(({ joints: [joint], partner, partnerName }) =>
    !partner ||
    partnerName === undefined ||
    character.canMove[joint] === 0 ||
    isBelow(character.skeleton, joint, character.carrier) ||
    isBelow(performer.skeleton, partner[0], performer.carrier)
      ? []
      : [{ role: extraRole(partnerName, 1), source: partner[0], joint }],
  );
}
