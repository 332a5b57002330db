import { basename, join } from 'node:path';
import {
  fail,
  JobMemory,
  joinMotions,
  Names,
  parseReel,
  playLane,
  plays,
  prepare,
  reelSource,
  safeName,
  takesOfClip,
  withTouches,
  writeLane,
  type Clip,
  type LaneMade,
  type MotionFile,
  type Ready,
  type ReelLane,
  type ReelSource,
} from '@hollow-stride/core';
import { BODIES, filesIn, MOTION, recipeFor, recipesIn, stem } from '../inputs';
import type { Output } from '../output';
import type { Workspace } from '../workspace';

export interface ReelOptions {
  readonly takes: readonly string[];
  readonly characters: readonly string[];
  readonly recipes?: readonly string[];
  readonly out: string;
  readonly format?: string;
  readonly together?: boolean;
  readonly json?: boolean;
}

/** What came of a lane, as it is printed. */
interface LaneSaid {
  readonly lane: string;
  readonly file: string;
  readonly frames: number;
  readonly fps: number;
  /** Millimetres a second beyond what the clips' own feet do, and the frame where that is worst, from 1; null for none. */
  readonly slide: number;
  readonly slideFrame: number | null;
  readonly clips: readonly { readonly name: string; readonly first: number; readonly last: number; readonly overlap: number }[];
}

/** Plays a reel: each lane that is on becomes a file, or, together, a motion by its name in the file of its character. */
export async function reelCommand(path: string, options: ReelOptions, output: Output, workspace: Workspace): Promise<void> {
  if (options.format !== undefined && options.format !== 'bvh' && options.format !== 'glb')
    fail('option', `--format is "bvh" or "glb", not "${options.format}"`);
  workspace.input(path, 'the reel');
  const takes = byName(await filesIn(options.takes, MOTION, '--takes'));
  const characters = byName(await filesIn(options.characters, BODIES, '--characters'));
  const recipeFiles = options.recipes ? await filesIn(options.recipes, ['.json'], '--recipes') : [];
  for (const file of [...takes.values(), ...characters.values(), ...recipeFiles]) workspace.input(file, basename(file));
  const reel = parseReel(await workspace.text(path, 'the reel'), basename(path));
  const recipes = await recipesIn(recipeFiles, workspace);
  await workspace.folder(options.out);
  const loaded = new Map<string, Promise<MotionFile>>();
  const load = (file: string): Promise<MotionFile> => {
    const found = loaded.get(file) ?? workspace.load(file, basename(file));
    loaded.set(file, found);
    return found;
  };
  const find = (files: ReadonlyMap<string, string>, name: string, what: string): string =>
    files.get(name) ?? fail('option', `the reel plays ${what} ${name}, and no such file was given`, { file: basename(path) });
  const results = new Map<string, Promise<Ready & { source: ReelSource }>>();
  const resultOf = async (take: string, character: string): Promise<Ready & { source: ReelSource }> => {
    const [motion, body] = [find(takes, take, 'the take'), find(characters, character, 'the character')];
    const recipe = recipeFor(recipes, stem(motion), stem(body));
    const ready = prepare({ take: await load(motion), clip: 0, character: await load(body), recipe }, new JobMemory(1));
    return { ...ready, source: reelSource(ready) };
  };
  const names = new Names();
  const joined = new Map<string, { readonly path: string; readonly files: Uint8Array[] }>();
  const played = await Promise.all(reel.lanes.map((lane) => (plays(lane) ? playedOf(lane) : undefined)));
  const clips = withTouches(
    played.map((one) => one && { rig: one.ready.character, clip: one.made.clip }),
    reel.touches,
    reel.fps,
  );
  const said: LaneSaid[] = [];
  for (const [i, lane] of reel.lanes.entries()) {
    const one = played[i];
    if (!one) continue;
    const { ready, made } = one;
    const file = await written(lane, ready, clips[i]!);
    said.push({
      lane: lane.name,
      file,
      frames: made.clip.frames,
      fps: reel.fps,
      slide: Math.round(made.slide.worst * 1e4) / 10,
      slideFrame: made.slide.frame < 0 ? null : made.slide.frame + 1,
      clips: made.placed.map(({ index, first, last, overlap }) => ({
        name: lane.clips[index].name,
        first: first + 1,
        last: last + 1,
        overlap,
      })),
    });
  }
  for (const { path: place, files } of joined.values()) await workspace.save(join(options.out, place), place, joinMotions(files));
  if (said.length === 0) fail('option', 'no lane of the reel is on and has a clip', { file: basename(path) });
  if (options.json) output.out(JSON.stringify({ reel: reel.name, lanes: said }, null, 2));
  else
    for (const one of said)
      output.out(`${one.file}: ${one.lane}, ${one.frames} frames, standing feet slide ${one.slide.toFixed(1)} mm/s beyond their own`);

  async function playedOf(lane: ReelLane): Promise<{ ready: Ready; made: LaneMade }> {
    const sources = new Map<string, Ready & { source: ReelSource }>();
    for (const take of new Set(lane.clips.flatMap(takesOfClip))) {
      const key = `${take} ${lane.character}`;
      const found = results.get(key) ?? resultOf(take, lane.character);
      results.set(key, found);
      sources.set(take, await found);
    }
    const ready = sources.get(takesOfClip(lane.clips[0])[0])!;
    return { ready, made: playLane(ready.character, lane, reel.fps, (take) => sources.get(take)!.source) };
  }

  async function written(lane: ReelLane, ready: Ready, clip: Clip): Promise<string> {
    const { delivery } = ready.job.recipe;
    const made = await writeLane(ready, lane, clip, {
      ...delivery,
      format: (options.format as 'bvh' | 'glb' | undefined) ?? delivery.format,
    });
    if (options.together && made.format === 'glb') {
      const whole = joined.get(lane.character) ?? { path: `${names.free(safeName(stem(lane.character)))}.glb`, files: [] };
      joined.set(lane.character, whole);
      whole.files.push(made.bytes);
      return whole.path;
    }
    const place = `${names.free(safeName(lane.name))}.${made.format}`;
    await workspace.save(join(options.out, place), place, made.bytes);
    return place;
  }
}

const byName = (paths: readonly string[]): ReadonlyMap<string, string> => new Map(paths.map((path) => [basename(path), path]));
