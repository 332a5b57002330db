/** The face of a job: its recording as it was set, and what it drives on the character. */
import type { Clip } from '../clip';
import type { Fault } from '../errors';
import { clapsHeard, clapsSeen, cleanFace, driveShapes, matchClaps, otherSides, resolveTable, type Clap, type FaceMotion } from '../face';
import type { FaceTrack, FaceWeights, MotionFile, Sound } from '../formats';
import type { FaceCase } from '../judge';
import { OWN_FACE, type FaceSource, type Recipe } from '../recipe';
import type { Rig } from '../rig';
import { jointKeys } from '../skeleton';
import type { OwnTime } from '../take';

/** The parts of a job that are looked at here. */
interface FaceJob {
  readonly take: MotionFile;
  readonly clip: number;
  readonly character: MotionFile;
  readonly recipe: Recipe;
  readonly face?: FaceTrack | undefined;
}

/** The recording that a job plays: the one that was given, or that of the take's own file. */
export function recordingOf({ take, clip, recipe, face }: FaceJob): FaceTrack | undefined {
  const set = recipe.take.face;
  if (!set) return undefined;
  return set.recording === OWN_FACE ? take.faces?.[clip] : face;
}

/** Claps that are seen in a take, in its own seconds, and where a sound must begin for most of what is heard in it to be seen. */
export interface ClapsFound {
  readonly seen: readonly Clap[];
  /** Undefined where no clap is both heard and seen. */
  readonly found: { readonly offset: number; readonly agreed: number } | undefined;
}

/** Brings a sound that was recorded apart to a take by the clap of the hands. */
export function clapsOf(
  { performer, take, own }: { readonly performer: Rig; readonly take: Clip; readonly own: OwnTime },
  sound: Sound,
): ClapsFound {
  const seen = clapsSeen(performer, take).map((clap) => ({ ...clap, at: own.start + clap.at / own.pace }));
  return { seen, found: matchClaps(clapsHeard(sound), seen) };
}

/** What a job's face drives. @param remember keeps the recording as it was cleaned */
export function makeFace(
  job: FaceJob,
  rig: Rig,
  clip: Pick<Clip, 'frames' | 'frameTime'>,
  own: OwnTime,
  remember: (from: readonly unknown[], make: () => FaceTrack) => FaceTrack,
): { motion: FaceMotion | undefined; cautions: Fault[] } {
  const { take, character, recipe } = job;
  const set = recipe.take.face;
  if (!set) return { motion: undefined, cautions: [] };
  const none = (message: string): { motion: undefined; cautions: Fault[] } => ({
    motion: undefined,
    cautions: [{ code: 'face/none', message, where: { file: take.name } }],
  });
  const recording = recordingOf(job);
  if (!recording) return none(`the face recording "${set.recording}" was not given: the face stays at rest`);
  const track = remember([recording, set.rate, set.spikes, set.smooth], () => cleanFace(recording, set));
  const table = resolveTable(track.channels, character.shapes ?? [], jointKeys(rig.skeleton), recipe.pairing.face ?? undefined);
  if (table.rows.length === 0 && table.joints.length === 0) {
    return none('the character has no face shapes, and no jaw and eyes that are joints: the face moves nothing');
  }
  const step = clip.frameTime / own.pace;
  const time = { first: own.start - set.offset, step };
  const cautions: Fault[] = [];
  const note = (message: string): void => void cautions.push({ code: 'face/none', message, where: { file: recording.name } });
  const [from, to] = [track.start + set.offset, track.start + (track.frames - 1) * track.frameTime + set.offset];
  const [begin, end] = [own.start, own.start + (clip.frames - 1) * step].sort((a, b) => a - b);
  if (to < begin || from > end)
    note(
      `the recording lies from ${from.toFixed(2)} to ${to.toFixed(2)} s, and the take plays from ${begin.toFixed(2)} to ${end.toFixed(2)} s: set where it begins`,
    );
  else if (from > begin + track.frameTime || to < end - track.frameTime) {
    note(
      `the recording covers ${Math.max(begin, from).toFixed(2)} to ${Math.min(end, to).toFixed(2)} s of ${begin.toFixed(2)} to ${end.toFixed(2)} s; beyond, its first and last frame hold`,
    );
  }
  if (table.unknown.length > 0)
    note(`the name table names channels that the recording does not have: ${table.unknown.slice(0, 8).join(', ')}`);
  return { motion: driveShapes(track, table, time, clip), cautions };
}

/** A face as the judge looks at it. @param weights as they are delivered */
export function faceCaseOf(
  { table, track, time }: FaceMotion,
  rig: Rig,
  clip: Clip,
  weights: FaceWeights | undefined,
  eased: number,
): FaceCase {
  const other = table.exchange ? otherSides(track.channels) : undefined;
  const sourcesOf = (from: readonly FaceSource[]) =>
    from.flatMap(({ channel, weight }) => {
      const c = track.channels.indexOf(channel);
      return c < 0 ? [] : [{ channel: other ? other[c] : c, weight }];
    });
  const keys = jointKeys(rig.skeleton);
  return {
    recording: track,
    first: time.first,
    pace: time.step / clip.frameTime,
    clip,
    weights,
    shapes: table.rows.map((row) => ({ ...row, name: row.shape, sources: sourcesOf(row.from) })),
    skeleton: rig.skeleton,
    restPose: rig.restPose,
    left: rig.left,
    forward: rig.forward,
    joints: table.joints.map(({ joint, turns }) => ({
      joint: keys.indexOf(joint),
      turns: turns.map((turn) => ({ ...turn, sources: sourcesOf(turn.from) })),
    })),
    eased,
  };
}
