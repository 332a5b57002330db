import { ClipReader } from '../../clip';
import { percentile } from '../../math/filter';
import { isBelow } from '../../skeleton';
import type { Case } from '../case';
import { DOWN, type Standing } from '../look/holding';
import type { BodyPoint } from '../look/points';
import { heightOf, type Skin } from '../look/skin';

/** Parts of the performer that rest lower over the floor than this share of a leg lie on it: knees, seat, back and head by their middles. */
const LYING: readonly (readonly [name: RegExp, share: number])[] = [
  [/knee|seat/, 0.13],
  [/back/, 0.2],
  [/head/, 0.25],
  [/palm/, DOWN],
];
/** How much thicker than lean, of which a skeleton without a mesh is taken to be, a body may be under it, in shares of a leg: a seat. */
const THICKER = 0.05;
/** Frames of a rest that are looked at. */
const LOOKED = 9;

/** How far what rests on the performer's floor stays over the character's. */
export interface Hover {
  /** Seconds of such rests. */
  readonly seconds: number;
  /** Middle height of the lowest skin over the worst rest, metres; below 0 nowhere. */
  readonly away: number;
  readonly what: string;
  readonly frame: number;
}

/**
 * Looks under bodies and hands that rest on the performer's floor: some skin of the same hand, or any of the body, must lie on the
 * character's. The part does not matter: one body lies on its coat where another lies on its back.
 * @param overFloor how high a rest of the performer is over its floor, metres
 * @param ground height of the character's floor, metres
 */
export function hoverOf(
  { performer, character, result }: Case,
  skin: Skin,
  points: readonly BodyPoint[],
  rests: readonly Standing[],
  overFloor: (rest: Standing) => number,
  ground: number,
): Hover {
  const reader = new ClipReader(character.skeleton, result);
  const { legLength } = performer;
  const unknown = skin.known === 'capsules' ? THICKER * character.legLength : 0;
  let seconds = 0;
  let worst = { away: 0, what: '', frame: -1 };
  for (const rest of rests) {
    const { name, joint } = points[rest.point];
    const share = LYING.find(([pattern]) => pattern.test(name))?.[1];
    if (share === undefined || overFloor(rest) > share * legLength) continue;
    const groups = skin.groups.filter((group) =>
      rest.kind === 'hands' ? isBelow(character.skeleton, group.joint, joint) : group.part === 'body',
    );
    if (groups.length === 0) continue;
    seconds += (rest.last - rest.first) * result.frameTime;
    const looked = Math.min(LOOKED, rest.last - rest.first + 1);
    const gaps = Float64Array.from({ length: looked }, (_, i) => {
      const pose = reader.at(Math.round(rest.first + ((i + 0.5) * (rest.last - rest.first)) / looked));
      let low = Infinity;
      for (const group of groups) for (const point of group.points) low = Math.min(low, heightOf(skin, point, pose));
      return low - ground;
    });
    const away = percentile(gaps, 0.5) - (rest.kind === 'hands' ? 0 : unknown);
    if (away > worst.away) worst = { away, what: name, frame: rest.first };
  }
  return { seconds, ...worst };
}
