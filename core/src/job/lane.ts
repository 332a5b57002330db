/** Lanes of a reel as files, and what is to be said of them: no performer did what a lane does, so it is looked at by itself. */
import { ClipReader, type Clip } from '../clip';
import { fail } from '../errors';
import { figureOf, type Figure } from '../judge';
import { makeOutput, NOT_AS_SOLVED, READ_BACK, readBack, writeOutput, type Output } from '../output';
import { DEFAULT_DELIVERY, type DeliveryChoices, type ReelLane } from '../recipe';
import { isLoop, type LaneMade, type ReelSource } from '../reel';
import type { Rig } from '../rig';
import { formatOf, solveReady, type JobMemory, type Ready } from './job';

/** The result of a job as lanes play it. */
export function reelSource(ready: Ready, memory?: JobMemory): ReelSource {
  return { rig: ready.character, clip: solveReady(ready, memory).clip, contacts: ready.contacts };
}

/**
 * Writes the motion of a lane as a file of its character, named as the lane, and reads it back.
 * @param ready any result that the lane plays
 * @param clip the lane's motion, with what it touches
 * @throws FaultError option where the format cannot be written, or the file does not hold what was played
 */
export async function writeLane(ready: Ready, lane: ReelLane, clip: Clip, choices: Partial<DeliveryChoices>): Promise<Output> {
  const delivery = { ...DEFAULT_DELIVERY, ...choices, title: lane.name };
  const job = { ...ready.job, recipe: { ...ready.job.recipe, delivery } };
  const output = writeOutput(makeOutput(job.character, ready.character, clip, formatOf(job), delivery, { isLoop: isLoop(lane) }));
  const { worst } = await readBack(output, ready.character, `${lane.name}.${output.format}`);
  if (worst > READ_BACK) fail('option', NOT_AS_SOLVED, { file: job.character.name });
  return output;
}

/** How standing feet slide where clips are mixed, closed or stretched, and what jumps where a clip comes in at once. */
export function judgeLane(rig: Rig, { clip, placed, slide }: LaneMade): Figure[] {
  const cuts = placed.filter(({ first, overlap }) => overlap === 0 && first > 0).map(({ first }) => first);
  const { away, frame } = jumpAt(rig, clip, cuts);
  return [
    figureOf({
      id: 'slide',
      value: slide.worst * 1000,
      looked: `${clip.frames} frames, stands where clips were mixed, closed or stretched`,
      words: slide.frame < 0 ? 'every foot stands as in its own result' : `beyond its own result, most from frame ${slide.frame + 1} on`,
      frame: slide.frame < 0 ? undefined : slide.frame,
    }),
    figureOf({
      id: 'jumps',
      value: cuts.length > 0 ? away * 1000 : NaN,
      looked: `${cuts.length} clips that come in at once`,
      words: frame < 0 ? 'nothing leaves its way' : `most at frame ${frame + 1}`,
      frame: frame < 0 ? undefined : frame,
    }),
  ];
}

/** Frames before and behind a cut whose own way is what a jump is measured against. */
const NEAR = 4;

/** How far a joint is off the middle between where it was and will be, doubled, at a cut, beyond what it is on either side of it; metres. */
function jumpAt({ skeleton }: Rig, clip: Clip, cuts: readonly number[]): { readonly away: number; readonly frame: number } {
  const joints = skeleton.names.length;
  const reader = new ClipReader(skeleton, clip);
  let [away, frame] = [0, -1];
  for (const cut of cuts) {
    const [from, to] = [Math.max(0, cut - NEAR), Math.min(clip.frames - 1, cut + NEAR)];
    const places = Array.from({ length: to - from + 1 }, (_, i) => reader.at(from + i).positions.slice());
    for (let j = 0; j < joints; j++) {
      let [most, usual] = [0, 0];
      for (let f = from + 1; f < to; f++) {
        const bend = bendOf(places, j, f - from);
        if (f === cut || f === cut - 1) most = Math.max(most, bend);
        else usual = Math.max(usual, bend);
      }
      if (most - usual > away) [away, frame] = [most - usual, cut];
    }
  }
  return { away, frame };
}

function bendOf(places: readonly ArrayLike<number>[], joint: number, at: number): number {
  let sum = 0;
  for (let c = joint * 3; c < joint * 3 + 3; c++) {
    const d = places[at + 1][c] - 2 * places[at][c] + places[at - 1][c];
    sum += d * d;
  }
  return Math.sqrt(sum);
}
