import type { Look } from '../look/look';
import type { Found } from '../figure';
import type { Scene } from '../scene';

/** How fast a limb turns on both bodies, frame by frame. */
export interface Pace {
  readonly name: string;
  readonly mine: Float64Array;
  readonly theirs: Float64Array;
}

export interface Lag {
  readonly name: string;
  /** Frames by which the character follows; negative when it goes before. */
  readonly frames: number;
}

/** Longest lag that is looked for, seconds. */
const LONGEST = 0.12;
/** The shifted paces must agree this much better than the unshifted ones, and those disagree by this share of what moves. */
const BETTER = 0.6;
const APART = 0.002;
/** Frames that are compared, about. */
const COMPARED = 350;

/**
 * The time by which each limb follows the performer's: the shift at which both turn alike fastest and slowest at the same time
 * (least squares of their paces). A limb that hardly moves has none.
 */
export function lagsOf(paces: readonly Pace[], frameTime: number): Lag[] {
  const most = Math.max(1, Math.round(LONGEST / frameTime));
  return paces.map(({ name, mine, theirs }) => {
    const frames = mine.length;
    const step = Math.max(1, Math.floor(frames / COMPARED));
    const apart = (shift: number): number => {
      let sum = 0;
      let size = 1e-12;
      for (let f = most; f < frames - most; f += step) {
        const a = mine[f + shift];
        const b = theirs[f];
        sum += (a - b) * (a - b);
        size += a * a + b * b;
      }
      return sum / size;
    };
    const now = apart(0);
    if (frames < 8 * most || now < APART) return { name, frames: 0 };
    let best = 0;
    let least = now;
    for (let shift = -most; shift <= most; shift++) {
      const value = apart(shift);
      if (value < least) [best, least] = [shift, value];
    }
    return { name, frames: least < BETTER * now ? best : 0 };
  });
}

/** How fast each limb turns: the turns of its joints together. */
export function pacesOf({ frames, roles, myTurns, theirTurns }: Look) {
  const limbs: readonly (readonly [string, RegExp])[] = [
    ['the left arm', /^left\.(upperArm|lowerArm)$/],
    ['the right arm', /^right\.(upperArm|lowerArm)$/],
    ['the left leg', /^left\.(upperLeg|lowerLeg)$/],
    ['the right leg', /^right\.(upperLeg|lowerLeg)$/],
    ['the head', /^head$/],
  ];
  return limbs.map(([name, pattern]) => {
    const of = (turns: Float32Array): Float64Array => {
      const out = new Float64Array(frames);
      roles.forEach((role, i) => {
        if (pattern.test(role)) for (let f = 0; f < frames; f++) out[f] += turns[f * roles.length + i];
      });
      return out;
    };
    return { name, mine: of(myTurns), theirs: of(theirTurns) };
  });
}

/** Time by which a limb follows the performer's. */
export function lag({ given, seen }: Scene): Found {
  const lags = lagsOf(pacesOf(seen), given.take.frameTime);
  const worst = lags.reduce((a, b) => (Math.abs(b.frames) > Math.abs(a.frames) ? b : a), { name: '', frames: 0 });
  const off = Math.abs(worst.frames);
  return {
    id: 'lag',
    value: seen.frames > 20 ? off : NaN,
    looked: `${lags.length} limbs`,
    words: off === 0 ? 'none' : `${worst.name} ${worst.frames > 0 ? 'comes late' : 'comes early'} by ${off} frames`,
  };
}
