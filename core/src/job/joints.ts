/** Jobs whose pairing goes joint by joint. */
import { clipToBasis, MAX_FRAMES, MAX_SAMPLES, resampledFrames, type Clip } from '../clip';
import type { Contacts } from '../contact';
import { fail } from '../errors';
import type { MotionFile } from '../formats';
import { carryJoints, heldTo, layInto } from '../joints';
import type { JointCase } from '../judge';
import type { Pairing } from '../match';
import type { ByJoint, Carry, Into } from '../recipe';
import type { Rig } from '../rig';
import type { Transfer } from '../solve';
import { jointKeys } from '../skeleton';

/** Nothing rests on anything. */
export const NO_CONTACTS: Contacts = { plants: [], floor: 0 };

/** A take that is carried over, and what it is laid into. */
export interface Carrying {
  /** As it is carried: without the frames in which what it is laid into plays alone. */
  readonly take: Clip;
  /** A motion of the character's own that it is laid into. */
  readonly into?: { readonly base: Clip; readonly how: Into; readonly first: number };
}

/**
 * What a take is laid into, and the take held at both ends so that it lies frame for frame beside the whole.
 * @throws FaultError option where there is no such motion, or the whole were too long
 */
export function layTake(file: MotionFile, rig: Rig, settings: ByJoint, take: Clip): { carrying: Carrying; held: Clip } {
  const { into } = settings;
  if (!into) return { carrying: { take }, held: take };
  const own = file.clips[into.clip - 1] as Clip | undefined;
  if (!own || own.frames === 0) {
    const message = `the take is laid into motion ${into.clip} of the character, and its file holds ${file.clips.length}`;
    fail('option', message, { file: file.name });
  }
  const base = clipToBasis(file.skeleton, own, rig.basis);
  const first = Math.round(into.at / take.frameTime);
  const there = resampledFrames(base.frames, base.frameTime, take.frameTime);
  const frames = into.way === 'insert' ? Math.max(there, first) + take.frames : Math.max(there, first + take.frames);
  if (frames > MAX_FRAMES || frames * rig.skeleton.names.length * 4 > MAX_SAMPLES) {
    fail('option', `laid in at ${into.at} s the motion has ${frames} frames, more than can be held; lay it in earlier`, {
      file: file.name,
    });
  }
  return { carrying: { take, into: { base, how: into, first } }, held: heldTo(take, first, frames) };
}

/** The take on the character, joint by joint. @param held frame for frame beside the result */
export function carryOver(pairing: Pairing & { joints: NonNullable<Pairing['joints']> }, { take, into }: Carrying): Clip {
  const { performer, character, joints } = pairing;
  const carried = carryJoints(performer, character, joints.map, joints.settings, take);
  if (!into) return carried;
  const driven = new Uint8Array(character.skeleton.names.length);
  for (const { target } of joints.map.pairs) driven[target] = 1;
  return layInto(character.skeleton, into.base, carried, into.how, driven).clip;
}

/** A transfer joint by joint as the judge looks at it: only where the take plays whole. */
export function jointCaseOf({ pairing, take, clip }: Transfer, carrying: Carrying | undefined): JointCase {
  const { performer, character, joints } = pairing;
  const { map, settings } = joints!;
  const keys = jointKeys(character.skeleton);
  const into = carrying?.into;
  const mixed = into?.how.way === 'merge' && into.how.weight < 1;
  const edge = into ? Math.round(into.how.ease / take.frameTime) : 0;
  const [from, to] = into ? [into.first + edge, into.first + carrying.take.frames - 1 - edge] : [0, clip.frames - 1];
  return {
    performer,
    character,
    take,
    result: clip,
    // What is mixed with another motion is no copy of either.
    first: mixed ? 1 : from,
    last: mixed ? 0 : to,
    channels: map.pairs.map(({ target, sources }) => ({
      joint: target,
      sources,
      carry: (settings.own[keys[target]] as Carry | undefined) ?? settings.carry,
    })),
    canMove: character.canMove,
    still: into ? [] : character.skeleton.names.map((_, j) => j).filter((j) => !map.pairs.some(({ target }) => target === j)),
    heading: map.heading,
    size: map.size,
  };
}
