import { shinEnd, SIDES } from '../../label';
import { acos, DEG } from '../../math/trig';
import type { Rig } from '../../rig';
import type { Pose } from '../../skeleton';
import { stillJerk, type Jerk, type JerkKind } from './jerks';

/** A bend below the first while the performer's is above the second locks a limb straight, radians. */
const LOCKED = 1.5 * DEG;
const BENT = 8 * DEG;

/** The bend of one limb on one body: three joints. */
type Bend = readonly [top: number, mid: number, end: number];

/** Knees and elbows of both bodies. */
function bendsOf(performer: Rig, character: Rig): { name: string; kind: JerkKind; mine: Bend; theirs: Bend }[] {
  return SIDES.flatMap((side) => {
    const of = ({ roles }: Rig, parts: readonly string[]): Bend => parts.map((part) => roles.get(`${side}.${part}`)!) as unknown as Bend;
    const leg = (rig: Rig): Bend => of(rig, ['upperLeg', 'lowerLeg', shinEnd(rig.roles, side)]);
    const arm = ['upperArm', 'lowerArm', 'hand'];
    return [
      { name: `${side} knee`, kind: 'knees' as const, mine: leg(character), theirs: leg(performer) },
      { name: `${side} elbow`, kind: 'elbows' as const, mine: of(character, arm), theirs: of(performer, arm) },
    ];
  });
}

/** Angle by which a limb is bent, radians; 0 for a straight one. */
function bendAt(p: Float64Array, bend: Bend): number {
  const top = bend[0];
  const mid = bend[1];
  const end = bend[2];
  const ux = p[mid * 3] - p[top * 3];
  const uy = p[mid * 3 + 1] - p[top * 3 + 1];
  const uz = p[mid * 3 + 2] - p[top * 3 + 2];
  const wx = p[end * 3] - p[mid * 3];
  const wy = p[end * 3 + 1] - p[mid * 3 + 1];
  const wz = p[end * 3 + 2] - p[mid * 3 + 2];
  const n = Math.sqrt((ux * ux + uy * uy + uz * uz) * (wx * wx + wy * wy + wz * wz));
  return n < 1e-18 ? 0 : acos((ux * wx + uy * wy + uz * wz) / n);
}

/** The bends of knees and elbows, and limbs that are locked straight. */
export class BendWatch {
  /** By name. */
  readonly jerks: ReadonlyMap<string, Jerk>;
  /** Frames in which a limb is straight whose performer's is bent, the first of them, and which limb. */
  stretched = { frames: 0, first: -1, limb: '' };
  private readonly bends;

  constructor(performer: Rig, character: Rig, frames: number) {
    // Of each body the last bend and the one before.
    this.bends = bendsOf(performer, character).map((bend) => ({ ...bend, jerk: stillJerk(bend.kind, frames), past: new Float64Array(4) }));
    this.jerks = new Map(this.bends.map(({ name, jerk }) => [name, jerk]));
  }

  see(f: number, mine: Pose, theirs: Pose): void {
    let locked = '';
    for (let k = 0; k < this.bends.length; k++) {
      const bend = this.bends[k];
      const x = bendAt(mine.positions, bend.mine);
      const y = bendAt(theirs.positions, bend.theirs);
      if (x < LOCKED && y > BENT) locked = bend.name;
      const { past, jerk } = bend;
      if (f > 1) {
        jerk.mine[f] = Math.abs(x - 2 * past[0] + past[1]);
        jerk.theirs[f] = Math.abs(y - 2 * past[2] + past[3]);
      }
      past[1] = past[0];
      past[0] = x;
      past[3] = past[2];
      past[2] = y;
    }
    if (locked === '') return;
    const { frames, first, limb } = this.stretched;
    this.stretched = { frames: frames + 1, first: first < 0 ? f : first, limb: limb || locked };
  }
}
