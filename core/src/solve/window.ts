import { trim, type Clip } from '../clip';
import { cutContacts, type Contacts } from '../contact';
import type { Pairing } from '../match';
import { cutTouchUps, NO_TOUCH_UPS, type LaidTouchUps } from '../touchup';
import type { SolveSettings } from './settings';
import { solve, type Transfer } from './solve';
import { steeredBy } from './steer';

/** Beyond so many seconds around a frame nothing moves what is shown of it, but for what rests for longer. */
const REACH = 2.5;
/** What rests is taken in whole, up to so many times as far: a stance may last for minutes. */
const FARTHEST = 3;
/** A window begins at a multiple of so many frames: what is found at half the rate and at a quarter of it first is found in the same frames. */
const STEP = 8;

/** The frames that have to be solved for one to be as it is in the whole take. @param around frames to each side that are to be shown */
export function windowAround(
  { frames, frameTime }: Pick<Clip, 'frames' | 'frameTime'>,
  { plants, hands, body }: Contacts,
  frame: number,
  around: number,
): { first: number; last: number } {
  const reach = Math.max(around, Math.round(REACH / frameTime));
  const [from, to] = [frame - reach, frame + reach];
  let [first, last] = [from, to];
  for (const span of [...plants, ...(hands?.touches ?? []), ...(body?.rests ?? [])]) {
    if (span.last < from || span.first > to) continue;
    first = Math.min(first, span.first);
    last = Math.max(last, span.last);
  }
  first = Math.max(0, frame - FARTHEST * reach, first);
  return { first: first - (first % STEP), last: Math.min(frames - 1, frame + FARTHEST * reach, last) };
}

/**
 * Solves the frames about one frame, with the contacts of the whole take: the same stages, soon enough to follow a dial while it
 * turns. The window reaches over every plant and touch in it, so that none is cut.
 * @param around frames to each side that are shown; touch-ups are those of the whole take
 * @returns the transfer of the window, and its first frame in the take
 */
export function solveWindow(
  pairing: Pairing,
  clip: Clip,
  settings: SolveSettings,
  contacts: Contacts,
  { frame, around, touchUps = NO_TOUCH_UPS }: { readonly frame: number; readonly around: number; readonly touchUps?: LaidTouchUps },
): { transfer: Transfer; first: number } {
  const { first, last } = windowAround(clip, contacts, frame, around);
  const begins = touchUps.steer ? steeredBy(pairing, clip, touchUps.steer, first) : ([0, 0] as const);
  const transfer = solve(
    pairing,
    trim(pairing.performer.skeleton, clip, first, last),
    { ...settings, inPlace: false },
    { contacts: cutContacts(contacts, first, last), touchUps: cutTouchUps(touchUps, [first, last], begins) },
  );
  return { transfer, first };
}
