import type { Fault } from '../errors';
import { pairJoints, type JointMap } from '../joints';
import type { ByJoint } from '../recipe';
import { copyPose, type Rig } from '../rig';
import type { Pairing } from './pairing';

/** Pairs two rigs joint by joint: no rest is matched and no limb linked, each rest stands as it is. */
export function makeJointPairing(performer: Rig, character: Rig, settings: ByJoint): Pairing {
  const map = pairJoints(performer, character, settings);
  const reason = settings.size === null ? 'the middle ratio of the ways between paired joints at rest' : 'set by hand';
  return {
    performer,
    character,
    same: { same: false, ratio: map.size },
    match: {
      pose: copyPose(character.restPose),
      rotations: character.skeleton.restR,
      undriven: character.skeleton.restR,
      method: 'joint by joint',
      residuals: [],
    },
    scale: { lift: map.size, stride: map.size, reason },
    links: [],
    extras: [],
    propSize: 1,
    twins: undefined,
    joints: { map, settings },
    warnings: warningsOf(map, performer, character),
  };
}

const MOST_NAMED = 8;

function warningsOf({ pairs, unknown, clashes }: JointMap, performer: Rig, character: Rig): Fault[] {
  const out: Fault[] = [];
  if (pairs.length === 0) {
    const message = 'no joint is paired: pair them by another way on Match, write a rule for their names, or pair them by hand';
    out.push({ code: 'match/joints', message, where: { file: character.name } });
  }
  for (const name of unknown.slice(0, MOST_NAMED)) {
    out.push({
      code: 'option',
      message: 'what is decided about this joint is left out: there is no such joint here',
      where: { joint: name },
    });
  }
  for (const { of, joints } of clashes.slice(0, MOST_NAMED)) {
    const { name, skeleton } = of === 'performer' ? performer : character;
    const names = joints.map((joint) => skeleton.names[joint]).join(', ');
    const message = `${names} have one name but for prefix, case and signs: they are paired by their place in the tree; pair them by hand where that is wrong`;
    out.push({ code: 'match/joints', message, where: { file: name } });
  }
  return out;
}
