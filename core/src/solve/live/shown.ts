import { SIDES } from '../../label';
import type { Rig } from '../../rig';
import { emptyPose, forward, withAncestors, type Pose } from '../../skeleton';
import { isHeldAt } from '../goOn';
import type { Past, PastEnd } from '../past';
import type { Solved } from '../solve';
import type { FootPlan } from '../stances';

/** What has been shown of a character, as far back as anything goes on from it. */
export class Shown {
  private readonly moves: Float64Array;
  private readonly feet: readonly PastEnd[];
  private readonly hands: readonly PastEnd[];
  private readonly joints: {
    readonly feet: readonly number[];
    readonly hands: readonly number[];
    readonly toes: readonly (number | undefined)[];
    readonly chain: Int32Array;
  };
  private readonly pose: Pose;
  private readonly translations: Float64Array;
  private help: readonly Float64Array[] = [];
  private elbows: readonly (Float64Array | undefined)[] = [];
  private stood: readonly FootPlan[] = [];
  private landed: readonly number[] = [0, 0];
  private readonly toes: readonly (Float64Array | undefined)[];
  private swings: Float64Array = new Float64Array(0);
  /** Number of the frame that is kept first. */
  private first = 0;

  /** @param mover the joint that carries the body @param room frames that are taken down at most */
  constructor(
    private readonly character: Rig,
    private readonly mover: number,
    room: number,
  ) {
    const { roles, skeleton } = character;
    const ends = (part: 'foot' | 'hand'): number[] => SIDES.flatMap((side) => roles.get(`${side}.${part}`) ?? []);
    const [feet, hands] = [ends('foot'), ends('hand')];
    const empty = (): PastEnd => ({ places: new Float64Array(room * 3), turns: new Float64Array(room * 4) });
    const toes = SIDES.map((side) => roles.get(`${side}.toes`));
    this.joints = {
      feet,
      hands,
      toes,
      chain: withAncestors(skeleton.parents, [...feet, ...hands, ...toes.flatMap((joint) => joint ?? [])]),
    };
    this.toes = toes.map((joint) => (joint === undefined ? undefined : new Float64Array(4)));
    this.moves = new Float64Array(room * 3);
    this.feet = feet.map(empty);
    this.hands = hands.map(empty);
    this.pose = emptyPose(skeleton);
    this.translations = skeleton.restT.slice();
  }

  /** The first frames as what is final; undefined for none. @param known how many are known */
  past(frames: number, known: number): Past | undefined {
    const { moves, feet, hands, toes, help, elbows, stood, landed, swings } = this;
    return frames > 0 ? { frames, known, moves, feet, hands, toes, help, elbows, stood, landed, swings } : undefined;
  }

  /** Takes down frames of a solved clip, from one up to before another. */
  take({ finish, feet, lean, arms, tails }: Solved, from: number, until: number): void {
    const { rotations, moves } = finish.clip;
    const { pose, translations, joints, mover } = this;
    const { parents } = this.character.skeleton;
    const size = parents.length * 4;
    for (let f = from; f < until; f++) {
      for (const { joint, values } of moves) {
        for (let c = 0; c < 3; c++) translations[joint * 3 + c] = values[f * 3 + c];
        if (joint === mover) for (let c = 0; c < 3; c++) this.moves[f * 3 + c] = values[f * 3 + c];
      }
      forward(pose, parents, translations, rotations, f * size, joints.chain);
      copyEnds(this.feet, joints.feet, pose, f);
      copyEnds(this.hands, joints.hands, pose, f);
    }
    this.toes.forEach((turn, k) => turn?.set(pose.rotations.subarray(joints.toes[k]! * 4, joints.toes[k]! * 4 + 4)));
    this.help = lean.help.map((turns) => turns.slice());
    this.elbows = arms.map(({ swing }) => swing?.slice());
    this.landed = feet.landed;
    this.swings = tails.swings.slice((until - 1) * tails.width, until * tails.width);
    this.stood = feet.plans.map(({ anchors, flats }) => ({
      anchors: anchors.filter((one) => isHeldAt(one, until - 1)),
      flats: flats.filter(({ last }) => last >= until - 1),
    }));
  }

  /** Lets the frames before one go. @param first its number; from then on it is frame 0 */
  beginAt(first: number): void {
    const count = first - this.first;
    if (count === 0) return;
    this.first = first;
    this.moves.copyWithin(0, count * 3);
    for (const { places, turns } of [...this.feet, ...this.hands]) {
      places.copyWithin(0, count * 3);
      turns.copyWithin(0, count * 4);
    }
    for (const turns of this.help) turns.copyWithin(0, count * 3);
    for (const angles of this.elbows) angles?.copyWithin(0, count);
    const earlier = <T extends { readonly first: number; readonly last: number }>(span: T): T => ({
      ...span,
      first: span.first - count,
      last: span.last - count,
    });
    this.stood = this.stood.map(({ anchors, flats }) => ({ anchors: anchors.map(earlier), flats: flats.map(earlier) }));
  }
}

function copyEnds(ends: readonly PastEnd[], joints: readonly number[], { positions, rotations }: Pose, f: number): void {
  for (let k = 0; k < ends.length; k++) {
    const { places, turns } = ends[k];
    for (let c = 0; c < 3; c++) places[f * 3 + c] = positions[joints[k] * 3 + c];
    for (let c = 0; c < 4; c++) turns[f * 4 + c] = rotations[joints[k] * 4 + c];
  }
}
