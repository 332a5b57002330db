import { trim, type Clip } from '../clip';
import { OUT, type BodyContacts, type Contacts, type Hands } from '../contact';
import type { Pairing } from '../match';
import { cutTouchUps, NO_TOUCH_UPS, type LaidTouchUps } from '../touchup';
import type { SolveSettings } from './settings';
import { solve, type Transfer } from './solve';

/**
 * Solves the frames about one frame, with the contacts of the whole take: the same stages, soon enough to follow a dial while it
 * turns. The window reaches over every plant and touch in it, so that none is cut.
 * @param around frames to each side; touch-ups are those of the whole take
 * @returns the transfer of the window, and its first frame in the take
 */
export function solveWindow(
  pairing: Pairing,
  clip: Clip,
  settings: SolveSettings,
  contacts: Contacts,
  { frame, around, touchUps = NO_TOUCH_UPS }: { readonly frame: number; readonly around: number; readonly touchUps?: LaidTouchUps },
): { transfer: Transfer; first: number } {
  let first = Math.max(0, frame - around);
  let last = Math.min(clip.frames - 1, frame + around);
  for (const plant of [...contacts.plants, ...(contacts.hands?.touches ?? []), ...(contacts.body?.rests ?? [])]) {
    if (plant.last < first || plant.first > last) continue;
    // A stance may last for minutes: three windows' worth of it is enough.
    first = Math.max(0, frame - 3 * around, Math.min(first, plant.first));
    last = Math.min(clip.frames - 1, frame + 3 * around, Math.max(last, plant.last));
  }
  const plants = within(contacts.plants, first, last);
  const { hands, body } = contacts;
  const part = trim(pairing.performer.skeleton, clip, first, last);
  return {
    transfer: solve(
      pairing,
      part,
      { ...settings, inPlace: false },
      {
        contacts: { ...contacts, plants, hands: hands && cut(hands, first, last), body: body && cutBody(body, first, last) },
        touchUps: cutTouchUps(touchUps, first, last),
      },
    ),
    first,
  };
}

interface Span {
  readonly first: number;
  readonly last: number;
}

/** Spans as they are in some frames, counted from the first of them. */
function within<T extends Span>(spans: readonly T[], first: number, last: number): T[] {
  return spans
    .filter((span) => span.last >= first && span.first <= last)
    .map((span) => ({ ...span, first: Math.max(0, span.first - first), last: Math.min(last - first, span.last - first) }));
}

/** Contacts of the hands in some frames of a take. */
function cut({ palms, touches, near, props }: Hands, first: number, last: number): Hands {
  return {
    palms: palms.map((palm) => palm?.slice(first * 3, (last + 1) * 3)),
    touches: within(touches, first, last),
    props: props?.map((one) => ({
      ...one,
      places: one.places.slice(first * 3, (last + 1) * 3),
      rests: within(one.rests, first, last),
    })),
    near: near?.map((one) => ({ ...one, out: one.out.slice(first * OUT.stride, (last + 1) * OUT.stride) })),
  };
}

function cutBody({ places, rests, low }: BodyContacts, first: number, last: number): BodyContacts {
  return {
    places: new Map([...places].map(([part, list]) => [part, list.slice(first * 3, (last + 1) * 3)])),
    rests: within(rests, first, last),
    low: low.slice(first, last + 1),
  };
}
