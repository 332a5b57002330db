import { shinEnd, SIDES } from '../../label';
import { distance, turnLeft } from '../../math/vec';
import { unlikeLegs, type Rig } from '../../rig';
import type { Pose } from '../../skeleton';
import type { Case } from '../case';

/** One limb whose end has a place by the performer's directions. */
interface Limb {
  readonly name: string;
  readonly kind: 'feet' | 'hands';
  /** Joints from the root to the end, on both bodies; fewer where legs are alike as wholes only. */
  readonly mine: readonly number[];
  readonly theirs: readonly number[];
  /** Lengths of the character's bones between them; of a whole leg, a factor to the performer's. */
  readonly lengths: readonly number[];
  /** Lengths of the performer's. */
  readonly theirLengths: readonly number[];
  readonly isWhole: boolean;
}

/** Where the ends of the limbs are, and where the performer's directions with the character's lengths put them; frames × 3. */
export interface CopiedEnd {
  readonly name: string;
  readonly kind: 'feet' | 'hands';
  readonly mine: Float32Array;
  readonly copied: Float32Array;
  /** Where the performer's own end is; frames × 3. */
  readonly theirs: Float32Array;
  /** Length of the limb, metres. */
  readonly length: number;
  /** Lengths of the character's bones in it, and of the performer's, metres; of legs that are alike as wholes only there are none. */
  readonly bones: { readonly mine: readonly number[]; readonly theirs: readonly number[] };
}

function limbsOf(performer: Rig, character: Rig): Limb[] {
  const whole = unlikeLegs(performer, character);
  return SIDES.flatMap((side) => {
    const leg = ({ roles }: Rig): readonly string[] => (whole ? ['upperLeg', 'foot'] : ['upperLeg', 'lowerLeg', shinEnd(roles, side)]);
    return (
      [
        ['feet', leg(character), leg(performer)],
        ['hands', ['upperArm', 'lowerArm', 'hand'], ['upperArm', 'lowerArm', 'hand']],
      ] as const
    ).flatMap(([kind, mineParts, theirParts]): Limb[] => {
      const joints = ({ roles }: Rig, parts: readonly string[]): number[] => parts.flatMap((part) => roles.get(`${side}.${part}`) ?? []);
      const [mine, theirs] = [joints(character, mineParts), joints(performer, theirParts)];
      if (mine.length !== mineParts.length || theirs.length !== theirParts.length) return [];
      const isWhole = whole && kind === 'feet';
      const lengthsOf = ({ restPose }: Rig, joints: readonly number[]): number[] =>
        joints.slice(1).map((joint, i) => apart(restPose, joint, joints[i]));
      const lengths = lengthsOf(character, mine);
      return [
        {
          name: `${side} ${kind === 'feet' ? 'foot' : 'hand'}`,
          kind,
          mine,
          theirs,
          theirLengths: lengthsOf(performer, theirs),
          lengths: isWhole ? [character.legLength / performer.legLength] : lengths,
          isWhole,
        },
      ];
    });
  });
}

function apart({ positions }: Pose, a: number, b: number): number {
  return distance(positions, a * 3, positions, b * 3);
}

/**
 * Collects where limbs end and where they would end by the performer's directions alone: feet from the performer's hips on its own
 * path, scaled, hands from the character's own shoulder.
 */
export class CopyWatch {
  readonly ends: readonly CopiedEnd[];
  private readonly limbs: readonly Limb[];
  private readonly hips: readonly (readonly number[])[];
  private readonly halfWidth: number;
  private readonly factor: readonly number[];
  private readonly v = new Float64Array(3);

  constructor(private readonly given: Case) {
    const { performer, character, result, scale } = given;
    this.limbs = limbsOf(performer, character);
    this.hips = [character, performer].map(({ roles }) => SIDES.map((side) => roles.get(`${side}.upperLeg`)!));
    this.halfWidth = apart(character.restPose, this.hips[0][0], this.hips[0][1]) / 2;
    this.factor = [scale.stride, scale.lift, scale.stride];
    this.ends = this.limbs.map(({ name, kind, lengths, theirLengths, isWhole }) => ({
      name,
      kind,
      mine: new Float32Array(result.frames * 3),
      copied: new Float32Array(result.frames * 3),
      theirs: new Float32Array(result.frames * 3),
      bones: isWhole ? { mine: [], theirs: [] } : { mine: lengths, theirs: theirLengths },
      length: isWhole ? character.legLength : lengths.reduce((sum, length) => sum + length, 0),
    }));
  }

  see(frame: number, mine: Pose, theirs: Pose): void {
    const { limbs, ends, v, given, hips, factor } = this;
    const [p, q] = [mine.positions, theirs.positions];
    for (let i = 0; i < limbs.length; i++) {
      const { kind, mine: joints, theirs: theirJoints, lengths, isWhole } = limbs[i];
      const isLeg = kind === 'feet';
      v.fill(0);
      if (isLeg) this.addHip(theirJoints[0] === hips[1][0] ? 1 : -1, q);
      for (let k = 0; k < lengths.length; k++) {
        const [a, b] = [theirJoints[k] * 3, theirJoints[k + 1] * 3];
        const size = isWhole ? 1 : distance(q, b, q, a) || 1;
        for (let c = 0; c < 3; c++) v[c] += ((q[b + c] - q[a + c]) / size) * lengths[k];
      }
      if (given.heading) turnLeft(v, 0, given.heading[frame]);
      const end = joints[joints.length - 1] * 3;
      const theirEnd = theirJoints[theirJoints.length - 1] * 3;
      for (let c = 0; c < 3; c++) {
        // Sent another way, the body is elsewhere on the floor: there places count from its own hips.
        const [a, b] = [p[hips[0][0] * 3 + c] + p[hips[0][1] * 3 + c], q[hips[1][0] * 3 + c] + q[hips[1][1] * 3 + c]];
        const root = !isLeg ? p[joints[0] * 3 + c] : given.heading ? a / 2 : (b / 2) * factor[c];
        ends[i].mine[frame * 3 + c] = p[end + c];
        ends[i].theirs[frame * 3 + c] = q[theirEnd + c];
        ends[i].copied[frame * 3 + c] = root + v[c];
      }
    }
  }

  /** Adds the way from the middle of the hips to one hip joint: the performer's direction, the character's width. */
  private addHip(sign: number, q: Float64Array): void {
    const [a, b] = [this.hips[1][1] * 3, this.hips[1][0] * 3];
    const size = distance(q, b, q, a) || 1;
    for (let c = 0; c < 3; c++) this.v[c] += (sign * this.halfWidth * (q[b + c] - q[a + c])) / size;
  }
}
