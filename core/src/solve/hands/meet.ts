import { TOUCH_LIMITS, type Hands } from '../../contact';
import { SIDES } from '../../label';
import type { Pairing } from '../../match';
import { smoothstep } from '../../math/filter';
import { distance } from '../../math/vec';
import { targetOf, type HandWant } from './wants';

/** Palms nearer than this share of a leg touch, and must on the character too. */
const TOUCHING = 0.16;
/** A carried thing may be this much wider or narrower than the arms are longer or shorter. */
const WIDEST = 1.6;

/** Hands that meet lie towards each other as the performer's do. @param palms places of the character's palms, 3 per frame */
export function meetWants(
  { palms: [l, r], touches }: Hands,
  palms: readonly Float64Array[],
  pairing: Pairing,
  frameTime: number,
): HandWant[] {
  const meetings = touches.filter(({ on }) => on === 'hand');
  if (!l || !r || meetings.length === 0) return [];
  const arms = armRatio(pairing);
  const touching = TOUCHING * pairing.performer.legLength;
  return meetings.map(({ first, last }) => {
    // Hands that touch do so in proportion to the arms; what is carried between them keeps the width that it has on this body.
    let theirs = 0;
    let mine = 0;
    for (let f = first; f <= last; f++) {
      theirs += distance(l, f * 3, r, f * 3);
      mine += distance(palms[0], f * 3, palms[1], f * 3);
    }
    const apart = theirs / (last - first + 1);
    // A short meeting is none of carrying: it is one of palms, or of finger tips with palms farther apart.
    const isShort = (last - first + 1) * frameTime < TOUCH_LIMITS.meet[1];
    const wide = Math.min(WIDEST * arms, Math.max(arms / WIDEST, mine / theirs));
    const ratio = isShort ? arms : arms + (wide - arms) * smoothstep((apart - touching) / touching);
    const target = targetOf(first, last, (f, out, at) => {
      for (let i = f * 3, c = 0; c < 3; c++, i++) out[at + c] = ratio * (l[i] - r[i]) - (palms[0][i] - palms[1][i]);
    });
    return { how: 'towards', hand: 0, first, last, target };
  });
}

/** How much longer the character's arms are than the performer's. */
function armRatio({ performer, character }: Pairing): number {
  const length = ({ roles, restPose: { positions } }: Pairing['performer']): number =>
    SIDES.reduce((sum, side) => {
      const [a, b, c] = ['upperArm', 'lowerArm', 'hand'].map((part) => roles.get(`${side}.${part}`)! * 3);
      return sum + distance(positions, a, positions, b) + distance(positions, b, positions, c);
    }, 0);
  return length(character) / length(performer);
}
