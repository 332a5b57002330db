import { chain } from '../../label';
import { copy, fromAxisAngle, identity, invMul, mul, normalize } from '../../math/quat';
import { length } from '../../math/vec';
import { emptyPose, forward, withAncestors, type Pose } from '../../skeleton';
import type { LimbTrack } from '../limbTrack';
import { placeBody } from '../placeBody';
import type { HandsGiven } from './given';

/** Turns of less than this are none, radians. */
export const NOTHING = 1e-4;

/** What of a body its trunk's help is told from. */
export interface HelpGiven extends Omit<HandsGiven, 'rotations'> {
  /** Local rotations of the posed body. */
  readonly posed: Float32Array;
}

/** A group of joints, from the body outwards, that turns together to bring a shoulder nearer. */
export interface Helper {
  readonly joints: readonly number[];
  /** Arms that it brings nearer. */
  readonly arms: readonly number[];
  /** Most that it turns, radians. */
  readonly most: number;
}

/** A joint that turns in the world with all helpers that it hangs on; or one that hangs on some and keeps its turn. */
interface Turned {
  readonly joint: number;
  /** Place among those that are turned, of the one above it; −1 for none. */
  readonly above: number;
  /** −1 for a joint that keeps its turn in the world. */
  readonly helper: number;
  /** Share of its helper's turn. */
  readonly share: number;
}

/** How a body leans. */
export interface Lean {
  /** Local rotations of the character, frames × joints × 4; those that were given where nothing leans. */
  readonly rotations: Float32Array;
  /** Turns of the helpers, rotation vectors in the world, 3 per frame; none where nothing leans. */
  readonly help: readonly Float64Array[];
}

/** The same with the body's arms through it. */
export interface LeanOfBody extends Lean {
  readonly arms: readonly LimbTrack[];
}

/** A posed body whose helpers turn, frame by frame; head and upper arms keep their turns in the world. */
export class Leaning implements Lean {
  /** Turns of the helpers, rotation vectors in the world, 3 per frame. */
  readonly help: readonly Float64Array[];
  /** Local rotations with the help. */
  readonly rotations: Float32Array;
  /** The body in the frame that was posed last. */
  readonly pose: Pose;
  private readonly turned: readonly Turned[];
  private readonly joints: Int32Array;
  private readonly translations: Float64Array;
  /** Turns in the world of those that are turned, in one frame. */
  private readonly turns: Float64Array;

  constructor(
    private readonly given: HelpGiven,
    arms: readonly LimbTrack[],
    helpers: readonly Helper[],
  ) {
    const { skeleton, roles } = given.pairing.character;
    const head = chain(roles, 'neck').at(0) ?? roles.get('head') ?? -1;
    const kept = [head, ...arms.map(({ plan }) => plan.joints[0])];
    this.turned = turnedIn(skeleton.parents, helpers, kept);
    this.turns = new Float64Array(this.turned.length * 4);
    this.help = helpers.map(() => new Float64Array(arms[0].frames * 3));
    this.rotations = given.posed.slice();
    this.pose = emptyPose(skeleton);
    this.translations = skeleton.restT.slice();
    this.joints = withAncestors(
      skeleton.parents,
      this.turned.map(({ joint }) => joint),
    );
  }

  /** Poses the body with the help, in a frame. */
  poseAt(f: number): void {
    this.posedBy(this.rotations, f);
  }

  /** Turns the body in a frame as its helpers are turned there. */
  turnAt(f: number): void {
    const { given, turned, turns, help, rotations, pose } = this;
    const { parents } = given.pairing.character.skeleton;
    const row = f * parents.length * 4;
    if (isStill(help, f)) {
      for (let i = 0; i < turned.length; i++) copy(rotations, row + turned[i].joint * 4, given.posed, row + turned[i].joint * 4);
      return;
    }
    this.posedBy(given.posed, f);
    for (let i = 0; i < turned.length; i++) {
      const { joint, above, helper, share } = turned[i];
      if (above >= 0) copy(q, 4, turns, above * 4);
      else identity(q, 4);
      const v = helper >= 0 ? help[helper] : undefined;
      const angle = v ? length(v, f * 3) : 0;
      if (!v) identity(turns, i * 4);
      else if (angle < NOTHING) copy(turns, i * 4, q, 4);
      else {
        fromAxisAngle(q, 0, v[f * 3] / angle, v[f * 3 + 1] / angle, v[f * 3 + 2] / angle, angle * share);
        mul(turns, i * 4, q, 0, q, 4);
      }
      // World turns of the joint itself and of its parent, both with the help.
      mul(q, 0, turns, i * 4, pose.rotations, joint * 4);
      const up = parents[joint];
      if (up < 0) copy(rotations, row + joint * 4, q, 0);
      else {
        mul(q, 4, q, 4, pose.rotations, up * 4);
        invMul(rotations, row + joint * 4, q, 4, q, 0);
      }
      normalize(rotations, row + joint * 4);
    }
  }

  private posedBy(rotations: Float32Array, f: number): void {
    const { given, joints, pose, translations } = this;
    const { parents } = given.pairing.character.skeleton;
    placeBody(translations, given, f);
    forward(pose, parents, translations, rotations, f * parents.length * 4, joints);
  }
}

function isStill(help: readonly Float64Array[], f: number): boolean {
  for (let h = 0; h < help.length; h++) if (length(help[h], f * 3) >= NOTHING) return false;
  return true;
}

/** Two rotations. */
const q = new Float64Array(8);

/** The joints that turn, parents before children. @param kept joints that keep their turns in the world where they hang on any that turns; −1 for none */
function turnedIn(parents: Int32Array, helpers: readonly Helper[], kept: readonly number[]): Turned[] {
  const turned: Turned[] = [];
  const add = (joint: number, helper: number, share: number): void => {
    let above = -1;
    for (let up = parents[joint]; up >= 0 && above < 0; up = parents[up]) above = turned.findIndex((one) => one.joint === up);
    if (helper >= 0 || above >= 0) turned.push({ joint, above, helper, share });
  };
  helpers.forEach(({ joints }, helper) => joints.forEach((joint) => add(joint, helper, 1 / joints.length)));
  for (const joint of kept) if (joint >= 0) add(joint, -1, 0);
  return turned;
}
