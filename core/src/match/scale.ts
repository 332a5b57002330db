import { legChain, type Rig } from '../rig';
import { SIDES } from '../label';
import { distance } from '../math/vec';
import type { SameBody } from './likeness';
import type { RestMatch } from './restMatch';

/** How the performer's places become the character's. */
export interface Scale {
  /** Vertical: hip height of the character over the performer's, at matched rest. */
  readonly lift: number;
  /** Horizontal: leg length over leg length. */
  readonly stride: number;
  readonly reason: string;
}

/**
 * Stage 4. Heights count from the lowest joint of the feet plus the depth of the sole; a sole that is not known on one
 * side is taken from the other, in proportion, so that a guess never scales a motion.
 * @param lowestFoot height of the lowest foot joint of the character in the matched rest
 * @returns the scale, and how deep the character's soles lie with it, metres
 */
export function findScale(
  performer: Rig,
  character: Rig,
  match: RestMatch,
  same: SameBody,
  lowestFoot: number,
): { readonly scale: Scale; readonly sole: number } {
  let characterSole = character.sole.depth;
  if (same.same) {
    return {
      scale: { lift: same.ratio, stride: same.ratio, reason: `the same body, ${percent(same.ratio)} of the performer's size` },
      sole: characterSole,
    };
  }
  const p = match.pose.positions;
  const hips = (side: string): number => p[character.roles.get(`${side}.upperLeg`)! * 3 + 1];
  const joints = (hips('left') + hips('right')) / 2 - lowestFoot;
  const own = joints / performer.hipHeight;
  const isKnown = (body: Rig): boolean => body.sole.known !== 'no';
  let performerSole = performer.sole.depth;
  if (!isKnown(performer) && isKnown(character)) performerSole = characterSole / own;
  else if (!isKnown(character) || character.sole.known === 'take') characterSole = performerSole * own;
  const lift = (joints + characterSole) / (performer.hipHeight + performerSole);
  const legC = legOf(character) + characterSole;
  const legP = legOf(performer) + performerSole;
  const stride = legC / legP;
  return {
    scale: {
      lift,
      stride,
      reason: `hips ${metres(joints + characterSole)} over the sole to the performer's ${metres(performer.hipHeight + performerSole)}; legs ${metres(legC)} to ${metres(legP)}`,
    },
    sole: characterSole,
  };
}

/** Leg along the bones plus the ankle's height over the lowest joint of the foot. */
function legOf(body: Rig): number {
  const p = body.restPose.positions;
  let chains = 0;
  for (const side of SIDES) {
    const joints = legChain(body.roles, side);
    for (let i = 1; i < joints.length; i++) chains += distance(p, joints[i - 1] * 3, p, joints[i] * 3) / 2;
  }
  const ankle = body.feet.reduce((sum, foot) => sum + foot.ankleHeight, 0) / Math.max(1, body.feet.length);
  return chains + ankle - body.sole.depth;
}

const metres = (value: number): string => `${value.toFixed(2)} m`;
const percent = (value: number): string => `${(value * 100).toFixed(1)} %`;
