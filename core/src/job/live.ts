import { clipToBasis } from '../clip';
import { fail } from '../errors';
import type { MotionFile } from '../formats';
import { clipOfFrames, fileOfStream, type Opening, type StreamFrame } from '../live';
import type { Pairing } from '../match';
import { slerp } from '../math/quat';
import type { Recipe } from '../recipe';
import { LiveSolver, type LiveFrame } from '../solve';
import { JobMemory, prepare } from './job';

/** The frames of so many seconds show the performer's rest pose and soles: a transfer begins with them. */
const LEARNING = 1;
/** What was lost for no longer is bridged, seconds; after more the transfer begins anew where the stream goes on. */
const BRIDGED = 0.25;

/** A frame of the character, by the number of the stream's own. */
export interface TransferredFrame extends Omit<LiveFrame, 'frame'> {
  readonly number: number;
}

/** A stream transferred onto a character while it comes. */
export class LiveTransfer {
  /** Frames that could not be bridged: how often, and how many. */
  readonly lost = { gaps: 0, frames: 0 };
  private readonly file: MotionFile;
  private seen: StreamFrame[] = [];
  private begun: { readonly pairing: Pairing; readonly solver: () => LiveSolver } | undefined;
  private solver: LiveSolver | undefined;
  /** Number in the stream of the solver's frame 0. */
  private base = 0;
  private last: { readonly number: number; readonly turns: Float32Array; readonly place: Float32Array } | undefined;

  /**
   * @param recipe of the character, the pairing and the solve; what it says of the performer's unit and axes is the stream's
   * @throws FaultError option for a pairing joint by joint
   */
  constructor(
    private readonly opening: Opening,
    private readonly character: MotionFile,
    private readonly recipe: Recipe,
    private readonly memory = new JobMemory(),
  ) {
    if (recipe.pairing.byJoint)
      fail('option', 'a pairing joint by joint is not transferred live: record the take and solve it', { file: character.name });
    this.file = fileOfStream(opening);
  }

  /** Once the performer is known. */
  get pairing(): Pairing | undefined {
    return this.begun?.pairing;
  }

  /** Share of what has to be seen before the transfer begins, 0 to 1. */
  get learned(): number {
    return this.begun ? 1 : Math.min(1, this.seen.length / this.toLearn);
  }

  private get toLearn(): number {
    return Math.max(2, Math.ceil(LEARNING * this.opening.rate));
  }

  /**
   * Takes a frame in; those that are doubled or late have been dropped before.
   * @throws FaultError where the performer cannot be labelled or paired
   */
  push(frame: StreamFrame): void {
    if (this.begun) {
      this.add(frame);
      return;
    }
    this.seen.push(frame);
    if (this.seen.length < this.toLearn) return;
    this.begin();
    for (const one of this.seen) this.add(one);
    this.seen = [];
  }

  /** Solves what has come. @param isOver no more frames will come */
  solve(isOver = false): TransferredFrame[] {
    return (this.solver?.solve(isOver) ?? []).map(({ frame, ...rest }) => ({ ...rest, number: this.base + frame }));
  }

  private begin(): void {
    const { opening, character, recipe, seen } = this;
    const { clip } = clipOfFrames(opening.name, opening, seen);
    const performer = { ...recipe.performer, unit: opening.metres, up: opening.up };
    const job = { take: { ...this.file, clips: [clip] }, clip: 0, character, recipe: { ...recipe, performer } };
    const { pairing, settings } = prepare(job, this.memory);
    const options = { frameTime: 1 / opening.rate, settings, detection: recipe.take.detection };
    this.begun = { pairing, solver: () => new LiveSolver(pairing, options) };
  }

  private add({ number, turns, place }: StreamFrame): void {
    const { begun, last } = this;
    if (!begun) return;
    const own = { name: '', frameTime: 1, frames: 1, rotations: turns, moves: [{ joint: 0, values: place }] };
    const { rotations, moves } = clipToBasis(this.file.skeleton, own, begun.pairing.performer.basis);
    const now = { number, turns: rotations, place: moves[0].values };
    this.last = now;
    const missing = last ? number - last.number - 1 : 0;
    if (!this.solver || !last || missing > BRIDGED * this.opening.rate) {
      if (missing > 0) {
        this.lost.gaps++;
        this.lost.frames += missing;
      }
      this.solver = begun.solver();
      this.base = number;
    } else {
      const between = new Float32Array(rotations.length);
      const way = new Float32Array(3);
      for (let i = 1; i <= missing; i++) {
        const t = i / (missing + 1);
        for (let q = 0; q < between.length; q += 4) slerp(between, q, last.turns, q, rotations, q, t);
        for (let c = 0; c < 3; c++) way[c] = last.place[c] + t * (now.place[c] - last.place[c]);
        this.solver.push(between, way);
      }
    }
    this.solver.push(rotations, now.place);
  }
}
