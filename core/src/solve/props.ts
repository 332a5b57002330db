import type { Contacts, PropTrack } from '../contact';
import { SIDES, type Role } from '../label';
import { sharedProps, type Pairing } from '../match';
import { percentile, smootherstep } from '../math/filter';
import { unrotate } from '../math/quat';
import { distance } from '../math/vec';
import { emptyPose, forward, withAncestors } from '../skeleton';
import { targetOf, type HandWant } from './hands/wants';
import { placeBody } from './placeBody';
import type { PosePlan } from './plan';
import { fillCurve, unbroken } from '../math/leastCurve';
import type { RootPath } from './root';

/** Where a prop is beside the character. */
export interface PropPath {
  /** The performer's role of it. */
  readonly role: Role;
  /** The character's joint; undefined where it has none, and the hands hold a thing that is not shown. */
  readonly joint: number | undefined;
  /** In the world, metres, 3 per frame. */
  readonly places: Float64Array;
}

/** Seconds in which a prop that was at rest comes to where the hands would have it. */
const TAKEN = 0.5;
/** A prop that rests no higher than this share of a leg stands on the floor: as high as it is itself. */
const STANDS = 0.6;
/** Share of a leg within which hands hardly hold a thing. */
const FIXED = 0.015;

/**
 * Puts the performer's props beside the character. A prop that is held is where the hands are: the mean of where each has it, so that
 * no arm does more than half. One that is at rest stays where it was put down, or where the hands will come to it. Between, its own
 * way, scaled as the body's, goes over from the one to the other.
 * @param palms the character's, as posed, 3 per frame; undefined where nothing is held
 */
export function placeProps(
  pairing: Pairing,
  contacts: Contacts,
  palms: readonly (Float64Array | undefined)[],
  frameTime: number,
): readonly PropPath[] {
  const { hands, floor } = contacts;
  const joints = new Map(sharedProps(pairing).map(({ role, joint }) => [role, joint]));
  return (hands?.props ?? []).map((track): PropPath => {
    const places = freeWay(track, pairing, floor);
    const holds = (hands?.touches ?? []).filter(({ on, part }) => on === 'prop' && part === track.role);
    const shift = new Float64Array(places.length);
    const given = new Uint8Array(places.length / 3);
    const count = new Uint8Array(given.length);
    for (const { side, first, last } of holds) {
      const k = SIDES.indexOf(side);
      const [mine, theirs] = [palms[k], hands?.palms[k]];
      if (!mine || !theirs) continue;
      for (let f = first; f <= last; f++) {
        count[f]++;
        for (let i = f * 3; i < f * 3 + 3; i++) shift[i] += mine[i] - pairing.propSize * (theirs[i] - track.places[i]) - places[i];
      }
    }
    for (let f = 0; f < given.length; f++) {
      if (count[f] === 0) continue;
      given[f] = 1;
      for (let c = 0; c < 3; c++) shift[f * 3 + c] /= count[f];
    }
    const rests = track.rests.filter((rest) => isItsOwn(track.places, rest, given, FIXED * pairing.performer.legLength));
    keepResting(rests, places, shift, given, Math.max(1, Math.round(TAKEN / frameTime)));
    fillCurve(shift, 3, given, TAKEN / 2, unbroken(given.length, frameTime));
    for (let i = 0; i < places.length; i++) places[i] += shift[i];
    return { role: track.role, joint: joints.get(track.role), places };
  });
}

/** The performer's own way of a prop, scaled as the body's is; what stands on the floor stands as high as it is itself. */
function freeWay({ places, rests }: PropTrack, { performer, scale, propSize }: Pairing, floor: number): Float64Array {
  let low = Infinity;
  for (const { first, last } of rests) {
    const heights = Array.from({ length: last - first + 1 }, (_, i) => places[(first + i) * 3 + 1] - floor);
    low = Math.min(low, percentile(heights, 0.5));
  }
  if (!(low > 0 && low < STANDS * performer.legLength)) low = 0;
  const out = new Float64Array(places.length);
  for (let i = 0; i < out.length; i += 3) {
    out[i] = scale.stride * places[i];
    out[i + 1] = scale.lift * (places[i + 1] - low) + propSize * low;
    out[i + 2] = scale.stride * places[i + 2];
  }
  return out;
}

/** A prop that hands hold throughout its rest may only be held still: it is at rest when it is stiller than hands are, as a rail is. */
function isItsOwn(places: Float64Array, { first, last }: PropTrack['rests'][number], held: Uint8Array, still: number): boolean {
  if (held.subarray(first, last + 1).includes(0)) return true;
  for (let f = first; f <= last; f++) if (distance(places, first * 3, places, f * 3) > still) return false;
  return true;
}

/** A prop that is at rest keeps one place; what the hands take up comes over to them. */
function keepResting(rests: PropTrack['rests'], places: Float64Array, shift: Float64Array, given: Uint8Array, taken: number): void {
  const held = given.slice();
  const frames = given.length;
  const before = new Float64Array(3);
  let known = false;
  for (const { first, last } of rests) {
    // Put down there, or taken up from there; else where it last was, or will be.
    let from = first;
    while (from < last && !held[from]) from++;
    if (!held[from]) from = last + 1 < frames && held[last + 1] ? last + 1 : -1;
    const here = shift.slice(from * 3, from * 3 + 3);
    const at = first > 0 && held[first - 1] && !held[first] ? shift.slice(first * 3 - 3, first * 3) : from >= 0 ? here : before;
    if (at === before && !known) continue;
    // It stays though its own way, where the body is steered, would not.
    const anchor = at === here ? Math.min(from, last) : first;
    for (let f = first; f <= last; f++) {
      for (let c = 0; c < 3; c++) shift[f * 3 + c] = at[c] + places[anchor * 3 + c] - places[f * 3 + c];
    }
    const end = shift.slice(last * 3, last * 3 + 3);
    given.fill(1, first, last + 1);
    for (let f = last + 1; f < Math.min(frames, last + taken) && held[f]; f++) {
      const t = smootherstep((f - last) / taken);
      for (let c = 0; c < 3; c++) shift[f * 3 + c] = end[c] + (shift[f * 3 + c] - end[c]) * t;
    }
    before.set(end);
    known = true;
  }
}

/** Hands that hold a prop keep to it. @param mine places of the character's palms, 3 per frame */
export function propWants({ hands }: Contacts, props: readonly PropPath[], mine: readonly Float64Array[], size: number): HandWant[] {
  return mine.flatMap((palm, k) => {
    const theirs = hands?.palms[k];
    const holds = hands?.touches.filter(({ on, side }) => on === 'prop' && side === SIDES[k]) ?? [];
    return holds.flatMap(({ part, first, last }): HandWant[] => {
      const path = props.find(({ role }) => role === part);
      const track = hands?.props?.find(({ role }) => role === part);
      if (!theirs || !path || !track) return [];
      const target = targetOf(first, last, (f, out, at) => {
        for (let i = f * 3, c = 0; c < 3; c++, i++) out[at + c] = path.places[i] + size * (theirs[i] - track.places[i]) - palm[i];
      });
      return [{ how: 'at', hand: k, first, last, target }];
    });
  });
}

/** Local translations of the character's props over time, at the parents that they have. @param shift what moves the whole, 3 per frame */
export function propMoves(
  {
    pairing,
    plan,
    props,
    root,
  }: { readonly pairing: Pairing; readonly plan: PosePlan; readonly props: readonly PropPath[]; readonly root: RootPath },
  rotations: Float32Array,
  shift: Float64Array,
): { joint: number; values: Float32Array }[] {
  const { skeleton } = pairing.character;
  const { parents } = skeleton;
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const v = new Float64Array(3);
  return props.flatMap(({ joint, places }) => {
    if (joint === undefined) return [];
    const values = new Float32Array(places.length);
    const parent = parents[joint];
    const chain = withAncestors(parents, parent < 0 ? [] : [parent]);
    for (let f = 0; f * 3 < places.length; f++) {
      for (let c = 0; c < 3; c++) v[c] = places[f * 3 + c] + shift[f * 3 + c];
      if (parent >= 0) {
        placeBody(translations, { plan, root }, f);
        forward(pose, parents, translations, rotations, f * parents.length * 4, chain);
        for (let c = 0; c < 3; c++) v[c] -= pose.positions[parent * 3 + c];
        unrotate(v, 0, pose.rotations, parent * 4, v, 0);
      }
      values.set(v, f * 3);
    }
    return [{ joint, values }];
  });
}
