import type { Pairing } from '../match';
import { fromAxisAngle, invMul, mul, normalize, rotate } from '../math/quat';
import { DEG } from '../math/trig';
import { SIDES, type Side } from '../label';
import type { TouchUp } from '../recipe';
import type { Skeleton } from '../skeleton';
import { curveOf } from './curve';
import { turnsOf, type JointTurn } from './turns';

/** One touch-up made ready: how it turns joints, and by how many degrees in each frame. */
export interface LaidTouchUp {
  readonly turns: readonly JointTurn[];
  readonly curve: Float64Array;
}

/** Touch-ups of one transfer, in the order in which they are laid on. */
export interface LaidTouchUps {
  /** Those that move what carries the body: hips and legs. */
  readonly below: readonly LaidTouchUp[];
  readonly above: readonly LaidTouchUp[];
  /** How much higher the hips go, metres, frame by frame; undefined for none. */
  readonly rise: Float64Array | undefined;
  /** Where the body goes instead; undefined for where the take goes. */
  readonly steer: Steering | undefined;
  /** Where feet stand instead; undefined for where the take puts them. */
  readonly steps: Steps | undefined;
}

/** Another way over the floor, frame by frame. */
export interface Steering {
  /** How far the way is turned to the left, radians. */
  readonly heading: Float64Array;
  /** By which share each step of the way is longer. */
  readonly longer: Float64Array;
  /** How far the body stands from there, metres, to the left and ahead as the performer faces at rest. */
  readonly left: Float64Array;
  readonly ahead: Float64Array;
}

/** Other places for what stands, frame by frame: metres out and ahead as the foot points, and radians turned out. */
export interface Steps {
  readonly left: StepsOf;
  readonly right: StepsOf;
}
export type StepsOf = Readonly<Record<'out' | 'ahead' | 'turn', Float64Array>>;

/** Touch-ups that turn no joint. */
const STEERS = ['heading', 'travel', 'placeLeft', 'placeAhead'] as const;
const isSteer = ({ kind }: TouchUp): boolean => STEERS.some((steer) => steer === kind);
const isStep = ({ kind }: TouchUp): boolean => kind === 'stepsOut' || kind === 'stepsAhead' || kind === 'stepsTurned';

export const NO_TOUCH_UPS: LaidTouchUps = { below: [], above: [], rise: undefined, steer: undefined, steps: undefined };

/** Touch-ups by what they change, so that each kind is made ready, and solved again, only when it has changed itself. */
function partTouchUps({ character }: Pairing, list: readonly TouchUp[], turns: (touchUp: TouchUp) => readonly JointTurn[]) {
  const { parents } = character.skeleton;
  const carrying = new Set<number>();
  for (const side of SIDES) {
    const end = character.roles.get(`${side}.toes`) ?? character.roles.get(`${side}.foot`) ?? -1;
    for (let j = end; j >= 0; j = parents[j]) carrying.add(j);
  }
  const on = list.filter((touchUp) => touchUp.on && touchUp.kind !== 'hips' && !isSteer(touchUp) && !isStep(touchUp));
  const isBelow = (touchUp: TouchUp): boolean => turns(touchUp).some(({ joint }) => carrying.has(joint));
  return {
    below: on.filter(isBelow),
    above: on.filter((touchUp) => !isBelow(touchUp)),
    rise: list.filter((touchUp) => touchUp.on && touchUp.kind === 'hips'),
    steer: list.filter((touchUp) => touchUp.on && isSteer(touchUp)),
    steps: list.filter((touchUp) => touchUp.on && isStep(touchUp)),
  };
}

const CENTIMETRE = 0.01;

/** Keeps what was made from the same inputs. */
type Remember = <T>(name: string, from: readonly unknown[], make: () => T) => T;

/**
 * Makes touch-ups ready for a pairing and a take.
 * @param time of the take: `of` gives its own second of a frame
 * @param remember what is left unchanged keeps its identity by it
 */
export function layTouchUps(
  pairing: Pairing,
  list: readonly TouchUp[],
  time: { readonly frames: number; readonly of: (frame: number) => number },
  remember: Remember = (_, __, make) => make(),
): LaidTouchUps {
  if (list.length === 0) return NO_TOUCH_UPS;
  const turns = (touchUp: TouchUp): readonly JointTurn[] => turnsOf(pairing, touchUp);
  const parts = partTouchUps(pairing, list, turns);
  const curve = (touchUp: TouchUp): Float64Array => curveOf(touchUp, time.frames, time.of);
  const lay = (part: 'below' | 'above'): readonly LaidTouchUp[] =>
    parts[part].length === 0
      ? NO_TOUCH_UPS[part]
      : remember(part, [parts[part]], () => parts[part].map((touchUp) => ({ turns: turns(touchUp), curve: curve(touchUp) })));
  const sum = (of: readonly TouchUp[], unit: number): Float64Array => {
    const out = new Float64Array(time.frames);
    for (const touchUp of of) curve(touchUp).forEach((amount, f) => (out[f] += amount * unit));
    return out;
  };
  const steer = (kind: TouchUp['kind'], unit: number): Float64Array =>
    sum(
      parts.steer.filter((touchUp) => touchUp.kind === kind),
      unit,
    );
  const steps = (side: Side): StepsOf => {
    const of = (kind: TouchUp['kind'], unit: number): Float64Array =>
      sum(
        parts.steps.filter((touchUp) => touchUp.kind === kind && (touchUp.side === 'both' || touchUp.side === side)),
        unit,
      );
    return { out: of('stepsOut', CENTIMETRE), ahead: of('stepsAhead', CENTIMETRE), turn: of('stepsTurned', DEG) };
  };
  return {
    below: lay('below'),
    above: lay('above'),
    rise: parts.rise.length === 0 ? undefined : remember('rise', [parts.rise], () => sum(parts.rise, CENTIMETRE)),
    steer:
      parts.steer.length === 0
        ? undefined
        : remember('steer', [parts.steer], () => ({
            heading: steer('heading', DEG),
            longer: steer('travel', 0.01),
            left: steer('placeLeft', CENTIMETRE),
            ahead: steer('placeAhead', CENTIMETRE),
          })),
    steps: parts.steps.length === 0 ? undefined : remember('steps', [parts.steps], () => ({ left: steps('left'), right: steps('right') })),
  };
}

/**
 * Touch-ups as they are in some frames of a take, counted from the first.
 * @param begins how far from its own way a body that is steered is in the first of them, metres, to the left and ahead
 */
export function cutTouchUps(
  { below, above, rise, steer, steps }: LaidTouchUps,
  [first, last]: readonly [number, number],
  begins: readonly [left: number, ahead: number],
): LaidTouchUps {
  const part = (curve: Float64Array): Float64Array => curve.slice(first, last + 1);
  const list = (of: readonly LaidTouchUp[]): readonly LaidTouchUp[] => of.map((one) => ({ ...one, curve: part(one.curve) }));
  const stepsOf = ({ out, ahead, turn }: StepsOf): StepsOf => ({ out: part(out), ahead: part(ahead), turn: part(turn) });
  return {
    below: list(below),
    above: list(above),
    rise: rise && part(rise),
    steer: steer && {
      heading: part(steer.heading),
      longer: part(steer.longer),
      left: part(steer.left).map((v) => v + begins[0]),
      ahead: part(steer.ahead).map((v) => v + begins[1]),
    },
    steps: steps && { left: stepsOf(steps.left), right: stepsOf(steps.right) },
  };
}

/**
 * Lays touch-ups on a pose over time.
 * @param rotations local rotations, frames × joints × 4
 * @returns the rotations themselves where there is nothing to lay on, else a changed copy
 */
export function laidOn(list: readonly LaidTouchUp[], { parents, restT }: Skeleton, rotations: Float32Array): Float32Array {
  if (list.length === 0) return rotations;
  const out = rotations.slice();
  const width = parents.length * 4;
  const q = new Float64Array(4);
  const whole = new Float64Array(4);
  const back = new Float64Array(4);
  const way = new Float64Array(3);
  const bone = new Float64Array(3);
  for (const { turns, curve } of list) {
    for (const { joint, axis: fixed, share, keep, path } of turns) {
      let told = NaN;
      for (let f = 0, row = 0; f < curve.length; f++, row += width) {
        const angle = curve[f] * share * DEG;
        if (angle === 0) continue;
        const o = row + joint * 4;
        if (keep >= 0) followDown(row, path);
        if (fixed) {
          // Most are the same from frame to frame.
          if (angle !== told) fromAxisAngle(q, 0, fixed[0], fixed[1], fixed[2], angle);
          told = angle;
        } else {
          const n = Math.sqrt(way[0] * way[0] + way[1] * way[1] + way[2] * way[2]);
          if (n < 1e-9) continue;
          fromAxisAngle(q, 0, way[0] / n, way[1] / n, way[2] / n, angle);
        }
        mul(out, o, q, 0, out, o);
        normalize(out, o);
        if (keep < 0) continue;
        // Turns given to joints above are taken out of the joint that keeps its orientation.
        mul(back, 0, q, 0, whole, 0);
        invMul(back, 0, back, 0, whole, 0);
        mul(out, row + keep * 4, back, 0, out, row + keep * 4);
        normalize(out, row + keep * 4);
      }
    }
  }
  return out;

  /** `whole` = the turns from the first joint of a path down to the one before its last, `way` = the way from the first to the last. */
  function followDown(row: number, path: readonly number[]): void {
    for (let c = 0; c < 4; c++) whole[c] = out[row + path[0] * 4 + c];
    way.fill(0);
    for (let i = 1; i < path.length; i++) {
      const j = path[i];
      rotate(bone, 0, whole, 0, restT, j * 3);
      for (let c = 0; c < 3; c++) way[c] += bone[c];
      if (i < path.length - 1) mul(whole, 0, whole, 0, out, row + j * 4);
    }
  }
}
