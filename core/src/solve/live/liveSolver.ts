import { makeContinuous, trim, type Clip } from '../../clip';
import { cutContacts, findContacts, findFloor } from '../../contact';
import type { Pairing } from '../../match';
import { percentile } from '../../math/filter';
import { DEFAULT_DETECTION, type Detection } from '../../recipe';
import { planPose } from '../plan';
import { DEFAULT_SOLVE, type SolveSettings } from '../settings';
import { runStages, SolveMemory } from '../solve';
import { coast, coastContacts } from './coast';
import { Shown } from './shown';

/** Seconds that are looked at behind a frame, to tell what rests. */
const BEHIND = 1;
/** Seconds of what was shown that the stages go on from: what is displaced fades within them. */
const SHOWN = 0.25;
/** A frame is final when those of so many seconds behind it are known: what a step needs to be told from a swing. */
const AHEAD = 0.05;
/** The last frame stands for so many seconds more, in which what is displaced comes back: what is known reaches too short a way for that. */
const COAST = 0.5;
/** The floor is the median of those found within so many seconds. */
const FLOORS = 10;

/** A frame of the character that is final. */
export interface LiveFrame {
  /** Number of the frame, from 0 for the first that was pushed. */
  readonly frame: number;
  /** Local rotations of the character's joints, 4 each. */
  readonly rotations: Float32Array;
  /** Places of the joints that move, at their parents, metres. */
  readonly moves: readonly { readonly joint: number; readonly place: Float32Array }[];
}

export interface LiveOptions {
  /** Seconds from frame to frame. */
  readonly frameTime: number;
  readonly settings?: SolveSettings;
  /** How readily what rests is found; a floor that is null is found as frames come, and none is taken to slope. */
  readonly detection?: Detection;
}

/**
 * Solves a take as it comes: what rests is told in a window of the last second, and the stages of a solve go over the last quarter of it, in which what
 * was shown stands as it is (a receding horizon: Mattingley, Wang and Boyd, IEEE Control Systems 31, 2011). A frame is final once those of the next
 * 0.05 s are known.
 */
export class LiveSolver {
  /** Frames that a frame waits for. */
  readonly ahead: number;
  private readonly window: number;
  private readonly behind: number;
  private readonly room: number;
  private readonly more: number;
  private readonly joints: number;
  private readonly memory = new SolveMemory();
  private readonly settings: SolveSettings;
  private readonly detection: Detection;
  private readonly floors: number[] = [];
  private readonly shown: Shown;
  private readonly turns: Float32Array;
  private readonly places: Float32Array;
  /** Number of the first frame that is kept, and how many are. */
  private first = 0;
  private count = 0;
  /** How many frames are final, from frame 0 on. */
  private final = 0;

  constructor(
    private readonly pairing: Pairing,
    private readonly options: LiveOptions,
  ) {
    const { frameTime, settings = DEFAULT_SOLVE, detection = DEFAULT_DETECTION } = options;
    // Travel can be taken out, and a slope be found, of a whole take only.
    this.settings = { ...settings, inPlace: false };
    this.detection = { ...detection, slope: LEVEL };
    this.ahead = Math.max(1, Math.round(AHEAD / frameTime));
    this.more = Math.round(COAST / frameTime);
    this.behind = Math.ceil(SHOWN / frameTime);
    this.window = Math.ceil(BEHIND / frameTime) + this.ahead;
    // Frames may come while others are solved.
    this.room = 2 * this.window;
    this.joints = pairing.performer.skeleton.parents.length;
    this.turns = new Float32Array(this.room * this.joints * 4);
    this.places = new Float32Array(this.room * 3);
    this.shown = new Shown(pairing.character, planPose(pairing).mover, this.room);
  }

  /**
   * Takes a frame in. Of frames that come faster than they are solved the oldest are left out.
   * @param turns local rotations of the performer, 4 a joint @param place of its root, metres, Y up
   */
  push(turns: ArrayLike<number>, place: ArrayLike<number>): void {
    if (this.count === this.room) this.forget(this.room - this.window);
    this.turns.set(turns, this.count * this.joints * 4);
    this.places.set(place, this.count * 3);
    this.count++;
  }

  /** Solves what has come. @param isOver no more frames will come: all are final @returns the frames that have become final */
  solve(isOver = false): LiveFrame[] {
    const until = this.first + this.count - (isOver ? 0 : this.ahead);
    if (until <= this.final) return [];
    this.forget(Math.min(this.final - this.first, this.count - this.window));
    const { pairing, joints, more, shown } = this;
    const known = this.known();
    // Also when it is over: what has been taken for a meeting stays one.
    const contacts = findContacts(pairing.performer, known, { ...this.detection, floor: this.floor(known) }, true);
    const [start, last] = [Math.max(0, this.final - this.first - this.behind), this.count - 1];
    const first = this.first + start;
    shown.beginAt(first);
    const [from, end] = [this.final - first, until - first];
    const solved = runStages(pairing, coast(trim(pairing.performer.skeleton, known, start, last), joints, more), this.settings, {
      memory: this.memory,
      contacts: coastContacts(cutContacts(contacts, start, last), more),
      past: shown.past(from, last + 1 - start),
    });
    shown.take(solved, from, end);
    this.final = until;
    return framesOf(solved.finish.clip, pairing.character.skeleton.parents.length, { first, from, end });
  }

  /** Height of the performer's floor: as given, or as most of the last windows have it. */
  private floor(known: Clip): number {
    if (this.detection.floor !== null) return this.detection.floor;
    const { floors } = this;
    floors.push(findFloor(this.pairing.performer, known));
    if (floors.length * this.options.frameTime > FLOORS) floors.shift();
    return percentile(Float64Array.from(floors), 0.5);
  }

  private known(): Clip {
    const { count, joints, options } = this;
    const rotations = this.turns.slice(0, count * joints * 4);
    makeContinuous(rotations, joints);
    return {
      name: '',
      frameTime: options.frameTime,
      frames: count,
      rotations,
      moves: [{ joint: 0, values: this.places.slice(0, count * 3) }],
    };
  }

  /** Lets the oldest frames go. */
  private forget(frames: number): void {
    if (frames <= 0) return;
    this.turns.copyWithin(0, frames * this.joints * 4);
    this.places.copyWithin(0, frames * 3);
    this.first += frames;
    this.count -= frames;
    this.final = Math.max(this.final, this.first);
  }
}

/** Some frames of a clip by themselves. @param first number of the clip's first frame */
function framesOf(
  { rotations, moves }: Clip,
  joints: number,
  { first, from, end }: { readonly first: number; readonly from: number; readonly end: number },
): LiveFrame[] {
  const size = joints * 4;
  return Array.from({ length: end - from }, (_, i): LiveFrame => {
    const f = from + i;
    return {
      frame: first + f,
      rotations: rotations.slice(f * size, (f + 1) * size),
      moves: moves.map(({ joint, values }) => ({ joint, place: values.slice(f * 3, f * 3 + 3) })),
    };
  });
}

/** A floor that does not slope, and for which no slope is looked for. */
const LEVEL = { degrees: 0, toward: 0 };
