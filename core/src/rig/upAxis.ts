import { ClipReader, type Clip } from '../clip';
import { chain, type RoleMap } from '../label';
import { type Skeleton, UP_AXES, type UpAxis, upVector } from '../skeleton';

export interface UpGuess {
  readonly up: UpAxis;
  readonly reason: string;
}

const SAMPLES = 240;

/** Trunk direction of a pose, and how far the legs point the other way (1 for a body standing straight). */
function trunkOf(p: Float64Array, roles: RoleMap): { trunk: number[]; standing: number } | undefined {
  const hips = roles.get('hips');
  const spine = chain(roles, 'spine');
  const top = roles.get('neck.1') ?? roles.get('head') ?? spine[spine.length - 1];
  if (hips === undefined || top === undefined) return undefined;
  const v = (a: number, b: number): number[] => [0, 1, 2].map((c) => p[b * 3 + c] - p[a * 3 + c]);
  const unit = (a: number[]): number[] => {
    const n = Math.sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2]) || 1;
    return a.map((x) => x / n);
  };
  const trunk = unit(v(hips, top));
  let standing = 0;
  for (const side of ['left', 'right']) {
    const hip = roles.get(`${side}.upperLeg`);
    const foot = roles.get(`${side}.foot`);
    if (hip === undefined || foot === undefined) return undefined;
    const leg = unit(v(hip, foot));
    standing -= 0.5 * (leg[0] * trunk[0] + leg[1] * trunk[1] + leg[2] * trunk[2]);
  }
  return { trunk, standing };
}

function nearestAxis(v: readonly number[]): { up: UpAxis; cosine: number } {
  const n = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]) || 1;
  let best: { up: UpAxis; cosine: number } = { up: '+Y', cosine: -2 };
  for (const up of UP_AXES) {
    const u = upVector(up);
    const cosine = (u[0] * v[0] + u[1] * v[1] + u[2] * v[2]) / n;
    if (cosine > best.cosine + 1e-6) best = { up, cosine };
  }
  return best;
}

/** A body that lies stretched out looks as one that stands: its rest pose decides where so much of the take agrees with it. */
const AGREES = 0.05;

/**
 * Guesses which axis of the file points up: the trunk of the standing frames of its motion, else of its rest pose,
 * else +Y. Crouching frames do not vote; nor do lying ones where the rest pose, and part of the take, stand along another axis.
 */
export function guessUp(skeleton: Skeleton, clip: Clip | undefined, rest: Float64Array, roles: RoleMap): UpGuess {
  const found = trunkOf(rest, roles);
  const own = found && found.standing > 0.5 ? nearestAxis(found.trunk) : undefined;
  const resting = own && own.cosine > 0.75 ? own.up : undefined;
  if (clip !== undefined && clip.frames > 0) {
    const reader = new ClipReader(skeleton, clip);
    const sum = [0, 0, 0];
    let standing = 0;
    let agreeing = 0;
    const step = Math.max(1, Math.floor(clip.frames / SAMPLES));
    for (let f = 0; f < clip.frames; f += step) {
      const pose = trunkOf(reader.at(f).positions, roles);
      if (!pose || pose.standing < 0.8) continue;
      standing++;
      for (let c = 0; c < 3; c++) sum[c] += pose.trunk[c];
      if (nearestAxis(pose.trunk).up === resting) agreeing++;
    }
    const axis = nearestAxis(sum);
    const up = resting !== undefined && agreeing > AGREES * standing ? resting : axis.up;
    if (standing > 0 && (up === resting || axis.cosine > 0.75)) return { up, reason: `the body stands along ${up} in the take` };
  }
  if (resting !== undefined) return { up: resting, reason: `the body stands along ${resting} in its rest pose` };
  return { up: '+Y', reason: 'the body stands along no clear axis; +Y is taken' };
}
