import { TOUCH_LIMITS } from '../../contact';
import { SIDES } from '../../label';
import type { Pairing } from '../../match';
import { smoothstep } from '../../math/filter';
import { distance, length } from '../../math/vec';
import { emptyPose, forward, pointInWorld, withAncestors } from '../../skeleton';
import { placeBody } from '../placeBody';
import type { HandsGiven } from './given';
import { targetOf, type HandWant } from './wants';

/** Palms nearer than this share of a leg touch, and must on the character too. */
const TOUCHING = 0.16;
/** A carried thing may be this much wider or narrower than the arms are longer or shorter. */
const WIDEST = 1.6;

/** Places over time, 3 per frame, of the left hand and of the right. */
type Both = readonly [Float64Array, Float64Array];

/**
 * Hands that meet lie towards each other as the performer's do: palms, or finger tips where these alone touch.
 * @param palms places of the character's palms, 3 per frame
 */
export function meetWants(given: HandsGiven, palms: readonly Float64Array[]): HandWant[] {
  const { contacts, pairing, frameTime } = given;
  const { hands } = contacts;
  const meetings = hands?.touches.filter(({ on }) => on === 'hand') ?? [];
  const [theirPalms, theirTips] = [bothOf(hands?.palms), bothOf(hands?.tips)];
  if (!theirPalms || !theirTips || meetings.length === 0) return [];
  const arms = armRatio(pairing);
  const leg = pairing.performer.legLength;
  const touching = TOUCHING * leg;
  const tips = tipsOf(given, palms[0].length);
  // A hand that is no more than its wrist has none.
  const haveTips = pairing.character.hands.every(({ hand, tip }) => tip.joint !== hand || length(tip.local, 0) > 0);
  return meetings.map(({ first, last }): HandWant => {
    const apart = meanApart(theirPalms, first, last);
    const areTips = haveTips && !touch(theirPalms, first, last, leg) && touch(theirTips, first, last, leg);
    const theirs = areTips ? theirTips : theirPalms;
    const mine: Both = areTips ? tips(first, last) : [palms[0], palms[1]];
    // A short meeting is none of carrying, nor is one of finger tips. Hands that touch do so in proportion to the arms; what is carried between them
    // keeps the width that it has on this body.
    const isCarried = !areTips && (last - first + 1) * frameTime >= TOUCH_LIMITS.meet[1];
    const wide = isCarried ? Math.min(WIDEST * arms, Math.max(arms / WIDEST, meanApart(mine, first, last) / apart)) : arms;
    const ratio = arms + (wide - arms) * smoothstep((apart - touching) / touching);
    const target = targetOf(first, last, (f, out, at) => {
      for (let i = f * 3, c = 0; c < 3; c++, i++) out[at + c] = ratio * (theirs[0][i] - theirs[1][i]) - (mine[0][i] - mine[1][i]);
    });
    return { how: 'towards', hand: 0, first, last, target };
  });
}

/** Places of both hands; undefined of a skeleton that has not both. */
function bothOf(places: readonly (Float64Array | undefined)[] = []): Both | undefined {
  const [l, r] = places;
  return l && r && [l, r];
}

/** Whether both touch within a span. @param leg the performer's, metres */
function touch([l, r]: Both, first: number, last: number, leg: number): boolean {
  for (let f = first; f <= last; f++) if (distance(l, f * 3, r, f * 3) < TOUCH_LIMITS.touch * leg) return true;
  return false;
}

/** How far apart both are on the mean over a span, metres. */
function meanApart([l, r]: Both, first: number, last: number): number {
  let sum = 0;
  for (let f = first; f <= last; f++) sum += distance(l, f * 3, r, f * 3);
  return sum / (last - first + 1);
}

/** Finds the finger tips of the posed character over spans of frames. @param size of places over all frames */
function tipsOf(given: HandsGiven, size: number): (first: number, last: number) => Both {
  const { skeleton, hands } = given.pairing.character;
  const chain = withAncestors(
    skeleton.parents,
    hands.map(({ tip }) => tip.joint),
  );
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const both: Both = [new Float64Array(size), new Float64Array(size)];
  return (first, last) => {
    for (let f = first; f <= last; f++) {
      placeBody(translations, given, f);
      forward(pose, skeleton.parents, translations, given.rotations, f * skeleton.parents.length * 4, chain);
      hands.forEach(({ tip }, k) => pointInWorld(both[k], f * 3, pose, tip.joint, tip.local, 0));
    }
    return both;
  };
}

/** How much longer the character's arms are than the performer's. */
function armRatio({ performer, character }: Pairing): number {
  const long = ({ roles, restPose: { positions } }: Pairing['performer']): number =>
    SIDES.reduce((sum, side) => {
      const [a, b, c] = ['upperArm', 'lowerArm', 'hand'].map((part) => roles.get(`${side}.${part}`)! * 3);
      return sum + distance(positions, a, positions, b) + distance(positions, b, positions, c);
    }, 0);
  return long(character) / long(performer);
}
