import { trim, type Clip } from '../clip';
import type { Contacts, Hands } from '../contact';
import type { Pairing } from '../match';
import type { SolveSettings } from './settings';
import { solve, type Transfer } from './solve';

/**
 * Solves the frames about one frame, with the contacts of the whole take: the same stages, soon enough to follow a dial while it
 * turns. The window reaches over every plant and touch in it, so that none is cut.
 * @param around frames to each side
 * @returns the transfer of the window, and its first frame in the take
 */
export function solveWindow(
  pairing: Pairing,
  clip: Clip,
  settings: SolveSettings,
  contacts: Contacts,
  frame: number,
  around: number,
): { transfer: Transfer; first: number } {
  let first = Math.max(0, frame - around);
  let last = Math.min(clip.frames - 1, frame + around);
  for (const plant of [...contacts.plants, ...(contacts.hands?.touches ?? [])]) {
    if (plant.last < first || plant.first > last) continue;
    // A stance may last for minutes: three windows' worth of it is enough.
    first = Math.max(0, frame - 3 * around, Math.min(first, plant.first));
    last = Math.min(clip.frames - 1, frame + 3 * around, Math.max(last, plant.last));
  }
  const plants = contacts.plants
    .filter((plant) => plant.last >= first && plant.first <= last)
    .map((plant) => ({ ...plant, first: Math.max(0, plant.first - first), last: Math.min(last - first, plant.last - first) }));
  const { hands } = contacts;
  const part = trim(pairing.performer.skeleton, clip, first, last);
  return {
    transfer: solve(
      pairing,
      part,
      { ...settings, inPlace: false },
      { contacts: { ...contacts, plants, hands: hands && cut(hands, first, last) } },
    ),
    first,
  };
}

/** What the hands do in some frames of a take, counted from the first of them. */
function cut({ palms, touches }: Hands, first: number, last: number): Hands {
  return {
    palms: palms.map((palm) => palm?.slice(first * 3, (last + 1) * 3)),
    touches: touches
      .filter((touch) => touch.last >= first && touch.first <= last)
      .map((touch) => ({ ...touch, first: Math.max(0, touch.first - first), last: Math.min(last - first, touch.last - first) })),
  };
}
