import { OUT } from './onBody';
import type { BodyContacts } from './body';
import type { Hands } from './hands';
import type { Contacts } from './plants';
import type { Plant } from './stands';
import type { Span } from './still';

/** What begins and ends, in some of its frames alone. */
export function cutSpan<T extends Span>(span: T, first: number, last: number): T {
  return { ...span, first, last };
}

/** A plant in some of its frames: an end at which it is cut off does not creep. */
export function cutPlant(plant: Plant, first: number, last: number): Plant {
  const { creep, tips } = plant;
  const before = creep && first === plant.first ? creep.before : NO_WAY;
  const after = creep && last === plant.last ? creep.after : NO_WAY;
  return {
    ...plant,
    first,
    last,
    ...(creep && { creep: { before, after } }),
    ...(tips && { tips: tips.subarray(first - plant.first, last - plant.first + 1) }),
  };
}

/** A plant over a span from the first of some that it takes in to the last: it begins and ends as these do, where its ends are theirs. */
export function joinPlants(plants: readonly Plant[], { first, last }: Span): Plant {
  const beginning = plants.find((one) => one.first === first)?.creep;
  const ending = plants.find((one) => one.last === last)?.creep;
  // Where a heel stands nothing is said of the tip: the ball says it.
  const tips = plants.some((one) => one.tips) ? new Float64Array(last - first + 1).fill(NaN) : undefined;
  for (const plant of plants) if (plant.tips) tips!.set(plant.tips, plant.first - first);
  return {
    // It keeps the height at which the first rests.
    ...plants[0],
    ...(plants.length > 1 && { place: undefined }),
    first,
    last,
    creep: { before: beginning?.before ?? NO_WAY, after: ending?.after ?? NO_WAY },
    ...(tips && { tips }),
  };
}

const NO_WAY = new Float64Array(0);

/** Contacts in some frames of a take, counted from the first of them. */
export function cutContacts(contacts: Contacts, first: number, last: number): Contacts {
  const { plants, ground, hands, body } = contacts;
  return {
    ...contacts,
    plants: within(plants, first, last, cutPlant).map((plant) => withRoom(plant, last - first)),
    ground: ground && {
      ...ground,
      under: new Map([...ground.under].map(([probe, heights]) => [probe, heights.subarray(first, last + 1)])),
    },
    hands: hands && cutHands(hands, first, last),
    body: body && cutBody(body, first, last),
  };
}

/** Spans as they are in some frames, counted from the first of them. */
function within<T extends Span>(spans: readonly T[], first: number, last: number, cut: (span: T, first: number, last: number) => T): T[] {
  return spans
    .filter((span) => span.last >= first && span.first <= last)
    .map((span) => {
      const own = cut(span, Math.max(first, span.first), Math.min(last, span.last));
      return { ...own, first: own.first - first, last: own.last - first };
    });
}

/** A plant that does not creep before the first frame, nor behind the last. */
function withRoom(plant: Plant, end: number): Plant {
  const { first, last, creep } = plant;
  if (!creep) return plant;
  const before = creep.before.subarray(Math.max(0, creep.before.length - first * 3));
  return { ...plant, creep: { before, after: creep.after.subarray(0, (end - last) * 3) } };
}

function cutHands({ palms, tips, touches, near, props }: Hands, first: number, last: number): Hands {
  const part = (places: Float64Array): Float64Array => places.subarray(first * 3, (last + 1) * 3);
  return {
    palms: palms.map((palm) => palm && part(palm)),
    tips: tips.map((tip) => tip && part(tip)),
    touches: within(touches, first, last, cutSpan),
    props: props?.map((one) => ({ ...one, places: part(one.places), rests: within(one.rests, first, last, cutSpan) })),
    near: near?.map((one) => ({ ...one, out: one.out.subarray(first * OUT.stride, (last + 1) * OUT.stride) })),
  };
}

function cutBody({ places, rests, low }: BodyContacts, first: number, last: number): BodyContacts {
  return {
    places: new Map([...places].map(([part, list]) => [part, list.subarray(first * 3, (last + 1) * 3)])),
    rests: within(rests, first, last, cutSpan),
    low: low.subarray(first, last + 1),
  };
}
