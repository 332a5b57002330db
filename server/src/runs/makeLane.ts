import {
  type JobMemory,
  judgeLane,
  playLane,
  prepare,
  reelSource,
  summaryOf,
  takesOfClip,
  withTouches,
  writeLane,
  type LaneMade,
  type MotionFile,
  type Ready,
  type ReelLane,
  type ReelSource,
} from '@hollow-stride/core';
import { deliveryOf, recipeOf, type LaneSpec } from './spec';

import { figureJson, type Made } from './made';

/** Plays a lane of a reel, with those whose figures it touches. */
export async function makeLane(
  { reel, lane, transfers, output: choices }: LaneSpec,
  read: ReadonlyMap<string, MotionFile>,
  memory: JobMemory,
): Promise<Made> {
  const results = new Map<string, { readonly ready: Ready; readonly source: ReelSource }>();
  for (const [key, one] of Object.entries(transfers)) {
    const [take, character] = [read.get(one.take.file)!, read.get(one.character.file)!];
    const ready = prepare({ take, clip: one.take.clip, character, recipe: recipeOf(one, ({ file }) => read.get(file)!) }, memory);
    results.set(key, { ready, source: reelSource(ready) });
  }
  const played = reel.lanes.map((one) => {
    const { ready } = resultOf(one, takesOfClip(one.clips[0])[0]);
    return { ready, made: playLane(ready.character, one, reel.fps, (take) => resultOf(one, take).source) };
  });
  const clips = withTouches(
    played.map((one) => ({ rig: one.ready.character, clip: one.made.clip })),
    reel.touches,
    reel.fps,
  );
  const { ready, made } = played[lane];
  const whole: LaneMade = { ...made, clip: clips[lane]! };
  const output = await writeLane(ready, reel.lanes[lane], whole.clip, deliveryOf(choices));
  const figures = judgeLane(ready.character, whole);
  return {
    output,
    summary: summaryOf({ frames: whole.clip.frames, figures }),
    report: { frames: whole.clip.frames, fps: reel.fps, figures: figures.map(figureJson), plain: [], cautions: [], looked: null },
  };

  function resultOf({ character }: ReelLane, take: string): { readonly ready: Ready; readonly source: ReelSource } {
    return results.get(`${take} ${character}`)!;
  }
}
