import type { Rig } from '../rig';
import { extraRole, jointsOfChain, type Role, rolesOfBody } from '../label';
import { distance } from '../math/vec';
import type { PairingSettings } from '../recipe';
import type { Pairing } from './pairing';

/** A joint on one of the two rails of a ladder. */
export interface LadderJoint {
  readonly joint: number;
  readonly name: string;
  readonly role: Role;
  /** Distance along the chain from its base, 0…1. */
  readonly place: number;
}

/** A rung joins a joint of the character's rail to a place on the performer's. */
export interface LadderRung {
  /** The character's role. */
  readonly role: Role;
  /** Place on the performer's rail, and the two roles that it lies between. */
  readonly place: number;
  readonly a: Role;
  readonly b: Role;
  readonly t: number;
  readonly byHand: boolean;
}

/** One pair of chains: performer above, character below, rungs between linked joints. */
export interface Ladder {
  readonly chain: string;
  readonly performer: readonly LadderJoint[];
  readonly character: readonly LadderJoint[];
  readonly rungs: readonly LadderRung[];
  /** Roles of the character that nothing drives: they keep their rest. */
  readonly loose: readonly Role[];
}

/** The ladders of a pairing: one for each chain that either body has. */
export function laddersOf({ performer, character, links, extras }: Pairing, byHand: PairingSettings['links']): Ladder[] {
  const linkOf = new Map(links.map((link) => [link.joint, link]));
  const roleOf = (body: Rig): Map<number, Role> => new Map([...body.roles].map(([role, joint]) => [joint, role]));
  const theirs = roleOf(performer);
  const chains = [
    ...rolesOfBody().map(({ chain }) => ({
      chain,
      performer: jointsOfChain(performer.roles, chain),
      character: jointsOfChain(character.roles, chain),
    })),
    ...extras.map(({ name, joints, partner, partnerName }) => ({
      chain: `extra.${name}`,
      performer: (partner ?? []).map((joint, i) => ({ joint, role: extraRole(partnerName ?? name, i + 1) })),
      character: joints.map((joint, i) => ({ joint, role: extraRole(name, i + 1) })),
    })),
  ];
  return chains
    .filter((chain) => chain.performer.length + chain.character.length > 0)
    .map((chain) => {
      const rail = (body: Rig, joints: readonly { role: Role; joint: number }[]): LadderJoint[] => {
        const places = along(body, joints);
        return joints.map(({ role, joint }, i) => ({ joint, role, name: body.skeleton.names[joint], place: places[i] }));
      };
      const above = rail(performer, chain.performer);
      const below = rail(character, chain.character);
      const placeOf = new Map(above.map(({ joint, place }) => [joint, place]));
      const rungs: LadderRung[] = [];
      const loose: Role[] = [];
      for (const { joint, role } of below) {
        const link = linkOf.get(joint);
        const a = link && theirs.get(link.a);
        const b = link && theirs.get(link.b);
        if (!link || a === undefined || b === undefined) {
          loose.push(role);
          continue;
        }
        const from = placeOf.get(link.a) ?? 0;
        const to = placeOf.get(link.b) ?? from;
        rungs.push({ role, a, b, t: link.t, place: from + (to - from) * link.t, byHand: role in byHand });
      }
      return { chain: chain.chain, performer: above, character: below, rungs, loose };
    });
}

function along(body: Rig, joints: readonly { joint: number }[]): number[] {
  const p = body.restPose.positions;
  let at = 0;
  const out = joints.map(({ joint }, i) => (i === 0 ? 0 : (at += distance(p, joints[i - 1].joint * 3, p, joint * 3))));
  return out.map((v, i) => (at > 0 ? v / at : joints.length > 1 ? i / (joints.length - 1) : 0));
}

/** The rung that a place on the performer's rail stands for: on a joint when it is near one, else between two. */
export function rungAt(ladder: Pick<Ladder, 'performer'>, place: number, snap = 0.04): { a: Role; b: Role; t: number } | undefined {
  const rail = ladder.performer;
  if (rail.length === 0) return undefined;
  const near = rail.reduce((best, joint) => (Math.abs(joint.place - place) < Math.abs(best.place - place) ? joint : best));
  if (rail.length === 1 || Math.abs(near.place - place) <= snap || place <= rail[0].place) return { a: near.role, b: near.role, t: 0 };
  const k = rail.findIndex((joint) => joint.place > place);
  if (k <= 0) return { a: near.role, b: near.role, t: 0 };
  const [a, b] = [rail[k - 1], rail[k]];
  return { a: a.role, b: b.role, t: (place - a.place) / (b.place - a.place) };
}
