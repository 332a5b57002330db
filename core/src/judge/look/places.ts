import type { Pose } from '../../skeleton';
import type { Case } from '../case';
import { placePoints, sharedPoints, type BodyPoint } from './points';
import { heightOver, tiltsOf, type Tilts } from './slope';

/** Places of the points that may rest on something. */
export class PointWatch {
  readonly points: readonly BodyPoint[];
  /** Frames × points × 3. */
  readonly mine: Float64Array;
  readonly theirs: Float64Array;
  readonly tilts: Tilts | undefined;
  /** Deepest of the performer's own points. */
  performerDeepest = Infinity;
  private readonly theirPoints: readonly BodyPoint[];

  constructor(given: Case) {
    const { performer, character } = sharedPoints(given.performer, given.character);
    this.points = character;
    this.theirPoints = performer;
    this.mine = new Float64Array(given.result.frames * character.length * 3);
    this.theirs = new Float64Array(this.mine.length);
    this.tilts = tiltsOf(given);
  }

  see(f: number, mine: Pose, theirs: Pose): void {
    const size = this.points.length * 3;
    placePoints(this.theirs, f * size, this.theirPoints, theirs.positions, theirs.rotations);
    placePoints(this.mine, f * size, this.points, mine.positions, mine.rotations);
    for (let o = f * size + 1; o < (f + 1) * size; o += 3) this.performerDeepest = Math.min(this.performerDeepest, this.theirs[o]);
  }

  /** Height of the lowest point of the character in a frame, over a floor that is laid level. */
  lowestAt(f: number): number {
    return this.lowest(this.mine, this.tilts?.mine, f);
  }

  /** Height of the lowest of the performer's points over a floor that is laid level. @param every so many frames one is looked at */
  performerLowest(every: number): number {
    if (!this.tilts) return this.performerDeepest;
    let lowest = Infinity;
    const frames = this.theirs.length / (this.points.length * 3);
    for (let f = 0; f < frames; f += every) lowest = Math.min(lowest, this.lowest(this.theirs, this.tilts.theirs, f));
    return lowest;
  }

  private lowest(places: Float64Array, tilt: Float64Array | undefined, f: number): number {
    const size = this.points.length * 3;
    let lowest = Infinity;
    for (let o = f * size; o < (f + 1) * size; o += 3) lowest = Math.min(lowest, tilt ? heightOver(places, o, tilt) : places[o + 1]);
    return lowest;
  }
}
