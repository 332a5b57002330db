import type { Role } from '../../label';
import type { Rig } from '../../rig';
import type { Pose } from '../../skeleton';
import { lastSpine } from './directions';
import { stillJerk, type Jerk } from './jerks';
import { relative, spinJerk, stepOf } from './motion';

/** A joint that both bodies have, and the shared joint above it; −1 for the world. */
interface SharedJoint {
  readonly role: Role;
  readonly mine: number;
  readonly theirs: number;
  readonly mineAbove: number;
  readonly theirsAbove: number;
}

const SHARED = /^(hips|head|(left|right)\.(upperArm|lowerArm|hand|upperLeg|lowerLeg|foot|(thumb|index|middle|ring|little)\.\d))$/;

function sharedJoints(performer: Rig, character: Rig): SharedJoint[] {
  const roles = [...character.roles.keys()].filter((role) => SHARED.test(role) && performer.roles.has(role));
  const above = (rig: Rig, role: Role): number => {
    const roleOf = new Map(roles.filter((other) => other !== role).map((other) => [rig.roles.get(other)!, other]));
    // The head turns against the chest: the spine's counts may differ, its end does not.
    const chest = role === 'head' ? lastSpine(rig) : undefined;
    for (let j = rig.skeleton.parents[rig.roles.get(role)!]; j >= 0; j = rig.skeleton.parents[j])
      if (j === chest || roleOf.has(j)) return j;
    return -1;
  };
  return roles.map((role) => ({
    role,
    mine: character.roles.get(role)!,
    theirs: performer.roles.get(role)!,
    mineAbove: above(character, role),
    theirsAbove: above(performer, role),
  }));
}

/** Turns of both bodies' joints against the one above, of one frame. */
interface Turns {
  readonly mine: Float64Array;
  readonly theirs: Float64Array;
}

/** How far joints that both bodies have turn from frame to frame, and the jerks of hands and head. */
export class TurnWatch {
  readonly roles: readonly Role[];
  /** Turn of each joint from the frame before, radians, frames × roles. */
  readonly mine: Float32Array;
  readonly theirs: Float32Array;
  /** By name. */
  readonly jerks = new Map<string, Jerk>();
  private readonly shared: readonly SharedJoint[];
  private readonly spins: readonly { readonly i: number; readonly jerk: Jerk; readonly past: Float64Array }[];
  private now: Turns;
  private before: Turns;

  constructor(performer: Rig, character: Rig, frames: number) {
    this.shared = sharedJoints(performer, character);
    this.roles = this.shared.map(({ role }) => role);
    const count = this.shared.length;
    this.mine = new Float32Array(frames * count);
    this.theirs = new Float32Array(frames * count);
    const none = (): Turns => ({ mine: new Float64Array(count * 4), theirs: new Float64Array(count * 4) });
    this.now = none();
    this.before = none();
    this.spins = this.roles.flatMap((role, i) => {
      const kind = role === 'head' ? ('neck' as const) : role.endsWith('.hand') ? ('wrists' as const) : undefined;
      if (!kind) return [];
      const jerk = stillJerk(kind, frames);
      this.jerks.set(kind === 'neck' ? 'head' : role.replace('.', ' '), jerk);
      return [{ i, jerk, past: new Float64Array(6) }];
    });
  }

  see(f: number, mine: Pose, theirs: Pose): void {
    const { shared, spins, now, before } = this;
    const count = shared.length;
    for (let i = 0; i < count; i++) {
      const joint = shared[i];
      relative(now.mine, i * 4, mine.rotations, joint.mine, joint.mineAbove);
      relative(now.theirs, i * 4, theirs.rotations, joint.theirs, joint.theirsAbove);
      if (f === 0) continue;
      this.mine[f * count + i] = stepOf(before.mine, now.mine, i * 4);
      this.theirs[f * count + i] = stepOf(before.theirs, now.theirs, i * 4);
    }
    for (let s = 0; f > 0 && s < spins.length; s++) {
      const { i, jerk, past } = spins[s];
      jerk.mine[f] = spinJerk(before.mine, now.mine, i * 4, past, 0);
      jerk.theirs[f] = spinJerk(before.theirs, now.theirs, i * 4, past, 3);
    }
    this.now = before;
    this.before = now;
  }
}
