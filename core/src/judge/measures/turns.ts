import { frameOrNone, type Found } from '../figure';
import type { Scene } from '../scene';

/** Greatest turn about a bone beyond the performer's own. */
export function twist({ given, seen, at }: Scene): Found {
  const { degrees, joint, frame } = seen.twist;
  const words = joint < 0 ? 'no more than the performer’s' : `${given.character.skeleton.names[joint]} at ${at(frame)}`;
  return { id: 'twist', value: degrees, looked: `${seen.frames} frames`, words, frame: joint < 0 ? undefined : frame };
}

/** Limbs locked straight where the performer's are bent. */
export function stretched({ seen, at }: Scene): Found {
  const { frames: locked, first, limb } = seen.stretched;
  return {
    id: 'stretched',
    value: (100 * locked) / seen.frames,
    looked: `${seen.frames} frames`,
    words: locked === 0 ? 'none' : `first the ${limb} at ${at(first)}`,
    frame: frameOrNone(locked === 0 ? -1 : first),
  };
}
