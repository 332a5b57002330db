import { ARM_PARTS, LEG_PARTS, type Role } from './roles';

export type MistakeKind = 'sides' | 'twist' | 'prop' | 'ground' | 'skip' | 'order' | 'limb' | 'end' | 'length' | 'double';

/** A label that is likely wrong: why, and what would be right. */
export interface Mistake {
  readonly kind: MistakeKind;
  readonly role: Role;
  readonly joint: number;
  /** For people. */
  readonly why: string;
  /** Advice, in words. */
  readonly instead: string;
  /** The labels changed so that this mistake is gone; −1 takes a role away. Undefined where only a person can tell. */
  readonly fix: ReadonlyMap<Role, number> | undefined;
  /** True where a body labelled so would come apart: nothing is solved with it. */
  readonly breaks: boolean;
}

export type Found = Omit<Mistake, 'breaks'>;

/** Joints between those of a limb, from the trunk outwards. */
export const LIMBS = [
  { name: 'arm', parts: ARM_PARTS },
  { name: 'leg', parts: LEG_PARTS },
] as const;
