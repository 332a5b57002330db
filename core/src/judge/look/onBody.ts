import { distance } from '../../math/vec';
import { ClipReader, type Clip } from '../../clip';
import type { SkinPoints } from '../../formats';
import { SIDES } from '../../label';
import { percentile } from '../../math/filter';
import { rotate, unrotate } from '../../math/quat';
import type { Rig } from '../../rig';
import { isBelow, type Pose } from '../../skeleton';
import { onceFor } from './once';
import type { BodyPoint } from './points';
import { square } from '../../math/numbers';

/** Looks a second. */
const LOOKS = 15;
/** Half the thickness of the performer's parts, in shares of a leg: skeletons have no skin. */
const THICK: Readonly<Record<string, number>> = { head: 0.1, upperLeg: 0.08, upperArm: 0.05, lowerArm: 0.04 };
/** Palms this near to the performer's skin touch it, share of a leg. */
const TOUCHES = 0.02;

/** Palms of both hands nearer to each other than this share of a leg meet. */
const MEET = 0.16;
/** A hand that moves farther over a part, share of a leg, passes over it. */
const PASSES = 0.05;
/** A touch shorter than this passes by, seconds. */
const SHORTEST = 0.5;

/** How well hands come to the character's own body where the performer's do. */
export interface OnBody {
  /** Seconds in which the performer touches itself. */
  readonly seconds: number;
  /** How far palms are from the character's skin beyond the performer's own distance, but for a tenth of the looks; metres. */
  readonly away: number;
  readonly frame: number;
  readonly what: string;
  /** True where a hand is on the body for most of some frames: its arm may then be as still as the body is. */
  readonly isOn: (side: string, first: number, last: number) => boolean;
}

/** A part of one body: the bone, and on the character the skin that it carries. */
interface Part {
  readonly name: string;
  readonly thick: number;
  readonly theirs: readonly [joint: number, end: number];
  readonly skin: readonly { readonly joint: number; readonly places: Float64Array }[];
}

function partsOf(performer: Rig, character: Rig, skin: SkinPoints, side: string): Part[] {
  const other = SIDES.find((one) => one !== side)!;
  const { metres } = character.basis;
  return (
    [
      ['head', 'head', 'head', 'head'],
      ...SIDES.map((one) => [`${one} thigh`, `${one}.upperLeg`, `${one}.lowerLeg`, 'upperLeg'] as const),
      [`${other} upper arm`, `${other}.upperArm`, `${other}.lowerArm`, 'upperArm'],
      [`${other} forearm`, `${other}.lowerArm`, `${other}.hand`, 'lowerArm'],
    ] as const
  ).flatMap(([name, role, end, kind]): Part[] => {
    const [a, b, joint] = [performer.roles.get(role), performer.roles.get(end), character.roles.get(role)];
    if (a === undefined || b === undefined || joint === undefined) return [];
    // Twist joints beside a bone carry skin of it.
    const next = character.roles.get(end)!;
    const { skeleton } = character;
    const mine = [...skeleton.parents.keys()].filter(
      (j) => isBelow(skeleton, j, joint) && (j === joint || (kind !== 'head' && !isBelow(skeleton, j, next))),
    );
    const carried = mine.map((j): Part['skin'][number] => {
      const places: number[] = [];
      skin.joints.forEach((owner, i) => {
        if (owner !== j) return;
        const k = [0, 1, 2, 3].find((n) => skin.influences[i * 4 + n] === j) ?? 0;
        for (let c = 0; c < 3; c++) places.push(skin.locals[(i * 4 + k) * 3 + c] * metres);
      });
      return { joint: j, places: Float64Array.from(places) };
    });
    return carried.every(({ places }) => places.length === 0)
      ? []
      : [{ name, thick: THICK[kind] * performer.legLength, theirs: [a, b], skin: carried }];
  });
}

/** @returns undefined for a character without a mesh */
export function onBodyOf(
  { performer, character, take, result, skin }: { performer: Rig; character: Rig; take: Clip; result: Clip; skin: SkinPoints | undefined },
  points: readonly BodyPoint[],
  mine: Float64Array,
  theirs: Float64Array,
  left: Uint8Array,
): OnBody | undefined {
  if (!skin || skin.joints.length === 0) return undefined;
  const count = points.length;
  const step = Math.max(1, Math.round(1 / (LOOKS * take.frameTime)));
  const palms = SIDES.flatMap((side) => {
    const point = points.findIndex(({ name }) => name === `${side} palm`);
    return point < 0
      ? []
      : [{ side, point, parts: onceFor(`parts ${side}`, character, skin, () => partsOf(performer, character, skin, side), performer) }];
  });
  const near = MEET * performer.legLength;
  const source = new ClipReader(performer.skeleton, take);
  const reader = new ClipReader(character.skeleton, result);
  const scale = character.legLength / performer.legLength;
  const errors: number[] = [];
  let worst = { away: 0, frame: -1, what: '' };
  const spans: { side: string; first: number; last: number }[] = [];
  const shortest = Math.ceil(SHORTEST / (step * take.frameTime));
  // Looks of the touch that goes on, by palm: only what lasts is a touch.
  const going = palms.map(() => ({ part: '', looks: [] as { away: number; frame: number; what: string; at: readonly number[] }[] }));
  const end = (i: number, part: string): void => {
    const { looks } = going[i];
    if (
      looks.length >= shortest &&
      stays(
        looks.map(({ at }) => at),
        PASSES * performer.legLength,
      )
    ) {
      spans.push({ side: palms[i].side, first: looks[0].frame, last: looks[looks.length - 1].frame });
      for (const one of looks) {
        errors.push(one.away);
        if (one.away > worst.away) worst = one;
      }
    }
    going[i] = { part, looks: [] };
  };
  for (let f = 0; f < take.frames; f += step) {
    if (left[f] === 1) continue;
    let pose: Pose | undefined;
    const joints = source.at(f).positions;
    const together =
      palms.length === 2 && distance(theirs, (f * count + palms[0].point) * 3, theirs, (f * count + palms[1].point) * 3) < near;
    for (let i = 0; i < palms.length; i++) {
      const { side, point, parts } = palms[i];
      const o = (f * count + point) * 3;
      // Where it touches two parts, the nearer is meant.
      let nearest = TOUCHES * performer.legLength;
      let touched: Part | undefined;
      for (const part of parts) {
        const gap = toBone(theirs, o, joints, part.theirs[0] * 3, part.theirs[1] * 3) - part.thick;
        if (gap >= nearest) continue;
        nearest = gap;
        touched = part;
      }
      // Hands that meet are looked at as such.
      const name = together || !touched ? '' : touched.name;
      if (name !== going[i].part) end(i, name);
      if (!touched || together) continue;
      pose ??= reader.at(f);
      const away = Math.max(0, toSkin(mine, o, pose, touched) - Math.max(0, nearest) * scale);
      going[i].looks.push({
        away,
        frame: f,
        what: `${side} palm on the ${touched.name}`,
        at: seenFrom(source.at(f), touched.theirs[0], theirs, o),
      });
    }
  }
  going.forEach((_, i) => end(i, ''));
  return {
    seconds: errors.length * step * take.frameTime,
    away: errors.length === 0 ? 0 : percentile(errors, 0.9),
    frame: worst.frame,
    what: worst.what,
    isOn: (side, first, last) =>
      spans.some((span) => span.side === side && 2 * (Math.min(last, span.last) - Math.max(first, span.first)) > last - first),
  };
}

/** Distance of a place from a bone; from its joint for a bone without length. */
function toBone(p: Float64Array, o: number, at: Float64Array, a: number, b: number): number {
  let size = 0;
  let along = 0;
  for (let c = 0; c < 3; c++) {
    size += square(at[b + c] - at[a + c]);
    along += (at[b + c] - at[a + c]) * (p[o + c] - at[a + c]);
  }
  const t = size < 1e-12 ? 0 : Math.max(0, Math.min(1, along / size));
  let d = 0;
  for (let c = 0; c < 3; c++) d += square(p[o + c] - at[a + c] - t * (at[b + c] - at[a + c]));
  return Math.sqrt(d);
}

/** A place seen from a joint. */
function seenFrom({ positions, rotations }: Pose, joint: number, p: Float64Array, o: number): readonly number[] {
  for (let c = 0; c < 3; c++) v[c] = p[o + c] - positions[joint * 3 + c];
  unrotate(v, 0, rotations, joint * 4, v, 0);
  return [...v];
}

/** True when places lie within a distance along each axis. */
function stays(places: readonly (readonly number[])[], distance: number): boolean {
  return [0, 1, 2].every((c) => {
    const list = places.map((place) => place[c]);
    return Math.max(...list) - Math.min(...list) <= distance;
  });
}

const v = new Float64Array(3);

/** Distance of a place from the nearest point of a part's skin. */
function toSkin(p: Float64Array, o: number, { positions, rotations }: Pose, { skin }: Part): number {
  let least = Infinity;
  for (const { joint, places } of skin) {
    for (let i = 0; i < places.length; i += 3) {
      rotate(v, 0, rotations, joint * 4, places, i);
      let d = 0;
      for (let c = 0; c < 3; c++) d += square(v[c] + positions[joint * 3 + c] - p[o + c]);
      if (d < least) least = d;
    }
  }
  return Math.sqrt(least);
}
