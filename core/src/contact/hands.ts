import type { Clip } from '../clip';
import { chain, SIDES, type Role, type Side } from '../label';
import { unrotate } from '../math/quat';
import { distance, dot, length } from '../math/vec';
import type { Rig } from '../rig';
import { pointInWorld } from '../skeleton';
import { onBodyIn, watchOnBody, type NearBody } from './onBody';
import { besideHolds, propsIn, watchProps, type PropTrack } from './props';
import { restsOf, speedLimits, speedOf, STILL_LIMITS, type Span } from './still';
import { watch, type Watch } from './watch';

/** A span of frames, both ends included, in which a hand meets the other hand or the own body, or rests on something not seen, or holds a prop. */
export interface Touch {
  readonly side: Side;
  /** `hand`: of both, the left one is named. */
  readonly on: 'rest' | 'hand' | 'body' | 'prop';
  /** Of a touch on the body or on a prop: the role of the part. */
  readonly part?: Role;
  readonly first: number;
  readonly last: number;
}

/** The hands of a performer over time: palms and finger tips in the world, and what they touch. */
export interface Hands {
  /** Palms, 3 per frame, left and right; of a hand that the skeleton has not, nothing. */
  readonly palms: readonly (Float64Array | undefined)[];
  /** Tips of the longest fingers, likewise. */
  readonly tips: readonly (Float64Array | undefined)[];
  readonly touches: readonly Touch[];
  /** How hands lie to the parts of the own body that they come near. */
  readonly near?: readonly NearBody[];
  /** Things beside the body that the take records too. */
  readonly props?: readonly PropTrack[];
}

/** Thresholds in leg lengths, leg lengths a second, and seconds. */
export const TOUCH_LIMITS = {
  ...STILL_LIMITS,
  /** Palms or finger tips that come this near touch, and meet as long as they are no farther apart than the second, however fast they are. */
  touch: 0.075,
  near: 0.16,
  /** Palms this near meet while they stay so towards each other; ahead of the body up to the second: they carry something. */
  held: [0.28, 0.85],
  ahead: 0.25,
  gap: 0.1,
  /** Shortest meeting of palms that touch, and of others. */
  meet: [0.03, 0.9],
  /** Palms that do not touch hold something where the way between them changes by less than both go over the chest: squares, by less than this share. */
  along: 0.5,
  /** A palm that rests lower over the floor rests on it; one that is put down on it carries as a foot does, and may rest no longer. */
  onFloor: 0.07,
  brief: 0.1,
} as const;

/** How contacts of hands are told. */
interface Telling {
  /** Factor on the speeds of rest. */
  readonly ease?: number;
  /** Height of a level floor under the performer, metres; undefined where that is not known. */
  readonly floor?: number;
  /** More frames come behind the last: what is not over there may still touch, or last. */
  readonly goesOn?: boolean;
}

/** Where the performer's hands rest, where they meet, and where they are on the own body, from performer and clip alone. */
export function findHands(performer: Rig, clip: Clip, telling: Telling = {}): Hands {
  const hands = watchHands(performer, clip.frames);
  const body = watchOnBody(performer, clip.frames);
  const props = watchProps(performer, clip.frames);
  watch(performer.skeleton, clip, [hands, body, props]);
  return handsIn({ hands, body, props }, performer, clip, telling);
}

/** What was watched of the hands, alone, by the own body and by props. */
interface WatchedHands {
  readonly hands: ReturnType<typeof watchHands>;
  readonly body: ReturnType<typeof watchOnBody>;
  readonly props: ReturnType<typeof watchProps>;
}

/** Contacts of the hands, once all frames have been watched. */
export function handsIn(
  { hands: { palms, tips, between }, body, props: things }: WatchedHands,
  performer: Rig,
  { frames, frameTime }: Clip,
  { ease = 1, floor, goesOn = false }: Telling,
): Hands {
  const leg = performer.legLength;
  const touches: Touch[] = palms.flatMap((palm, i) =>
    palm ? palmRests(palm, frameTime, leg, ease, floor).map((span) => ({ side: SIDES[i], on: 'rest' as const, ...span })) : [],
  );
  if (between) {
    const resting = new Uint8Array(frames);
    for (const { first, last } of touches) resting.fill(1, first, last + 1);
    touches.push(
      ...meetingsOf(between, resting, { frameTime, leg, goesOn }).map((span) => ({ side: SIDES[0], on: 'hand' as const, ...span })),
    );
  }
  const { near, spans } = onBodyIn(body, performer, frameTime);
  const meeting = touches.filter(({ on }) => on === 'hand');
  // Hands that meet keep to each other.
  const apart = spans.filter(({ first, last }) => !meeting.some((touch) => touch.first <= last && touch.last >= first));
  touches.push(...apart.map((span) => ({ ...span, on: 'body' as const })));
  if (things.props.length === 0) return { palms, tips, touches, near };
  const { tracks, holds } = propsIn(things, performer, frameTime, ease);
  return { palms, tips, touches: [...besideHolds(touches, holds, frameTime), ...holds], near, props: tracks };
}

/** Where a palm rests: for some time anywhere, or a moment on the floor. */
function palmRests(palm: Float64Array, frameTime: number, leg: number, ease: number, floor: number | undefined): Span[] {
  const rests = restsOf(palm, frameTime, leg, { ease });
  if (floor === undefined) return rests;
  const { onFloor, brief } = TOUCH_LIMITS;
  const may = (f: number): boolean => palm[f * 3 + 1] - floor < onFloor * leg;
  const down = restsOf(palm, frameTime, leg, { ease, may, shortest: brief });
  const added = down.filter(({ first, last }) => !rests.some((rest) => rest.first <= last && rest.last >= first));
  return added.length === 0 ? rests : [...rests, ...added].sort((a, b) => a.first - b.first);
}

/**
 * How both palms lie towards each other, seen from the chest: the way from the right one to the left, the middle between them, how far ahead that is, and
 * how far apart the nearer of palms and finger tips are.
 */
const BETWEEN = { middle: 3, ahead: 6, nearest: 7, stride: 8 } as const;

/** Watches palms and finger tips. */
export function watchHands(
  { hands, roles, restPose, forward }: Rig,
  frames: number,
): Watch & Pick<Hands, 'palms' | 'tips'> & { readonly between: Float64Array | undefined } {
  const chest = chain(roles, 'spine').at(-1) ?? roles.get('hips')!;
  const found = SIDES.map((side) => hands.find((hand) => hand.side === side));
  const [palms, tips] = [0, 1].map(() => found.map((hand) => hand && new Float64Array(frames * 3)));
  const [l, r] = palms;
  const between = l && r ? new Float64Array(frames * BETWEEN.stride) : undefined;
  const ahead = new Float64Array(3);
  unrotate(ahead, 0, restPose.rotations, chest * 4, forward, 0);
  const v = new Float64Array(3);
  return {
    palms,
    tips,
    between,
    joints: [...hands.flatMap(({ hand, tip }) => [hand, tip.joint]), chest],
    see: (f, pose) => {
      for (let i = 0; i < 2; i++) {
        const hand = found[i];
        if (!hand) continue;
        pointInWorld(palms[i]!, f * 3, pose, hand.hand, hand.palm, 0);
        pointInWorld(tips[i]!, f * 3, pose, hand.tip.joint, hand.tip.local, 0);
      }
      if (!between || !l || !r) return;
      const o = f * BETWEEN.stride;
      for (let c = 0; c < 3; c++) v[c] = (l[f * 3 + c] + r[f * 3 + c]) / 2 - pose.positions[chest * 3 + c];
      const middle = o + BETWEEN.middle;
      unrotate(between, middle, pose.rotations, chest * 4, v, 0);
      between[o + BETWEEN.ahead] = dot(between, middle, ahead, 0);
      for (let c = 0; c < 3; c++) v[c] = l[f * 3 + c] - r[f * 3 + c];
      unrotate(between, o, pose.rotations, chest * 4, v, 0);
      between[o + BETWEEN.nearest] = Math.min(length(v, 0), distance(tips[0]!, f * 3, tips[1]!, f * 3));
    },
  };
}

/**
 * Where both palms meet, or go together as they do with something between them. A hand that rests while the other is away from it holds to what it rests
 * on, not to the other hand.
 * @param resting 1 in frames in which either palm rests
 */
function meetingsOf(
  between: Float64Array,
  resting: Uint8Array,
  { frameTime, leg, goesOn }: { readonly frameTime: number; readonly leg: number; readonly goesOn: boolean },
): Span[] {
  const speed = speedOf(between, BETWEEN.stride, frameTime);
  const [, off] = speedLimits(speed, leg);
  const { touch, near, held, ahead, gap, meet, along } = TOUCH_LIMITS;
  const frames = speed.length;
  const together = new Uint8Array(frames);
  const touching = new Uint8Array(frames);
  for (let f = 0; f < frames; f++) {
    const o = f * BETWEEN.stride;
    const apart = length(between, o) / leg;
    const still = speed[f] < off;
    const carried = !resting[f] && apart < held[1] && between[o + BETWEEN.ahead] > ahead * leg;
    const nearest = between[o + BETWEEN.nearest] / leg;
    touching[f] = nearest < touch ? 1 : 0;
    together[f] = nearest < near || (still && (apart < held[0] || carried)) ? 1 : 0;
  }
  const spans: Span[] = [];
  for (let f = 0; f < frames; f++) {
    if (!together[f]) continue;
    let last = f;
    while (last + 1 < frames && together[last + 1]) last++;
    const before = spans.at(-1);
    if (before && (f - before.last) * frameTime <= gap) spans[spans.length - 1] = { first: before.first, last };
    else spans.push({ first: f, last });
    f = last;
  }
  return spans.filter(({ first, last }) => {
    const seconds = (last - first + 1) * frameTime;
    if ((goesOn && last === frames - 1) || touching.subarray(first, last + 1).includes(1)) return seconds >= meet[0];
    const spreadOf = (at: number): number =>
      spread(between.subarray(first * BETWEEN.stride + at, (last + 1) * BETWEEN.stride), BETWEEN.stride);
    return seconds >= meet[1] && spreadOf(0) < along * spreadOf(BETWEEN.middle);
  });
}

/** How far the places at the beginning of records of some size are from their mean, squared, in mean. */
function spread(records: Float64Array, stride: number): number {
  const count = Math.ceil(records.length / stride);
  let squares = 0;
  for (let c = 0; c < 3; c++) {
    let mean = 0;
    for (let i = c; i < records.length; i += stride) mean += records[i] / count;
    for (let i = c; i < records.length; i += stride) squares += (records[i] - mean) * (records[i] - mean);
  }
  return squares / count;
}
