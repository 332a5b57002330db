import { SIDES } from '../../label';
import { percentile } from '../../math/filter';
import { square } from '../../math/numbers';
import type { MeshBody } from '../body';
import { HOCK_MARK, mirrored, type Landmarks, type Place } from '../landmarks';
import { voxelsOf } from '../voxels';
import { followArm, type Arm } from './arms';
import { bendOf, gap, lengthsOf, pointAlong, type Line } from './bends';
import { cutTrunk, findHead, trunkMiddle, type Head, type TrunkCut } from './head';
import { followLeg, type Leg } from './legs';
import { oneSided, solidOf, type Solid } from './solid';

/** Landmarks that a shape shows, and how sure each is. */
export interface Found {
  readonly landmarks: Landmarks;
  /** By landmark, from 0 to 1: seen in the shape, or laid by what bodies usually have. */
  readonly confidence: Readonly<Record<string, number>>;
  /** The middle of the body from left to right, metres. */
  readonly middle: number;
  /** Legs bend forwards and then backwards over the foot. */
  readonly hasHocks: boolean;
}

/** A body cut up, for what is found in its shape. */
export interface Sections {
  readonly solid: Solid;
  readonly trunk: readonly TrunkCut[];
}

/** Cuts a body up. */
export function sectionsOf(body: MeshBody): Sections {
  const solid = solidOf(voxelsOf(body, CELLS));
  return { solid, trunk: cutTrunk(solid) };
}

/** Below this share of what both sides have, each side is looked at by itself. */
const LIKE = 0.75;

/**
 * Finds the landmarks of a body that stands upright with its front towards +Z, its arms apart from the trunk. Both sides are looked at
 * as one, so that what one side alone has (a lantern, an oar) does not mislead; of a body whose sides are not alike, each by itself.
 */
export function findLandmarks(body: MeshBody, sections: Sections, mirrored = true): Found {
  if (mirrored && sections.solid.likeness >= LIKE) return findOn(body, sections);
  const [left, right] = SIDES.map((side) => findOn(body, { ...sections, solid: oneSided(sections.solid, side) }));
  const of = <T>(pick: (found: Found) => Readonly<Record<string, T>>): Record<string, T> => ({
    ...pick(left),
    ...Object.fromEntries(Object.entries(pick(right)).filter(([name]) => name.startsWith('right.'))),
  });
  return { ...left, landmarks: of((found) => found.landmarks), confidence: of((found) => found.confidence) };
}

/** Cells along the height: fingers are not looked at, limbs are ten cells thick. */
const CELLS = 160;
const [SEEN, LIKELY, USUAL] = [0.9, 0.6, 0.3];

/** Hips where no legs are seen apart, share of the height (segment lengths after Drillis and Contini, in Winter 2009). */
const USUAL_HIP = 0.53;
/** Legs that part lower than this are hidden by clothes. */
const LOWEST_HIP = 0.36;
/** Hips beside the middle, share of the height. */
const USUAL_HIP_ASIDE = 0.055;

/** Finds the landmarks on the left half of a solid, and mirrors them. */
function findOn({ height }: MeshBody, { solid, trunk: cuts }: Sections): Found {
  const { middle } = solid;
  const out: Record<string, Place> = {};
  const confidence: Record<string, number> = {};
  const put = (name: string, place: Place, sure: number): void => {
    out[name] = place;
    confidence[name] = sure;
  };
  const both = (name: string, place: Place, sure: number): void => {
    put(`left.${name}`, place, sure);
    put(`right.${name}`, mirrored(place, middle), sure);
  };
  const head = findHead(cuts, height);
  const trunkZ = (y: number): number => trunkMiddle(cuts, y);
  const neckSure = head.isSeen ? SEEN : USUAL;
  put('crown', [middle, head.crown, trunkZ(head.crown - 0.25 * (head.crown - head.chin))], SEEN);
  put('chin', [middle, head.chin, trunkZ(head.chin)], neckSure);
  put('neck', [middle, head.neck, trunkZ(head.neck)], neckSure);
  const leg = followLeg(solid);
  const hasHocks = placeLegs(leg, solid, height, both);
  placeArms(solid, leg, head, out['left.hip'][1], height, both);
  return { landmarks: out, confidence, middle, hasHocks };
}

/** A cut so small against the leg's is what is left of its rounded end; one so much smaller or larger than those below is none of the leg alone. */
const [END, FULL] = [0.08, 0.6];
/** The thigh's upper part, which says where its line goes on to, share of the height. */
const UPPER = 0.12;
/** The hip joint lies over the place where the legs part, in half widths of the leg. */
const OVER_PARTING = 1;
/** How far a foot narrows towards the shank, share of its length; the ankle is where it has. */
const ANKLE = 0.5;
/** The ball of the foot from the heel, share of the foot's length. */
const BALL = 0.72;
/** Knees, from hip to ankle, and how far bodies are from that. */
const KNEE = { usual: 0.5, spread: 0.035 };
/** A line of middles that leaves the straight by so much of its length bends. */
const BENT = 0.045;
const HOCK_BACK = 0.06;

type Put = (name: string, place: Place, sure: number) => void;

/** @returns true for legs with hocks */
function placeLegs({ cuts, isOwn }: Leg, solid: Solid, height: number, both: Put): boolean {
  const { middle, voxels } = solid;
  if (cuts.length < 8) {
    const x = middle + USUAL_HIP_ASIDE * height;
    const at = (y: number, z: number): Place => [x, y * height, z * height];
    both('hip', at(USUAL_HIP, 0), USUAL);
    both('knee', at(0.285, 0.005), USUAL);
    both('ankle', at(0.045, -0.01), USUAL);
    both('ball', at(0.015, 0.07), USUAL);
    both('toe', at(0.012, 0.11), USUAL);
    return false;
  }
  // The foot: as far as it is longer than the shank.
  const low = cuts.filter(({ y }) => y < 0.06 * height);
  const heel = Math.min(...low.map(({ back }) => back));
  const tip = Math.max(...low.map(({ front }) => front));
  const length = tip - heel;
  const ankle = Math.max(
    1,
    cuts.findIndex(({ back, front, y }) => y > 0.02 * height && front - back < ANKLE * length),
  );
  const shank = cuts.filter(({ y }) => y > cuts[ankle].y && y < cuts[ankle].y + 0.05 * height);
  const mean = (list: readonly (typeof cuts)[number][], c: 'x' | 'z' | 'half'): number =>
    list.reduce((sum, cut) => sum + cut[c], 0) / Math.max(1, list.length);
  const ankleAt: Place = [mean(shank, 'x'), cuts[ankle].y, mean(shank, 'z')];
  both('ankle', ankleAt, SEEN);
  const ballZ = heel + BALL * length;
  both('ball', [footX(solid, low, ballZ) ?? ankleAt[0], thicknessAt(low, ballZ, voxels.cell) / 2, ballZ], LIKELY);
  both('toe', [footX(solid, low, tip - 1.5 * voxels.cell) ?? ankleAt[0], Math.min(0.012 * height, ankleAt[1] / 2), tip], SEEN);

  const typical = percentile(
    cuts.map(({ cells }) => cells.length),
    0.5,
  );
  let last = cuts.length - 1;
  while (last > 0 && cuts[last].cells.length <= END * typical) last--;
  const top = cuts[last];
  const end = cuts.findIndex(({ y, cells }, i) => {
    const share = cells.length / cuts[Math.max(0, i - 3)].cells.length;
    return y > LOWEST_HIP * height && (share < FULL || share > 1 / FULL);
  });
  const whole = cuts.slice(0, end < 0 ? last + 1 : Math.min(end, last + 1));
  const hipY = isOwn ? top.y : top.y + OVER_PARTING * top.half;
  const upper = whole.filter(({ y }) => y > top.y - UPPER * height);
  let hip: Place = [ahead(upper, 'x', hipY) ?? top.x, hipY, ahead(upper, 'z', hipY) ?? top.z];
  let sure = SEEN;
  if (hip[1] < LOWEST_HIP * height) {
    hip = [hip[0], USUAL_HIP * height, hip[2]];
    sure = USUAL;
  }
  both('hip', hip, sure);

  const line: Line = [
    hip,
    ...[...whole]
      .reverse()
      .filter(({ y }) => y > ankleAt[1])
      .map(({ x, y, z }): Place => [x, y, z]),
    ankleAt,
  ];
  const straight = (y: number): number => hip[2] + ((hip[1] - y) / Math.max(1e-6, hip[1] - ankleAt[1])) * (ankleAt[2] - hip[2]);
  const off = line.map(([, y, z]) => z - straight(y));
  const fore = off.indexOf(Math.max(...off));
  const behind = off.indexOf(Math.min(...off));
  const span = hip[1] - ankleAt[1];
  if (off[behind] < -HOCK_BACK * span && behind > fore) {
    both('knee', [...line[Math.max(1, fore)]], off[fore] > BENT * span ? SEEN : LIKELY);
    both(HOCK_MARK, [...line[behind]], SEEN);
    return true;
  }
  // What a coat hides of the leg is straight, as far as is known.
  const knee = bendOf(evenly(line, voxels.cell), KNEE.usual, KNEE.spread, voxels.cell);
  both('knee', [...evenly(line, voxels.cell)[knee]], Math.abs(off[fore]) > BENT * span ? SEEN : LIKELY);
  return false;
}

/** Where the straight line through cuts is at a height (least squares). */
function ahead(cuts: Leg['cuts'], c: 'x' | 'z', y: number): number | undefined {
  const n = cuts.length;
  if (n < 3) return undefined;
  const meanY = cuts.reduce((sum, cut) => sum + cut.y, 0) / n;
  const mean = cuts.reduce((sum, cut) => sum + cut[c], 0) / n;
  const slope =
    cuts.reduce((sum, cut) => sum + (cut.y - meanY) * (cut[c] - mean), 0) / cuts.reduce((sum, cut) => sum + square(cut.y - meanY), 0);
  return mean + slope * (y - meanY);
}

/** A line with points at about equal distances. */
function evenly(line: Line, step: number): Line {
  const along = lengthsOf(line);
  const total = along[along.length - 1];
  const count = Math.max(4, Math.round(total / step));
  return Array.from({ length: count + 1 }, (_, i) => pointAlong(line, along, (i / count) * total));
}

/** Middle of a foot across, at a place from front to back. */
function footX({ voxels }: Solid, low: Leg['cuts'], z: number): number | undefined {
  const row = Math.floor((z - voxels.origin[2]) / voxels.cell);
  const [nx] = voxels.size;
  const across = low.flatMap(({ cells }) => cells.filter((cell) => Math.floor(cell / nx) === row).map((cell) => cell % nx));
  if (across.length === 0) return undefined;
  return voxels.origin[0] + (across.reduce((a, b) => a + b, 0) / across.length + 0.5) * voxels.cell;
}

/** Height of the foot at a place from front to back. */
function thicknessAt(low: Leg['cuts'], z: number, cell: number): number {
  return low.filter(({ back, front }) => back <= z && z <= front).length * cell;
}

/** The breast between hips and neck, where arms are walked from. */
const BREAST = 0.7;
/** Nothing above this share of the head is a hand. */
const CEILING = 0.3;
/** The wrist from the fingertips, share of the arm's length, and how far bodies are from that. */
const WRIST = { usual: 0.24, spread: 0.025 };
/** How much a thick section speaks against a wrist. */
const THICK_WRIST = 2;
/** The elbow from the wrist, share of the way to the shoulder. */
const ELBOW = { usual: 0.475, spread: 0.03 };
/** Where the section is so much larger than the upper arm's, the shoulder has begun; the joint is a little farther in, in radii. */
const SHOULDER = { grows: 1.35, further: 0.35, spread: 0.7 };
/** Shoulders are so far below the bottom of the neck, shares of the height. */
const BELOW_NECK = { usual: 0.027, spread: 0.012 };

function placeArms(solid: Solid, leg: Leg, head: Head, hip: number, height: number, both: Put): void {
  const { middle } = solid;
  const ceiling = head.chin + CEILING * (head.crown - head.chin);
  const arm = followArm(solid, leg, hip + BREAST * (head.neck - hip), height, ceiling);
  const level = head.neck - BELOW_NECK.usual * height;
  if (!arm || arm.line.length < 8) {
    const at = (x: number): Place => [middle + x * height, level, 0];
    both('shoulder', at(0.105), USUAL);
    both('elbow', at(0.265), USUAL);
    both('wrist', at(0.41), USUAL);
    both('fingertip', at(0.515), USUAL);
    return;
  }
  const shoulder = shoulderOf(arm, level, height);
  const line: Line = [
    [...arm.fingertip] as Place,
    ...arm.line.filter((point) => gap(point, arm.line[0]) < gap(shoulder, arm.line[0]) - 1e-3),
    shoulder,
  ];
  const along = lengthsOf(line);
  const total = along[along.length - 1];
  const usual = percentile(arm.areas, 0.5);
  let [wrist, least] = [1, Infinity];
  for (let i = 1; i + 1 < line.length; i++) {
    const area = arm.areas[Math.min(i - 1, arm.areas.length - 1)];
    const cost = square((along[i] / total - WRIST.usual) / WRIST.spread) + (THICK_WRIST * area) / usual;
    if (cost < least) [wrist, least] = [i, cost];
  }
  const upper = evenly(line.slice(wrist), solid.voxels.cell);
  const elbow = bendOf(upper, ELBOW.usual, ELBOW.spread, solid.voxels.cell);
  const angle = bendAt(upper, elbow);
  both('shoulder', shoulder, LIKELY);
  both('elbow', [...upper[elbow]], angle > 0.15 ? SEEN : LIKELY);
  both('wrist', [...line[wrist]], LIKELY);
  both('fingertip', [...arm.fingertip] as Place, SEEN);
}

/**
 * The shoulder on the line of the upper arm, carried on: where sections grow says how far in it lies on arms held out, the height
 * of shoulders under the neck says it on arms that hang.
 */
function shoulderOf({ line, areas }: Arm, level: number, height: number): Place {
  const half = areas.length >> 1;
  const usual = percentile(areas.slice(half, Math.max(half + 2, Math.floor(areas.length * 0.9))), 0.5);
  let end = areas.length - 1;
  for (let i = half; i < areas.length; i++) {
    if (areas[i] <= SHOULDER.grows * usual) continue;
    end = i - 1;
    break;
  }
  const from = line[Math.floor(end * 0.6)];
  const to = line[Math.max(1, end)];
  const far = Math.max(1e-6, gap(from, to));
  const way = to.map((v, c) => (v - from[c]) / far);
  const radius = Math.sqrt(usual / Math.PI);
  // The most likely of both sayings, each as a normal distribution along the line.
  const inner = { at: SHOULDER.further * radius, weight: 1 / square(SHOULDER.spread * radius) };
  const rise = way[1];
  const under = { at: Math.abs(rise) > 1e-3 ? (level - to[1]) / rise : 0, weight: square(rise / (BELOW_NECK.spread * height)) };
  const s = (inner.at * inner.weight + under.at * under.weight) / (inner.weight + under.weight);
  return [to[0] + s * way[0], to[1] + s * way[1], to[2] + s * way[2]];
}

/** Angle of a line at one of its points, radians, by its ends. */
function bendAt(line: Line, k: number): number {
  const [a, b, c] = [line[0], line[k], line[line.length - 1]];
  const straight = gap(a, c);
  const folded = gap(a, b) + gap(b, c);
  // For small bends of two like halves, length over chord is 1 + angle² / 8.
  return Math.sqrt(Math.max(0, 8 * (folded / Math.max(1e-6, straight) - 1)));
}
