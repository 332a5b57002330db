import { SIDES } from '../../label';
import { square } from '../../math/numbers';
import type { Pose } from '../../skeleton';
import type { Case } from '../case';
import { stillJerk, type Jerk } from './jerks';

/** Where both hip joints stand among the places of each body. */
export function hipJointsOf({ performer, character }: Pick<Case, 'performer' | 'character'>): { mine: number[]; theirs: number[] } {
  const [mine, theirs] = [character, performer].map(({ roles }) => SIDES.map((side) => roles.get(`${side}.upperLeg`)! * 3));
  return { mine, theirs };
}

/** The middle of the hip joints, and its jerks. */
export class HipWatch {
  /** Frames × 3; the performer's scaled, on its own path. */
  readonly places: { readonly mine: Float64Array; readonly theirs: Float64Array };
  readonly jerk: Jerk;
  private readonly joints: { readonly mine: readonly number[]; readonly theirs: readonly number[] };
  private readonly factor: readonly number[];
  /** Of each body the last place and the one before. */
  private readonly past = new Float64Array(12);

  constructor({ performer, character, scale, result: { frames } }: Case) {
    this.places = { mine: new Float64Array(frames * 3), theirs: new Float64Array(frames * 3) };
    this.jerk = stillJerk('hips', frames);
    this.joints = hipJointsOf({ performer, character });
    this.factor = [scale.stride, scale.lift, scale.stride];
  }

  see(f: number, mine: Pose, theirs: Pose): void {
    const { places, jerk, joints, factor, past } = this;
    let myJerk = 0;
    let theirJerk = 0;
    for (let c = 0; c < 3; c++) {
      const x = (mine.positions[joints.mine[0] + c] + mine.positions[joints.mine[1] + c]) / 2;
      const y = ((theirs.positions[joints.theirs[0] + c] + theirs.positions[joints.theirs[1] + c]) / 2) * factor[c];
      myJerk += square(x - 2 * past[c] + past[3 + c]);
      theirJerk += square(y - 2 * past[6 + c] + past[9 + c]);
      past[3 + c] = past[c];
      past[c] = x;
      past[9 + c] = past[6 + c];
      past[6 + c] = y;
      places.mine[f * 3 + c] = x;
      places.theirs[f * 3 + c] = y;
    }
    if (f < 2) return;
    jerk.mine[f] = Math.sqrt(myJerk);
    jerk.theirs[f] = Math.sqrt(theirJerk);
  }
}
