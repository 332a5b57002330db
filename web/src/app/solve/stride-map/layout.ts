import type { FloorPlan, Footprint } from '../../solver/floor-plan';

/** A place on the map, metres. */
export type Place = readonly [x: number, y: number];

/** A footprint as it is drawn. */
export interface Print {
  readonly key: string;
  /** The character's stand, which can be moved; undefined for the performer's. */
  readonly of: Footprint | undefined;
  /** Beyond the toes, where it is turned by, and the middle that it turns about. */
  readonly toe: Place;
  readonly middle: Place;
  readonly sole: string;
  readonly heel: string;
  readonly smear: string;
  readonly isLeft: boolean;
  readonly first: number;
  readonly last: number;
  readonly title: string;
}

/** The part of the floor in view: an SVG view box. */
export interface Box {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/** A foot's half width, as a share of its length. */
const HALF = 0.2;

/** How a place on the floor, seen from above, lies on the map, and the way back. */
export interface Lay {
  readonly to: (x: number, z: number) => Place;
  readonly back: (x: number, y: number) => readonly [x: number, z: number];
}

export function textOf(places: ArrayLike<number>, lay: Lay): string {
  const points: string[] = [];
  for (let i = 0; i + 1 < places.length; i += 2) {
    const [x, y] = lay.to(places[i], places[i + 1]);
    points.push(`${x.toFixed(4)},${y.toFixed(4)}`);
  }
  return points.join(' ');
}

export function printOf(print: Footprint, look: string, lay: Lay): Print {
  const { side, first, last, heel, ball, smear } = print;
  const length = Math.hypot(ball[0] - heel[0], ball[1] - heel[1]) || 0.01;
  const ahead = [(ball[0] - heel[0]) / length, (ball[1] - heel[1]) / length];
  /** A place along the foot and across it. */
  const at = (along: number, across: number): number[] => [
    heel[0] + (ahead[0] * along - ahead[1] * across) * length,
    heel[1] + (ahead[1] * along + ahead[0] * across) * length,
  ];
  const oval = (middle: number, long: number, wide: number): string =>
    textOf(
      Array.from({ length: 28 }, (_, i) => at(middle + long * Math.cos((i * Math.PI) / 14), wide * Math.sin((i * Math.PI) / 14))).flat(),
      lay,
    );
  let slide = 0;
  for (let i = 2; i < smear.length; i += 2) slide += Math.hypot(smear[i] - smear[i - 2], smear[i + 1] - smear[i - 1]);
  const on = (place: readonly number[]): Place => lay.to(place[0], place[1]);
  const isOwn = look === 'character';
  return {
    key: `${look} ${side} ${first}`,
    of: isOwn ? print : undefined,
    toe: on(at(1.8, 0)),
    middle: on(at(0.5, 0)),
    sole: oval(1, 0.42, HALF + 0.08),
    heel: oval(0.05, 0.24, HALF),
    smear: textOf(smear, lay),
    isLeft: side === 'left',
    first,
    last,
    title: `${look}, ${side} foot, frames ${first + 1} to ${last + 1}, slides ${(slide * 1000).toFixed(1)} mm`,
  };
}

/** The longer way lies across: ahead is up, or to the right. */
export function layOf(plans: readonly FloorPlan[]): Lay {
  const span = (c: 0 | 1): number => {
    let [low, high] = [Infinity, -Infinity];
    for (const { hips } of plans) for (let i = c; i < hips.length; i += 2) [low, high] = [Math.min(low, hips[i]), Math.max(high, hips[i])];
    return high - low;
  };
  return span(1) > span(0) ? { to: (x, z) => [z, -x], back: (x, y) => [-y, x] } : { to: (x, z) => [-x, -z], back: (x, y) => [-x, -y] };
}

/** The ground that bodies cover, with a margin. */
export function groundOf(plans: readonly FloorPlan[], lay: Lay): Box {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const plan of plans) {
    const ends = plan.prints.flatMap(({ heel, ball }) => [heel, ball]);
    for (let i = 0; i < plan.hips.length; i += 2) ends.push([plan.hips[i], plan.hips[i + 1]]);
    for (const end of ends) {
      const [x, y] = lay.to(end[0], end[1]);
      [left, right] = [Math.min(left, x), Math.max(right, x)];
      [top, bottom] = [Math.min(top, y), Math.max(bottom, y)];
    }
  }
  const margin = 0.12 + 0.04 * Math.max(right - left, bottom - top);
  return { left: left - margin, top: top - margin, width: right - left + 2 * margin, height: bottom - top + 2 * margin };
}

/** Least width that is looked at, metres. */
const LEAST = 0.25;

/** A box nearer by a factor (farther below 1) about a place, which stays where it is; no wider than the ground, and then all of it. */
export function zoomedBox(box: Box, ground: Box, factor: number, [x, y]: Place): Box {
  const width = Math.max(LEAST, box.width / factor);
  if (width >= ground.width && box.height / factor >= ground.height) return ground;
  const by = width / box.width;
  return { left: x - (x - box.left) * by, top: y - (y - box.top) * by, width, height: box.height * by };
}

/** A length that people like to read, no longer than is asked: 1, 2 or 5 times a power of ten. */
export function roundLength(most: number): number {
  const power = 10 ** Math.floor(Math.log10(most));
  return [5, 2, 1].map((n) => n * power).find((length) => length <= most)!;
}

/** A length in words. */
export const lengthText = (metres: number): string =>
  metres < 1 ? `${(metres * 100).toFixed(metres < 0.1 ? 1 : 0)} cm` : `${metres.toFixed(2)} m`;
