import { carryingHands, type BodyContacts, type Carrying, type Contacts } from '../contact';
import type { Pairing } from '../match';
import { percentile } from '../math/filter';
import { jointsOf, lowestOf, type BodyPart } from '../rig';
import { SIDES } from '../label';
import { emptyPose, forward, pointInWorld, withAncestors } from '../skeleton';
import { placeBody } from './placeBody';
import type { Parts } from './parts';
import type { PosePlan } from './plan';
import type { Posed } from './pose';
import { bandOf, BandSystem } from '../math/band';
import { bendsOf, coverCurve, stiffnessOf, unbroken } from '../math/leastCurve';
import { stillnessOf, weightIn } from './resolve/wanted';
import { shifted, type RootPath } from './root';

/** How slowly what takes a body to its place bends, and what lifts it out of the floor, seconds. */
const LAY = 0.25;
const CLEAR = 0.12;
/** A body without a mesh is no thinner than this share of what such bodies are, whatever the performer shows. */
const THINNEST = 0.5;
/** Parts that decide where the body rests, the first that rests first: knees stand on the floor while the seat is over them. */
const ORDER: readonly (readonly BodyPart[])[] = [['left.knee', 'right.knee'], ['seat'], ['back'], ['head']];

/** The parts of the character's body over time. */
interface Traced {
  /** Middles, 3 per frame. */
  readonly places: Float64Array;
  /** Height of the lowest point of the skin. */
  readonly lowest: Float64Array;
}

/**
 * Lays the body on the floor: a part that rests keeps its place but for what the performer's own moves in its rest, with its skin on
 * the floor, and the hips go with it; so do they where nothing but hands carries the body; whatever else of it would be in the floor lifts them.
 * Between, what was corrected dies out.
 * @returns the same path where nothing has to go anywhere
 */
export function layBody({
  pairing: { performer, character, scale },
  plan,
  bearing,
  root,
  rests: contacts,
}: Pick<Parts, 'pairing' | 'plan' | 'bearing' | 'root' | 'rests'>): RootPath {
  const carrying = carryingHands(contacts, performer.legLength);
  if (!contacts.body && carrying.length === 0) return root;
  const { frames, frameTime } = bearing;
  const { low, rests, places } = contacts.body ?? { low: new Uint8Array(frames), rests: [], places: new Map() };
  const floor = contacts.floor * scale.lift;
  const radii = character.bulk.map(({ part, radius }) => {
    const most = leastHeight(places.get(part), low) * scale.lift - floor;
    return Math.max(THINNEST * radius, Math.min(radius, most));
  });
  const tracks = trace(character, { plan, root }, bearing, low, radii);
  const wants = [
    ...wantsOf(rests, tracks, places, scale, floor),
    ...carrying.flatMap((one) => carryingWant(one, contacts.hands!, { character, scale }, { plan, root }, bearing)),
  ];
  const shift = wants.length > 0 ? layOn(wants, frames, frameTime) : new Float64Array(frames * 3);
  const need = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    need[f] = -Infinity;
    if (low[f]) for (const { lowest } of tracks.values()) need[f] = Math.max(need[f], floor - lowest[f] - shift[f * 3 + 1]);
  }
  const rise = coverCurve(need, CLEAR, unbroken(frames, frameTime));
  if (!rise && wants.length === 0) return root;
  for (let f = 0; f < frames; f++) shift[f * 3 + 1] += rise?.[f] ?? 0;
  return shifted(root, shift);
}

/** Each component by itself. */
const SAME = Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1);

/** A part of the body that rests: how far the hips go for it, metres, 3 per frame of its span. Its height is wanted; its place stays, wherever it is. */
interface BodyWant {
  readonly first: number;
  readonly last: number;
  readonly target: Float64Array;
  /** Place in the order of those that decide. */
  readonly rank: number;
}

function wantsOf(
  rests: BodyContacts['rests'],
  tracks: ReadonlyMap<BodyPart, Traced>,
  places: BodyContacts['places'],
  scale: Pairing['scale'],
  floor: number,
): BodyWant[] {
  const ratio = [scale.stride, scale.lift, scale.stride];
  return rests.flatMap(({ part, first, last }): BodyWant[] => {
    const mine = tracks.get(part);
    const theirs = places.get(part);
    if (!mine || !theirs) return [];
    const target = new Float64Array((last - first + 1) * 3);
    for (let i = 0; i < target.length; i++) target[i] = ratio[i % 3] * theirs[first * 3 + i] - mine.places[first * 3 + i];
    // Its skin lies on the floor.
    const gap = percentile(
      Float64Array.from({ length: last - first + 1 }, (_, i) => mine.lowest[first + i] + target[i * 3 + 1] - floor),
      0.5,
    );
    for (let i = 1; i < target.length; i += 3) target[i] -= gap;
    return [{ first, last, target, rank: ORDER.findIndex((parts) => parts.includes(part)) }];
  });
}

/** Hips over a hand that carries them: so high that its palm, as it was carried over, is as high over the floor as the performer's. */
function carryingWant(
  { hand, first, last }: Carrying,
  { palms }: NonNullable<Contacts['hands']>,
  { character, scale }: Pick<Pairing, 'character' | 'scale'>,
  placed: { readonly plan: PosePlan; readonly root: RootPath },
  { rotations }: Posed,
): BodyWant[] {
  const mine = character.hands.find(({ side }) => side === SIDES[hand]);
  const theirs = palms[hand];
  if (!mine || !theirs) return [];
  const { parents } = character.skeleton;
  const chain = withAncestors(parents, [mine.hand]);
  const pose = emptyPose(character.skeleton);
  const translations = character.skeleton.restT.slice();
  const palm = new Float64Array(3);
  const target = new Float64Array((last - first + 1) * 3);
  for (let f = first; f <= last; f++) {
    placeBody(translations, placed, f);
    forward(pose, parents, translations, rotations, f * parents.length * 4, chain);
    pointInWorld(palm, 0, pose, mine.hand, mine.palm, 0);
    target[(f - first) * 3 + 1] = scale.lift * theirs[f * 3 + 1] - palm[1];
  }
  return [{ first, last, target, rank: ORDER.length }];
}

/**
 * The least way of the hips that lays the body where it rests:
 *
 *     |v|² + τ⁴ |v″|²                                 for each frame
 *     10⁴ |v − target|²                               upright, for each part that rests; over the floor of the speed of both
 *
 * so that what comes to rest, or leaves, beside what rests already moves nothing at once.
 */
function layOn(wants: readonly BodyWant[], frames: number, frameTime: number): Float64Array {
  const system = new BandSystem(bandOf(frames, 2));
  const bends = bendsOf(frames);
  const [stiffness, stillness] = [stiffnessOf(LAY, frameTime), stillnessOf(frameTime)];
  for (let f = 0; f < frames; f++) {
    for (let d = 0; d < 3 && f + d < frames; d++) system.couple(f, f + d, SAME, (d === 0 ? 1 : 0) + stiffness * bends[f * 3 + d]);
  }
  const rank = new Uint8Array(frames).fill(ORDER.length);
  for (const want of wants) for (let f = want.first; f <= want.last; f++) rank[f] = Math.min(rank[f], want.rank);
  for (const want of wants) {
    const { first, last, target } = want;
    for (let f = first; f <= last; f++) {
      if (rank[f] < want.rank) continue;
      const weight = weightIn(f, want, frameTime);
      const o = (f - first) * 3;
      system.near(f, 1, target[o + 1], weight);
      if (f > first) for (const c of [0, 2]) system.apart(f - 1, f, c, target[o + c] - target[o + c - 3], weight * stillness);
    }
  }
  return system.solve();
}

/** How low the middle of a part ever comes, metres. */
function leastHeight(places: Float64Array | undefined, low: Uint8Array): number {
  let least = Infinity;
  for (let f = 0; places && f < low.length; f++) if (low[f] && places[f * 3 + 1] < least) least = places[f * 3 + 1];
  return least;
}

/** @param radii how far each part reaches beyond the points of its skin, metres: no farther than the performer's comes near to its floor */
function trace(
  { skeleton, bulk }: Pairing['character'],
  placed: { readonly plan: PosePlan; readonly root: RootPath },
  { frames, rotations }: Posed,
  low: Uint8Array,
  radii: readonly number[],
): Map<BodyPart, Traced> {
  const { parents } = skeleton;
  const chain = withAncestors(
    parents,
    bulk.flatMap(({ middle, skin }) => [...middle, ...jointsOf(skin)]),
  );
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const out = bulk.map(() => ({ places: new Float64Array(frames * 3), lowest: new Float64Array(frames).fill(Infinity) }));
  for (let f = 0; f < frames; f++) {
    if (!low[f]) continue;
    placeBody(translations, placed, f);
    forward(pose, parents, translations, rotations, f * parents.length * 4, chain);
    for (let i = 0; i < bulk.length; i++) {
      const { middle, skin } = bulk[i];
      const { places, lowest } = out[i];
      for (let k = 0; k < middle.length; k++) {
        for (let c = 0; c < 3; c++) places[f * 3 + c] += pose.positions[middle[k] * 3 + c] / middle.length;
      }
      lowest[f] = lowestOf(skin, pose) - radii[i];
    }
  }
  return new Map(bulk.map(({ part }, i) => [part, out[i]]));
}
