import { chain, SIDES, type Role, type RoleMap, type Side } from '../label';
import { rotate, unrotate } from '../math/quat';
import type { Hand, Rig } from '../rig';
import { pointInWorld } from '../skeleton';
import { speedLimits, speedOf } from './still';
import type { Watch } from './watch';

/** A part of a body that a hand may touch: a bone with its flesh. */
export interface BodyPartBone {
  readonly role: Role;
  readonly joint: number;
  /** The bone's other end: a joint, or a place in the joint's own frame. */
  readonly end: number;
  readonly tip: Float64Array | undefined;
  /** Half its thickness where nothing else is known, in shares of a leg. */
  readonly thick: number;
}

/** How a palm lies to a part, frame by frame: where along the bone (0 to 1), the unit way out of it, how far from its skin (metres). */
export const OUT = { along: 0, direction: 1, gap: 4, stride: 5 } as const;

/** A hand near a part of the own body over a take; the ways out are seen from the part, in the axes of the rest pose. */
export interface NearBody {
  readonly side: Side;
  readonly part: Role;
  readonly out: Float32Array;
}

export interface OnBody {
  readonly side: Side;
  readonly part: Role;
  readonly first: number;
  readonly last: number;
}

/** Thresholds in leg lengths and seconds. */
const ON_BODY_LIMITS = {
  /** A palm touches below the first when it goes along with the part, below the second however it moves. */
  near: [0.035, 0.012],
  gap: 0.12,
  shortest: [0.4, 0.25],
  /** Farther than this a hand has nothing to do with a part. */
  far: 0.2,
} as const;

const UP = Float64Array.of(0, 1, 0);

/** Parts that the hand of a side may touch: head, trunk, thighs, and the other arm. */
export function partsFor({ roles, restPose, legLength }: Rig, side: Side): BodyPartBone[] {
  const other = SIDES.find((one) => one !== side)!;
  const bone = (role: Role, end: Role | undefined, thick: number): BodyPartBone[] => {
    const [joint, to] = [roles.get(role), end === undefined ? undefined : roles.get(end)];
    return joint === undefined || to === undefined ? [] : [{ role, joint, end: to, tip: undefined, thick }];
  };
  const head = roles.get('head');
  const tip = UP.map((v) => v * 0.16 * legLength);
  if (head !== undefined) unrotate(tip, 0, restPose.rotations, head * 4, tip, 0);
  return [
    ...(head === undefined ? [] : [{ role: 'head', joint: head, end: -1, tip, thick: 0.09 }]),
    ...bone('hips', trunkTop(roles), 0.13),
    ...SIDES.flatMap((one) => bone(`${one}.upperLeg`, `${one}.lowerLeg`, 0.08)),
    ...bone(`${other}.upperArm`, `${other}.lowerArm`, 0.048),
    ...bone(`${other}.lowerArm`, `${other}.hand`, 0.038),
  ];
}

function trunkTop(roles: RoleMap): Role | undefined {
  if (roles.has('neck.1')) return 'neck.1';
  return chain(roles, 'spine').length > 0 ? `spine.${chain(roles, 'spine').length}` : 'head';
}

/** One hand with one part that it may touch. */
interface Pair {
  readonly hand: Hand;
  readonly part: BodyPartBone;
}

/** Watches both palms from all parts of the own body. */
export function watchOnBody(
  performer: Rig,
  frames: number,
): Watch & { readonly pairs: readonly Pair[]; readonly series: readonly (Float32Array | undefined)[] } {
  const { hands, legLength, restPose } = performer;
  const pairs = hands.flatMap((hand) => partsFor(performer, hand.side).map((part) => ({ hand, part })));
  const series = pairs.map(() => undefined as Float32Array | undefined);
  // The loop's inputs lie in flat lists: it runs for each pair in each frame.
  const joints = Int32Array.from(pairs, ({ part }) => part.joint);
  const ends = Int32Array.from(pairs, ({ part }) => part.end);
  const whose = Int32Array.from(pairs, ({ hand }) => hands.indexOf(hand) * 3);
  const thick = Float64Array.from(pairs, ({ part }) => part.thick * legLength);
  const far = ON_BODY_LIMITS.far * legLength;
  const palms = new Float64Array(hands.length * 3);
  const end = new Float64Array(3);
  const direction = new Float64Array(3);
  return {
    pairs,
    series,
    joints: pairs.flatMap(({ hand, part }) => [hand.hand, part.joint, ...(part.end >= 0 ? [part.end] : [])]),
    see: (f, pose) => {
      const { positions: p, rotations } = pose;
      for (let h = 0; h < hands.length; h++) pointInWorld(palms, h * 3, pose, hands[h].hand, hands[h].palm, 0);
      for (let i = 0; i < joints.length; i++) {
        const j = joints[i] * 3;
        const h = whose[i];
        const hx = palms[h] - p[j];
        const hy = palms[h + 1] - p[j + 1];
        const hz = palms[h + 2] - p[j + 2];
        let e = ends[i] * 3;
        let q = p;
        if (e < 0) {
          pointInWorld(end, 0, pose, joints[i], pairs[i].part.tip!, 0);
          q = end;
          e = 0;
        }
        const bx = q[e] - p[j];
        const by = q[e + 1] - p[j + 1];
        const bz = q[e + 2] - p[j + 2];
        const size = bx * bx + by * by + bz * bz;
        const reach = far + thick[i];
        // Farther from the joint than the bone is long, and as far as counts beyond it: most parts, most of the time. A bone's
        // square and that of the reach, twice, are no less than the square of both together.
        if (hx * hx + hy * hy + hz * hz > 2 * (size + reach * reach)) continue;
        const t = size < 1e-12 ? 0 : Math.max(0, Math.min(1, (bx * hx + by * hy + bz * hz) / size));
        const wx = hx - t * bx;
        const wy = hy - t * by;
        const wz = hz - t * bz;
        const d2 = wx * wx + wy * wy + wz * wz;
        if (d2 > reach * reach) continue;
        const d = Math.sqrt(d2);
        const out = (series[i] ??= new Float32Array(frames * OUT.stride).fill(NaN));
        const o = f * OUT.stride;
        const unit = d > 1e-9 ? 1 / d : 1;
        direction[0] = wx * unit;
        direction[1] = wy * unit;
        direction[2] = wz * unit;
        // Seen from the part, in the axes that it has at rest.
        unrotate(direction, 0, rotations, joints[i] * 4, direction, 0);
        rotate(out, o + OUT.direction, restPose.rotations, joints[i] * 4, direction, 0);
        out[o + OUT.along] = t;
        out[o + OUT.gap] = d - thick[i];
      }
    },
  };
}

/** Where the performer's hands touch its own body, once all frames have been watched. */
export function onBodyIn(
  { pairs: all, series }: ReturnType<typeof watchOnBody>,
  { hands, legLength }: Rig,
  frameTime: number,
): { readonly near: readonly NearBody[]; readonly spans: readonly OnBody[] } {
  const frames = (series.find((out) => out !== undefined)?.length ?? 0) / OUT.stride;
  const near: NearBody[] = [];
  const spans: OnBody[] = [];
  const taken = new Map<Side, Float32Array>();
  for (const { side } of hands) {
    const gaps = new Float32Array(frames).fill(Infinity);
    all.forEach(({ hand }, i) => {
      const out = series[i];
      if (hand.side !== side || !out) return;
      for (let f = 0; f < frames; f++) {
        const gap = out[f * OUT.stride + OUT.gap];
        if (gap < gaps[f]) gaps[f] = gap;
      }
    });
    taken.set(side, gaps);
  }
  all.forEach(({ hand: { side }, part: { role } }, i) => {
    const out = series[i];
    if (!out) return;
    near.push({ side, part: role, out });
    spans.push(...spansOf(out, taken.get(side)!, frames, frameTime, legLength).map((span) => ({ side, part: role, ...span })));
  });
  return { near, spans };
}

/** Where a palm is on a part: near it and going along with it, or very near; and nearer than to any other part. */
function spansOf(
  out: Float32Array,
  nearest: Float32Array,
  frames: number,
  frameTime: number,
  leg: number,
): { readonly first: number; readonly last: number }[] {
  let least = Infinity;
  for (let i = OUT.gap; i < out.length; i += OUT.stride) if (out[i] < least) least = out[i];
  // Most parts are never come near to.
  if (least > ON_BODY_LIMITS.near[0] * leg) return [];
  const places = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    const o = f * OUT.stride;
    const gap = out[o + OUT.gap];
    const away = Number.isNaN(gap) ? leg : Math.max(0, gap) + 0.1 * leg;
    for (let c = 0; c < 3; c++) places[f * 3 + c] = Number.isNaN(gap) ? 0 : out[o + OUT.direction + c] * away;
    if (!Number.isNaN(gap)) places[f * 3 + 1] += out[o + OUT.along] * 0.4 * leg;
  }
  const speed = speedOf(places, 3, frameTime);
  const [, off] = speedLimits(speed, leg);
  const { near, gap: longest, shortest } = ON_BODY_LIMITS;
  const spans: { first: number; last: number; close: boolean }[] = [];
  for (let f = 0; f < frames; f++) {
    const gap = out[f * OUT.stride + OUT.gap];
    const close = gap < near[1] * leg;
    if (!(gap <= nearest[f] + 1e-6) || !(close || (gap < near[0] * leg && speed[f] < off))) continue;
    const before = spans.at(-1);
    if (before && (f - before.last) * frameTime <= longest) {
      before.last = f;
      before.close ||= close;
    } else spans.push({ first: f, last: f, close });
  }
  return spans.filter(({ first, last, close }) => (last - first + 1) * frameTime >= (close ? shortest[1] : shortest[0]));
}
