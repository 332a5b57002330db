import type { BodyContacts } from '../contact';
import type { Pairing } from '../match';
import { percentile } from '../math/filter';
import { jointsOf, lowestOf, type BodyPart } from '../rig';
import { emptyPose, forward, withAncestors } from '../skeleton';
import { placeBody } from './placeBody';
import type { PosePlan } from './plan';
import type { Posed } from './pose';
import { coverCurve, fillCurve, unbroken } from '../math/leastCurve';
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
 * the floor, and the hips go with it; whatever else of it would be in the floor lifts them. Between, what was corrected dies out.
 * @param floor height of the character's floor, metres
 * @returns the same path where nothing has to go anywhere
 */
export function layBody(
  { character, scale }: Pairing,
  plan: PosePlan,
  posed: Posed,
  root: RootPath,
  contacts: BodyContacts | undefined,
  floor: number,
): RootPath {
  if (!contacts) return root;
  const { frames, frameTime } = posed;
  const { low, rests, places } = contacts;
  const radii = character.bulk.map(({ part, radius }) => {
    const most = leastHeight(places.get(part), low) * scale.lift - floor;
    return Math.max(THINNEST * radius, Math.min(radius, most));
  });
  const tracks = trace(character, { plan, root }, posed, low, radii);
  const shift = new Float64Array(frames * 3);
  const given = new Uint8Array(frames);
  const ratio = [scale.stride, scale.lift, scale.stride];
  for (const parts of ORDER) {
    const share = new Uint8Array(frames);
    const sum = new Float64Array(frames * 3);
    for (const { part, first, last } of rests) {
      const mine = tracks.get(part);
      const theirs = places.get(part);
      if (!parts.includes(part) || !mine || !theirs) continue;
      const count = last - first + 1;
      const shift = new Float64Array(count * 3);
      for (let c = 0; c < 3; c++) {
        let away = 0;
        for (let i = 0; i < count; i++) {
          const o = (first + i) * 3 + c;
          away += shift[i * 3 + c] = ratio[c] * theirs[o] - mine.places[o];
        }
        for (let i = 0; i < count; i++) shift[i * 3 + c] -= away / count;
      }
      // Its skin lies on the floor.
      const gaps = new Float64Array(count);
      for (let i = 0; i < count; i++) gaps[i] = mine.lowest[first + i] + shift[i * 3 + 1] - floor;
      const gap = percentile(gaps, 0.5);
      for (let i = 0; i < count; i++) {
        share[first + i]++;
        for (let c = 0; c < 3; c++) sum[(first + i) * 3 + c] += shift[i * 3 + c] - (c === 1 ? gap : 0);
      }
    }
    for (let f = 0; f < frames; f++) {
      if (given[f] || share[f] === 0) continue;
      given[f] = 1;
      for (let c = 0; c < 3; c++) shift[f * 3 + c] = sum[f * 3 + c] / share[f];
    }
  }
  const time = unbroken(frames, frameTime);
  fillCurve(shift, 3, given, LAY, time);
  const need = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    need[f] = -Infinity;
    if (low[f]) for (const { lowest } of tracks.values()) need[f] = Math.max(need[f], floor - lowest[f] - shift[f * 3 + 1]);
  }
  const rise = coverCurve(need, CLEAR, time);
  if (!rise && !given.includes(1)) return root;
  for (let f = 0; f < frames; f++) shift[f * 3 + 1] += rise?.[f] ?? 0;
  return shifted(root, shift);
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
