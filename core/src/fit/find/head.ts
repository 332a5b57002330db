import { square } from '../../math/numbers';
import { middleOf, type Solid } from './solid';

/** Level cuts through what stands over the middle of the body: trunk, neck and head. */
export interface TrunkCut {
  readonly y: number;
  /** Middle from front to back. */
  readonly z: number;
  /** Square metres. */
  readonly area: number;
}

/** Cuts from the floor to the crown; rows in which nothing stands over the middle have none. */
export function cutTrunk({ voxels, twice, depth }: Solid): TrunkCut[] {
  const [nx, ny, nz] = voxels.size;
  const plane = nx * ny;
  const centre = twice >> 1;
  const cuts: TrunkCut[] = [];
  for (let row = 0; row < ny; row++) {
    let [count, sumZ] = [0, 0];
    for (let z = 0; z < nz; z++) {
      // From the middle outwards, as far as it is filled: arms at the side do not count.
      const base = z * plane + row * nx;
      let x = centre;
      while (x < nx && depth[base + x] > 0) x++;
      const half = x - centre;
      if (half === 0) continue;
      count += half;
      sumZ += half * z;
    }
    if (count === 0) continue;
    const { cell } = voxels;
    cuts.push({
      y: middleOf(voxels, 1, row),
      z: middleOf(voxels, 2, sumZ / count),
      area: 2 * count * cell * cell,
    });
  }
  return cuts;
}

/** The middle of the trunk from front to back at a height: of the cut there and its neighbours. */
export function trunkMiddle(cuts: readonly TrunkCut[], y: number): number {
  let nearest = 0;
  cuts.forEach((cut, i) => {
    if (Math.abs(cut.y - y) < Math.abs(cuts[nearest].y - y)) nearest = i;
  });
  const near = cuts.slice(Math.max(0, nearest - 1), nearest + 2);
  return near.length === 0 ? 0 : near.reduce((sum, { z }) => sum + z, 0) / near.length;
}

/** Crown, chin and the bottom of the neck, all on the middle of the body. */
export interface Head {
  readonly crown: number;
  readonly chin: number;
  readonly neck: number;
  /** False where nothing narrow was seen between head and trunk: proportions decided. */
  readonly isSeen: boolean;
}

/** Where necks are looked for, and where they are where none is seen: shares of the height. */
const [LOWEST, HIGHEST, USUAL] = [0.66, 0.94, 0.845];
/** A neck is at most so wide, share of the head over it. */
const NARROW = 0.87;
/** From the narrowest place of the neck up to the chin, share of the head's height. */
const TO_CHIN = 0.06;
/** Where a cut is so much larger than the narrowest, the neck ends; at the latest so far below, share of the height. */
const [WIDER, LONGEST] = [1.8, 0.045];

/** Finds the head over the neck: the narrowest cut below the widest of the upper ones. */
export function findHead(cuts: readonly TrunkCut[], height: number): Head {
  const crown = cuts[cuts.length - 1].y;
  let narrow: TrunkCut | undefined;
  for (const cut of cuts) {
    if (cut.y < LOWEST * height || cut.y > HIGHEST * height) continue;
    const above = cuts.filter(({ y }) => y > cut.y).reduce((most, { area }) => Math.max(most, area), 0);
    if (cut.area > square(NARROW) * above) continue;
    if (!narrow || cut.area < narrow.area) narrow = cut;
  }
  const at = narrow?.y ?? USUAL * height;
  const below = cuts.filter(({ y, area }) => narrow && y < at && area > WIDER * narrow.area).at(-1);
  return { crown, chin: at + TO_CHIN * (crown - at), neck: Math.max(below?.y ?? 0, at - LONGEST * height), isSeen: narrow !== undefined };
}
