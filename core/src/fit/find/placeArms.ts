import { percentile } from '../../math/filter';
import { square } from '../../math/numbers';
import { distance } from '../../math/vec';
import type { Place } from '../landmarks';
import { followArm, type Arm } from './arms';
import { bendOf, evenly, lengthsOf, type Line } from './bends';
import type { Head } from './head';
import type { Leg } from './legs';
import type { Solid } from './solid';
import { LIKELY, SEEN, USUAL, type Put } from './sure';

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

/** Lays the landmarks of the arms. @param hip height of the hip joints */
export function placeArms(solid: Solid, leg: Leg, head: Head, hip: number, height: number, both: Put): void {
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
    ...arm.line.filter((point) => distance(point, 0, arm.line[0], 0) < distance(shoulder, 0, arm.line[0], 0) - 1e-3),
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
  const far = Math.max(1e-6, distance(from, 0, to, 0));
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
  const straight = distance(a, 0, c, 0);
  const folded = distance(a, 0, b, 0) + distance(b, 0, c, 0);
  // For small bends of two like halves, length over chord is 1 + angle² / 8.
  return Math.sqrt(Math.max(0, 8 * (folded / Math.max(1e-6, straight) - 1)));
}
