import { percentile } from '../../math/filter';
import { square } from '../../math/numbers';
import { HOCK_MARK, type Place } from '../landmarks';
import { bendOf, evenly, type Line } from './bends';
import type { Leg } from './legs';
import type { Solid } from './solid';
import { LIKELY, SEEN, USUAL, type Put } from './sure';

/** Fewer cuts show no leg. */
const FEWEST = 8;
/** Hips where no legs are seen apart, share of the height (segment lengths after Drillis and Contini, in Winter 2009). */
const USUAL_HIP = 0.53;
/** Legs that part lower than this are hidden by clothes. */
const LOWEST_HIP = 0.36;
/** Hips beside the middle, share of the height. */
const USUAL_HIP_ASIDE = 0.055;

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

/** Lays the landmarks of the legs. @returns true for legs with hocks */
export function placeLegs(leg: Leg, solid: Solid, height: number, both: Put): boolean {
  const { middle, voxels } = solid;
  if (leg.cuts.length < FEWEST) {
    usualLegs(middle, height, both);
    return false;
  }
  const ankleAt = placeFoot(leg.cuts, solid, height, both);
  const { hip, whole, sure } = hipOf(leg, height);
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
  const even = evenly(line, voxels.cell);
  const knee = even[bendOf(even, KNEE.usual, KNEE.spread, voxels.cell)];
  both('knee', [...knee], Math.abs(off[fore]) > BENT * span ? SEEN : LIKELY);
  return false;
}

/** Legs as bodies usually have them, where the shape shows none. */
function usualLegs(middle: number, height: number, both: Put): void {
  const x = middle + USUAL_HIP_ASIDE * height;
  const at = (y: number, z: number): Place => [x, y * height, z * height];
  both('hip', at(USUAL_HIP, 0), USUAL);
  both('knee', at(0.285, 0.005), USUAL);
  both('ankle', at(0.045, -0.01), USUAL);
  both('ball', at(0.015, 0.07), USUAL);
  both('toe', at(0.012, 0.11), USUAL);
}

/** Lays ankle, ball and toe: the foot goes as far up as it is longer than the shank. @returns the ankle */
function placeFoot(cuts: Leg['cuts'], solid: Solid, height: number, both: Put): Place {
  const { voxels } = solid;
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
  return ankleAt;
}

/** The hip joint, the cuts of the leg alone below it, and how sure it is. */
function hipOf({ cuts, isOwn }: Leg, height: number): { hip: Place; whole: Leg['cuts']; sure: number } {
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
  return { hip, whole, sure };
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
