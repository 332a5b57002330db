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
 * Hands that meet lie towards each other as the performer's do: palms, and finger tips the more the nearer these are, and nearer than the palms. Each
 * frame tells that by itself: what is seen of a meeting, as frames come, may be a part of it.
 * @param palms places of the character's palms, 3 per frame
 */
export function meetWants(given: HandsGiven, palms: readonly Float64Array[]): HandWant[] {
  const { contacts, pairing, frameTime } = given;
  const { hands } = contacts;
  const meetings = hands?.touches.filter(({ on }) => on === 'hand') ?? [];
  const [theirs, theirTips] = [bothOf(hands?.palms), bothOf(hands?.tips)];
  if (!theirs || !theirTips || meetings.length === 0) return [];
  const arms = armRatio(pairing);
  const leg = pairing.performer.legLength;
  const touching = TOUCHING * leg;
  const mine: Both = [palms[0], palms[1]];
  // A hand that is no more than its wrist has no tips.
  const tips = pairing.character.hands.every(({ hand, tip }) => tip.joint !== hand || length(tip.local, 0) > 0) ? tipsOf(given) : undefined;
  return meetings.map(({ first, last }): HandWant => {
    // Hands that touch do so in proportion to the arms; what is carried between them keeps the width that it has on this body. A short meeting is none
    // of carrying.
    const apart = meanApart(theirs, first, last);
    const isShort = (last - first + 1) * frameTime < TOUCH_LIMITS.meet[1];
    const wide = isShort ? arms : Math.min(WIDEST * arms, Math.max(arms / WIDEST, meanApart(mine, first, last) / apart));
    const ratio = arms + (wide - arms) * smoothstep((apart - touching) / touching);
    const target = targetOf(first, last, (f, out, at) => {
      const share = tips ? shareOfTips(apartIn(theirs, f) / leg, apartIn(theirTips, f) / leg) : 0;
      const posed = share > 0 ? tips?.(f) : undefined;
      for (let c = 0, i = f * 3; c < 3; c++, i++) {
        const ofPalms = ratio * between(theirs, i) - between(mine, i);
        out[at + c] = posed ? (1 - share) * ofPalms + share * (arms * between(theirTips, i) - between(posed, c)) : ofPalms;
      }
    });
    return { how: 'towards', hand: 0, first, last, target };
  });
}

/** One number of the way from the right hand to the left. */
function between([l, r]: Both, i: number): number {
  return l[i] - r[i];
}

/** How far finger tips, and not palms, are what meets, from 0 to 1, by how far apart both are in shares of a leg. */
function shareOfTips(palms: number, tips: number): number {
  const { touch, near } = TOUCH_LIMITS;
  return smoothstep((palms - tips) / touch) * smoothstep((near - tips) / (near - touch));
}

/** Places of both hands; undefined of a skeleton that has not both. */
function bothOf(places: readonly (Float64Array | undefined)[] = []): Both | undefined {
  const [l, r] = places;
  return l && r && [l, r];
}

/** How far apart both are in a frame, metres. */
function apartIn([l, r]: Both, f: number): number {
  return distance(l, f * 3, r, f * 3);
}

/** How far apart both are on the mean over a span, metres. */
function meanApart(both: Both, first: number, last: number): number {
  let sum = 0;
  for (let f = first; f <= last; f++) sum += apartIn(both, f);
  return sum / (last - first + 1);
}

/** Finds the finger tips of the posed character in a frame. @returns places that the next call overwrites */
function tipsOf(given: HandsGiven): (frame: number) => Both {
  const { skeleton, hands } = given.pairing.character;
  const chain = withAncestors(
    skeleton.parents,
    hands.map(({ tip }) => tip.joint),
  );
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const both: Both = [new Float64Array(3), new Float64Array(3)];
  return (f) => {
    placeBody(translations, given, f);
    forward(pose, skeleton.parents, translations, given.rotations, f * skeleton.parents.length * 4, chain);
    hands.forEach(({ tip }, k) => pointInWorld(both[k], 0, pose, tip.joint, tip.local, 0));
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
