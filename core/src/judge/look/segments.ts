import { FINGERS, mirrorRole, type Role } from '../../label';
import { square } from '../../math/numbers';
import { acos } from '../../math/trig';
import { turnLeft } from '../../math/vec';
import { limbSegments, unlikeLegs } from '../../rig';
import type { Pose } from '../../skeleton';
import type { Case } from '../case';
import { curlOf, sharedFingers } from './directions';
import { hipJointsOf } from './hips';
import { bodyFrame, direction, inFrame } from './motion';

const [a, b, m] = [new Float64Array(3), new Float64Array(3), new Float64Array(3)];
const [myFrame, theirFrame] = [new Float64Array(9), new Float64Array(9)];

/** Segments of limbs that both bodies have, with the performer's on the other side. */
function sharedSegments({ performer, character }: Case) {
  const areWholes = unlikeLegs(performer, character);
  const theirs = new Map(limbSegments(performer, areWholes).map((segment) => [segment.role, segment]));
  return limbSegments(character, areWholes).flatMap((segment) => {
    const same = theirs.get(segment.role);
    const other = theirs.get(mirrorRole(segment.role));
    if (!same || !other || FINGERS.some((finger) => segment.role.includes(finger))) return [];
    return [{ role: segment.role, mine: segment, theirs: same, other, sum: 0 }];
  });
}

/** How far like segments of limbs point apart, how far fingers are bent otherwise, and whether a mirror image would be more alike. */
export class SegmentWatch {
  /** Frames that were compared. */
  compared = 0;
  /** Sums of squares between unit directions seen from the body, and between those and the mirror image's. */
  readonly apart = { straight: 0, mirrored: 0 };
  private readonly segments;
  private readonly fingers;
  private readonly hips;

  constructor(private readonly given: Case) {
    this.segments = sharedSegments(given);
    this.fingers = sharedFingers(given.performer, given.character).map((finger) => ({ ...finger, sum: 0 }));
    this.hips = hipJointsOf(given);
  }

  /** Mean angle between like segments, radians, by role. */
  get angles(): ReadonlyMap<Role, number> {
    return new Map(this.segments.map(({ role, sum }) => [role, sum / Math.max(1, this.compared)]));
  }

  /** Mean difference of each finger's bend, radians. */
  get curls(): ReadonlyMap<string, number> {
    return new Map(this.fingers.map(({ name, sum }) => [name, sum / Math.max(1, this.compared)]));
  }

  see(f: number, mine: Pose, theirs: Pose): void {
    const { segments, fingers, hips, apart } = this;
    const { heading } = this.given;
    this.compared++;
    bodyFrame(myFrame, mine.positions, hips.mine);
    bodyFrame(theirFrame, theirs.positions, hips.theirs);
    for (let k = 0; k < fingers.length; k++) fingers[k].sum += Math.abs(curlOf(mine, fingers[k].mine) - curlOf(theirs, fingers[k].theirs));
    for (let k = 0; k < segments.length; k++) {
      const segment = segments[k];
      direction(a, mine.positions, segment.mine.joint, segment.mine.end);
      direction(b, theirs.positions, segment.theirs.joint, segment.theirs.end);
      if (heading) turnLeft(b, 0, heading[f]);
      segment.sum += acos(a[0] * b[0] + a[1] * b[1] + a[2] * b[2]);
      direction(m, theirs.positions, segment.other.joint, segment.other.end);
      inFrame(a, myFrame);
      if (heading) turnLeft(b, 0, -heading[f]);
      inFrame(b, theirFrame);
      inFrame(m, theirFrame);
      apart.straight += square(a[0] - b[0]) + square(a[1] - b[1]) + square(a[2] - b[2]);
      apart.mirrored += square(a[0] + m[0]) + square(a[1] - m[1]) + square(a[2] - m[2]);
    }
  }
}
