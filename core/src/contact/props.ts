import { SIDES, type Role, type Side } from '../label';
import { unrotate } from '../math/quat';
import { distance, length } from '../math/vec';
import { pointInWorld } from '../skeleton';
import { propsOf, type Prop, type Rig } from '../rig';
import { restsOf, STILL_LIMITS, without, type Span } from './still';
import type { Watch } from './watch';

/** A thing that the performer holds, over time. */
export interface PropTrack {
  readonly role: Role;
  /** In the world, metres, 3 per frame. */
  readonly places: Float64Array;
  /** Where it stays in its place. */
  readonly rests: readonly Span[];
}

/** A span of frames in which a hand holds a prop. */
export interface PropHold extends Span {
  readonly side: Side;
  readonly on: 'prop';
  readonly part: Role;
}

/** Shares of a leg: nearer than the first a hand that keeps to a prop holds it even if both are still; one that has gone by the second with it holds it from farther too. */
const HOLDS = { near: 0.28, moved: 0.15 } as const;

/** Watches the things that stand beside the performer's body, and both palms from them. */
export function watchProps(
  performer: Rig,
  frames: number,
): Watch & { readonly props: readonly (Prop & Pick<PropTrack, 'places'> & { readonly palms: readonly Float64Array[] })[] } {
  const { hands } = performer;
  const props = propsOf(performer).map((prop) => ({
    ...prop,
    places: new Float64Array(frames * 3),
    palms: hands.map(() => new Float64Array(frames * 3)),
  }));
  const v = new Float64Array(3);
  return {
    props,
    joints: props.length === 0 ? [] : [...props.map(({ joint }) => joint), ...hands.map(({ hand }) => hand)],
    see: (f, pose) => {
      for (let i = 0; i < props.length; i++) {
        const { joint, places, palms } = props[i];
        for (let c = 0; c < 3; c++) places[f * 3 + c] = pose.positions[joint * 3 + c];
        for (let k = 0; k < hands.length; k++) {
          pointInWorld(v, 0, pose, hands[k].hand, hands[k].palm, 0);
          for (let c = 0; c < 3; c++) v[c] -= places[f * 3 + c];
          unrotate(palms[k], f * 3, pose.rotations, joint * 4, v, 0);
        }
      }
    },
  };
}

/** Props held by the hands, once all frames have been watched. @param ease factor on the speeds of rest */
export function propsIn(
  { props }: ReturnType<typeof watchProps>,
  { hands, legLength }: Rig,
  frameTime: number,
  ease: number,
): { readonly tracks: PropTrack[]; readonly holds: PropHold[] } {
  const tracks = props.map(({ role, places }): PropTrack => ({
    role,
    places,
    rests: restsOf(places, frameTime, legLength, { ease }),
  }));
  const holds = props.flatMap(({ role, places, palms }) =>
    hands.flatMap(({ side }, k) =>
      restsOf(palms[k], frameTime, legLength, { ease })
        .filter((span) => isHeld(places, palms[k], span, legLength))
        .map((span): PropHold => ({ side, on: 'prop', part: role, ...span })),
    ),
  );
  return { tracks, holds: holds.sort((a, b) => SIDES.indexOf(a.side) - SIDES.indexOf(b.side) || a.first - b.first) };
}

/** A hand that does not move on a prop holds it when it is near, or when both have gone some way together. */
function isHeld(places: Float64Array, palm: Float64Array, { first, last }: Span, leg: number): boolean {
  const away = length(palm, first * 3);
  if (away < HOLDS.near * leg) return true;
  for (let f = first; f <= last; f++) if (distance(places, first * 3, places, f * 3) > HOLDS.moved * leg) return true;
  return false;
}

/** Spans of touches with what a prop is held for taken out: a hand on a prop goes where the prop goes. Short ends of them are nothing. */
export function besideHolds<T extends Span & { readonly side: Side; readonly on: string }>(
  touches: readonly T[],
  holds: readonly PropHold[],
  frameTime: number,
): T[] {
  return touches.flatMap((touch) => {
    let left: T[] = [touch];
    // Hands that carry a thing between them keep to it one by one.
    for (const { side, first, last } of holds) {
      if (touch.on !== 'hand' && side !== touch.side) continue;
      left = left.flatMap((one) => {
        const parts = without(one, first, last);
        return parts[0] === one ? parts : parts.filter((part) => (part.last - part.first + 1) * frameTime >= STILL_LIMITS.shortest);
      });
    }
    return left;
  });
}
