import { rotate } from '../math/quat';
import { distance } from '../math/vec';
import type { Contacts } from '../contact';
import type { Foot } from '../rig';
import type { LimbTrack } from './limbTrack';
import { SoleTrack } from './sole';

/** Rise of a sole over its length that is taken for level, without a corner, and the steepest that a foot stands on. */
const LEVEL = 0.05;
const STEEPEST = 0.8;
/** A stance no farther than this from a sloping floor stands on it, metres. */
const ON = 0.03;

/** A heel or ball held at one place on the floor for a span of frames. */
export interface Anchor {
  readonly part: 'heel' | 'ball';
  readonly first: number;
  readonly last: number;
  /** Anchors that overlap in time stand on one foot: they move together. */
  readonly group: number;
  /** How the probe comes and leaves, in the character's metres; 3 per frame. */
  readonly before: Float64Array;
  readonly after: Float64Array;
  /** Stands on something above the floor. */
  readonly raised: boolean;
  /** Height of what it stands on over the floor right under it, level or sloping, metres. */
  readonly over: number;
  /** The point of the foot that is held, in the foot joint's frame: of a ball that rolls over its toes, nearer to their joint. */
  readonly point: Float64Array;
  /** How far that point stands over the place that is held, metres. */
  readonly up: number;
  /** Where the performer's rests, in the character's metres; undefined where that is not known. */
  readonly rest?: Float64Array;
  x: number;
  y: number;
  z: number;
  /** Of the performer's own body: its height as the take has it on the mean. It is held over the floor alone, and is as high as the take has it. */
  own?: number;
}

/** A span in which heel and ball are both held: the foot stands flat with one heading. */
export interface FlatSpan {
  readonly first: number;
  readonly last: number;
  /** Unit way from heel to ball: level on the floor, along the slope elsewhere. */
  readonly x: number;
  readonly y: number;
  readonly z: number;
  /** World rotation of the foot in all of it, about that way as on the mean. */
  readonly turn: Float64Array;
}

export interface FootPlan {
  readonly anchors: readonly Anchor[];
  readonly flats: readonly FlatSpan[];
  /** How high over the floor the toe tip rests, metres, one a frame; NaN where it does not. */
  readonly tips?: Float64Array;
}

/** Anchors by the stance that they stand in, in their order. */
export function stancesOf(anchors: readonly Anchor[]): readonly (readonly Anchor[])[] {
  const stances = new Map<number, Anchor[]>();
  for (const anchor of anchors) stances.set(anchor.group, [...(stances.get(anchor.group) ?? []), anchor]);
  return [...stances.values()];
}

/** First and last frame of a stance. */
export function spanOf(stance: readonly Anchor[]): { first: number; last: number } {
  return { first: Math.min(...stance.map(({ first }) => first)), last: Math.max(...stance.map(({ last }) => last)) };
}

/** The point of a foot that is held, and the height of the foot over it. */
function pointOf({ heel, ball, bend, toes }: Foot, part: Anchor['part'], rolls: number): Pick<Anchor, 'point' | 'up'> {
  if (part === 'heel') return { point: heel, up: 0 };
  if (toes < 0 || rolls === 0) return { point: ball, up: 0 };
  const point = ball.map((v, c) => v + (bend[c] - v) * rolls);
  return { point, up: distance(point, 0, ball, 0) };
}

/** What stances of one foot are placed from. */
interface Placing {
  readonly leg: LimbTrack;
  readonly sole: SoleTrack;
  /** How the sole rises where it stands most nearly level on the floor: what the skeleton shows of a foot that is flat. */
  readonly usual: number;
  readonly ground: Contacts['ground'];
  readonly scale: Scale;
  readonly isOwn: boolean;
  /** Spans in which heel and ball are both held; the groups add theirs. */
  readonly flats: FlatSpan[];
}

/** What stances stand on. */
interface Standing {
  /** Height of the character's floor, metres. */
  readonly floor: number;
  readonly scale: Scale;
  /** The character is the performer's own body: its feet stand as high, and as flat, as the take has them. */
  readonly isOwn: boolean;
}

/** Scale by which the performer's heights and ways become the character's. */
interface Scale {
  readonly lift: number;
  readonly stride: number;
}

/**
 * Gives each plant its place. Plants of one foot that overlap in time belong together: where heel
 * and ball are both down, they stand a fixed distance apart along the mean heading of that span. Each such group is then
 * laid where it displaces the unpinned foot least (least squares over its frames). A plant above the floor stays at its own height.
 */
export function planStances(
  contacts: Pick<Contacts, 'plants' | 'ground'>,
  leg: LimbTrack,
  foot: Foot,
  { floor, scale, isOwn }: Standing,
): FootPlan {
  const anchors = anchorsOf(contacts.plants, leg, foot, floor, scale);
  const sole = new SoleTrack(leg, foot);
  const placing: Placing = { leg, sole, usual: usualRise(anchors, sole), ground: contacts.ground, scale, isOwn, flats: [] };
  const grouped: Anchor[] = [];
  for (let start = 0, number = 0; start < anchors.length; number++) {
    let end = start + 1;
    let until = anchors[start].last;
    while (end < anchors.length && anchors[end].first <= until) until = Math.max(until, anchors[end++].last);
    const group = anchors.slice(start, end).map((anchor) => ({ ...anchor, group: number }));
    placeGroup(group, placing);
    grouped.push(...group);
    start = end;
  }
  placing.flats.sort((a, b) => a.first - b.first);
  return { anchors: grouped, flats: placing.flats, tips: tipsOf(contacts.plants, leg, scale.lift) };
}

/** The plants of a foot in their order, at their heights, not yet placed. */
function anchorsOf(plants: Contacts['plants'], leg: LimbTrack, foot: Foot, floor: number, { lift, stride }: Scale): Anchor[] {
  const scaled = (direction: Float64Array | undefined): Float64Array =>
    Float64Array.from(direction ?? [], (v, i) => v * (i % 3 === 1 ? lift : stride));
  return plants
    .filter(({ side }) => side === leg.plan.side)
    .map((plant): Anchor => {
      const { part, first, last, height = 0, rolls = 0, ground = 0, creep, place } = plant;
      return {
        part,
        first,
        last,
        ...pointOf(foot, part, rolls),
        group: 0,
        before: scaled(creep?.before),
        after: scaled(creep?.after),
        ...(place && { rest: scaled(place) }),
        raised: height > 0,
        over: (height - ground) * lift,
        x: 0,
        y: floor + height * lift,
        z: 0,
      };
    })
    .sort((a, b) => a.first - b.first || a.last - b.last);
}

/** How high the toe tip of a foot rests, frame by frame; undefined where no plant knows. */
function tipsOf(plants: Contacts['plants'], { plan: { side }, frames }: LimbTrack, lift: number): Float64Array | undefined {
  let out: Float64Array | undefined;
  for (const plant of plants) {
    if (plant.side !== side || !plant.tips) continue;
    out ??= new Float64Array(frames).fill(NaN);
    for (let i = 0; i < plant.tips.length; i++) out[plant.first + i] = plant.tips[i] * lift;
  }
  return out;
}

function usualRise(anchors: readonly Anchor[], sole: SoleTrack): number {
  let least = Infinity;
  anchors.forEach((a, i) => {
    for (let j = i + 1; j < anchors.length && anchors[j].first <= a.last; j++) {
      const b = anchors[j];
      if (a.part === b.part || a.raised || b.raised) continue;
      const rise = sole.rise(b.first, Math.min(a.last, b.last));
      if (Math.abs(rise) < Math.abs(least)) least = rise;
    }
  });
  return Number.isFinite(least) ? least : 0;
}

const arm = new Float64Array(3);
const place = new Float64Array(3);

/** Places a group of anchors: each beside one that it overlaps, then all of them where they displace the foot least. */
function placeGroup(group: readonly Anchor[], { leg, sole, usual, ground, scale, isOwn, flats }: Placing): void {
  const wanted = group.map(({ y }) => y);
  const placed = new Set<Anchor>([group[0]]);
  for (const anchor of placed) {
    for (const other of group) {
      const [first, last] = [Math.max(anchor.first, other.first), Math.min(anchor.last, other.last)];
      if (placed.has(other) || other.part === anchor.part || first > last) continue;
      const heading = sole.heading(first, last);
      const isRaised = anchor.raised || other.raised;
      const rise = isRaised ? (riseUnder(anchor, other, heading, ground, scale) ?? sole.rise(first, last)) : sole.rise(first, last) - usual;
      const up = isOwn
        ? sole.rise(first, last)
        : Math.max(-STEEPEST, Math.min(STEEPEST, (rise * rise * rise) / (rise * rise + LEVEL * LEVEL)));
      const level = Math.sqrt(1 - up * up);
      const direction = Float64Array.of(heading[0] * level, up, heading[1] * level);
      const turn = sole.turn(first, last, direction);
      flats.push({ first, last, x: direction[0], y: direction[1], z: direction[2], turn });
      for (let c = 0; c < 3; c++) arm[c] = other.point[c] - anchor.point[c];
      rotate(place, 0, turn, 0, arm, 0);
      other.x = anchor.x + place[0];
      other.y = anchor.y + anchor.up + place[1] - other.up;
      other.z = anchor.z + place[2];
      placed.add(other);
    }
  }
  let [dx, dy, dz, count] = [0, 0, 0, 0];
  group.forEach((anchor, i) => {
    if (!isOwn) dy += (wanted[i] - anchor.y) * (anchor.last - anchor.first + 1);
    for (let f = anchor.first; f <= anchor.last; f++) {
      const o = f * leg.stride;
      rotate(place, 0, leg.data, o + leg.at.endQ, anchor.point, 0);
      dx += place[0] + leg.data[o + leg.at.end] - anchor.x;
      if (isOwn) dy += place[1] + leg.data[o + leg.at.end + 1] - anchor.y - anchor.up;
      dz += place[2] + leg.data[o + leg.at.end + 2] - anchor.z;
      count++;
    }
  });
  // A foot that stands with its heel up, or its ball, stands on the other.
  const unders = group.flatMap(({ raised, y }, i) => (raised || isOwn ? [] : [wanted[i] - y - dy / count]));
  const under = unders.length > 0 ? Math.max(...unders) : 0;
  for (const anchor of group) {
    anchor.x += dx / count;
    anchor.y += dy / count + under;
    anchor.z += dz / count;
    if (isOwn) anchor.own = anchor.y;
  }
}

/** How a sole rises that lies on a sloping floor; undefined where it lies on none, or not on the floor itself. */
function riseUnder(
  a: Anchor,
  b: Anchor,
  heading: readonly [number, number],
  ground: Contacts['ground'],
  { lift, stride }: Scale,
): number | undefined {
  if (!ground || ground.isSteered || Math.max(Math.abs(a.over), Math.abs(b.over)) > ON) return undefined;
  // A sloping floor becomes steeper where heights grow more than ways do.
  const up = ((ground.x * heading[0] + ground.z * heading[1]) * lift) / stride;
  return up / Math.sqrt(1 + up * up);
}
