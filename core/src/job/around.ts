import { makeContinuous, type Clip } from '../clip';
import { solveWindow, windowAround, type Transfer } from '../solve';
import type { Ready } from './job';

/** Seconds on each side of a frame whose motion is taken from a window about it. */
const SHOWN = 1;

/** A job as it was solved as a whole, without its layers. */
export interface SolvedBefore {
  readonly ready: Ready;
  readonly below: Transfer;
}

/**
 * A job that was solved before, with something changed: solved anew about one frame, and elsewhere as it was. Soon enough to follow what is dragged on
 * a take of any length; the whole is solved when it has been let go.
 * @param wanted the frame; of one that the take does not have, the nearest
 * @returns the transfer without its layers; undefined where the whole is found as soon, or what was shown is of no use
 */
export function solveAround(ready: Ready, before: SolvedBefore, wanted: number): Transfer | undefined {
  const { pairing, take, settings, contacts, touchUps, carrying } = ready;
  const { below } = before;
  if (carrying || before.ready.carrying || settings.plain || settings.inPlace || before.ready.settings.inPlace) return undefined;
  const isSamePair = ready.job.take === before.ready.job.take && pairing.character === below.pairing.character;
  if (!isSamePair || take.frames !== below.clip.frames) return undefined;
  if (isAsBefore(ready, before.ready)) return undefined;
  const frame = Math.max(0, Math.min(take.frames - 1, wanted));
  const around = Math.round(SHOWN / take.frameTime);
  const window = windowAround(take, contacts, frame, around);
  if (2 * (window.last - window.first + 1) > take.frames) return undefined;
  const { transfer, first } = solveWindow(pairing, take, settings, contacts, { frame, around, touchUps });
  const from = Math.max(0, frame - around);
  const clip = spliced(below.clip, transfer.clip, pairing.character.skeleton.parents.length, {
    from,
    first,
    until: Math.min(take.frames, frame + around + 1),
  });
  return clip && { ...below, pairing, settings, take, contacts, clip, floor: transfer.floor, heading: touchUps.steer?.heading };
}

/** True where nothing has changed that a solve depends on. */
function isAsBefore(a: Ready, b: Ready): boolean {
  const laid = (Object.keys(a.touchUps) as (keyof Ready['touchUps'])[]).every((part) => Object.is(a.touchUps[part], b.touchUps[part]));
  const same = a.pairing === b.pairing && a.take === b.take && a.contacts === b.contacts;
  return laid && same && JSON.stringify(a.settings) === JSON.stringify(b.settings);
}

/** Frames of a clip. */
interface Frames {
  readonly from: number;
  readonly until: number;
  /** That of them with which the other clip begins. */
  readonly first: number;
}

/** A clip with some of its frames from another; undefined where other joints move. */
function spliced(clip: Clip, part: Clip, joints: number, { from, until, first }: Frames): Clip | undefined {
  const lay = (out: Float32Array, values: Float32Array, size: number): Float32Array => {
    out.set(values.subarray((from - first) * size, (until - first) * size), from * size);
    return out;
  };
  if (clip.moves.length !== part.moves.length || clip.moves.some(({ joint }, i) => joint !== part.moves[i].joint)) return undefined;
  const rotations = lay(clip.rotations.slice(), part.rotations, joints * 4);
  makeContinuous(rotations, joints);
  return {
    ...clip,
    rotations,
    moves: clip.moves.map(({ joint, values }, i) => ({ joint, values: lay(values.slice(), part.moves[i].values, 3) })),
  };
}
