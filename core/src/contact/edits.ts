import type { BodyEdit, PlantEdit, TouchEdit } from '../recipe';
import type { BodyRest } from './body';
import type { Touch } from './hands';
import { cutPlant, cutSpan, joinPlants } from './cut';
import { OUT } from './onBody';
import { onGround, type Contacts } from './plants';
import type { Plant } from './stands';
import { without, type Span } from './still';

/** The frame of a clip at a second of the take's own time; it may lie outside the clip. */
type FrameAt = (seconds: number) => number;

/**
 * Lays a person's edits over detected plants: what is removed is cut out of the plants of that heel or ball, what is added joins
 * them. Edits are in the take's own seconds, so that they mean the same moments at any frame rate.
 */
export function editPlants(contacts: Contacts, edits: readonly PlantEdit[], frameAt: FrameAt, frames: number): Contacts {
  if (edits.length === 0) return contacts;
  const plants = edited<Plant, PlantEdit>(
    contacts.plants,
    edits,
    {
      isMeant: (plant, { side, part }) => plant.side === side && plant.part === part,
      make: ({ side, part, height }, span) => {
        const under = contacts.ground?.under.get(`${side}.${part}`);
        const plant: Plant = { side, part, ...span, ...(height === null ? {} : { height }) };
        return under ? { ...plant, ...onGround(under, plant) } : plant;
      },
      cut: cutPlant,
      join: joinPlants,
    },
    frameAt,
    frames,
  );
  return { ...contacts, plants };
}

/** The same for what hands touch; a take whose performer has no hands is left as it is. */
export function editTouches(contacts: Contacts, edits: readonly TouchEdit[], frameAt: FrameAt, frames: number): Contacts {
  const { hands } = contacts;
  if (edits.length === 0 || !hands) return contacts;
  const touches = edited<Touch, TouchEdit>(
    hands.touches,
    edits,
    {
      isMeant: (touch, { side, on, part }) =>
        touch.side === side && touch.on === on && ((on !== 'body' && on !== 'prop') || touch.part === part),
      make: ({ side, on, part }, span) => ({ side, on, ...(typeof part === 'string' && { part }), ...span }),
      ...AS_SPANS,
    },
    frameAt,
    frames,
  );
  return { ...contacts, hands: { ...hands, touches } };
}

/** The same for parts of the body that rest on the floor; a take in which none comes near it is left as it is. */
export function editRests(contacts: Contacts, edits: readonly BodyEdit[], frameAt: FrameAt, frames: number): Contacts {
  const { body } = contacts;
  if (edits.length === 0 || !body) return contacts;
  const rests = edited<BodyRest, BodyEdit>(
    body.rests,
    edits,
    {
      isMeant: (rest, { part }) => rest.part === part,
      make: ({ part }, span) => ({ part, ...span }),
      ...AS_SPANS,
    },
    frameAt,
    frames,
  );
  return { ...contacts, body: { ...body, rests, low: withinLow(body.low, rests) } };
}

/** Touches that have no place to keep: on a part of the own body that the hand is never near, on a prop that the take does not have. */
export function emptyTouches({ hands }: Contacts): Touch[] {
  return (hands?.touches ?? []).filter(({ on, side, part, first, last }) => {
    if (on === 'prop') return !hands?.props?.some(({ role }) => role === part);
    if (on !== 'body') return false;
    const out = hands?.near?.find((one) => one.side === side && one.part === part)?.out;
    for (let f = first; out && f <= last; f++) if (!Number.isNaN(out[f * OUT.stride + OUT.gap])) return false;
    return true;
  });
}

/** Where something rests by hand, the body is near the floor. */
function withinLow(low: Uint8Array, rests: readonly BodyRest[]): Uint8Array {
  const out = low.slice();
  for (const { first, last } of rests) out.fill(1, first, last + 1);
  return out;
}

/** Contacts to which nothing belongs but their frames. */
const AS_SPANS = {
  cut: cutSpan,
  join: <T extends Span>([one]: readonly T[], { first, last }: Span): T => cutSpan(one, first, last),
};

/** How contacts of a kind are edited. */
interface Kind<T extends Span, E> {
  /** Whether an edit is about a contact. */
  readonly isMeant: (one: T, edit: E) => boolean;
  /** A contact that a person adds. */
  readonly make: (edit: E, span: Span) => T;
  /** A contact in some of its frames, with all that belongs to them. */
  readonly cut: (one: T, first: number, last: number) => T;
  /** Contacts as one over a span that takes them in. */
  readonly join: (list: readonly T[], span: Span) => T;
}

function edited<T extends Span, E extends { readonly kind: 'add' | 'remove'; readonly from: number; readonly to: number }>(
  list: readonly T[],
  edits: readonly E[],
  { isMeant, make, cut, join }: Kind<T, E>,
  frameAt: FrameAt,
  frames: number,
): T[] {
  let all: T[] = [...list];
  for (const edit of edits) {
    // A take that plays backwards ends where the edit begins.
    const ends = [frameAt(edit.from), frameAt(edit.to)].map(Math.round);
    const first = Math.max(0, Math.min(...ends));
    const last = Math.min(frames - 1, Math.max(...ends));
    if (first > last) continue;
    if (edit.kind === 'remove') {
      all = all.flatMap((one) => (isMeant(one, edit) ? without(one, first, last).map((left) => cut(one, left.first, left.last)) : [one]));
      continue;
    }
    const joined = all.filter((one) => isMeant(one, edit) && one.first <= last + 1 && one.last >= first - 1);
    const span = {
      first: Math.min(first, ...joined.map((one) => one.first)),
      last: Math.max(last, ...joined.map((one) => one.last)),
    };
    const whole = joined.length > 0 ? join(joined, span) : make(edit, span);
    all = [...all.filter((one) => !joined.includes(one)), whole];
  }
  return all.sort((a, b) => a.first - b.first);
}
