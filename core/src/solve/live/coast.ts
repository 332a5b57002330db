import type { Clip } from '../../clip';
import { OUT, type Contacts } from '../../contact';

/** Values of frames with those of the last repeated. @param size numbers of a frame @param more frames that are added */
function repeatLast<T extends Float32Array | Float64Array | Uint8Array>(values: T, size: number, more: number): T {
  const out = new (values.constructor as new (length: number) => T)(values.length + more * size);
  out.set(values);
  for (let at = values.length; at < out.length; at += size) out.copyWithin(at, values.length - size, values.length);
  return out;
}

/** A clip that stands still in its last frame for some frames more. @param joints of its skeleton */
export function coast(clip: Clip, joints: number, more: number): Clip {
  return {
    ...clip,
    frames: clip.frames + more,
    rotations: repeatLast(clip.rotations, joints * 4, more),
    moves: clip.moves.map(({ joint, values }) => ({ joint, values: repeatLast(values, 3, more) })),
  };
}

/** Contacts beside a clip that stands still for some frames more: nothing that rests is said to rest on. */
export function coastContacts(contacts: Contacts, more: number): Contacts {
  const { hands, body } = contacts;
  return {
    ...contacts,
    hands: hands && {
      palms: hands.palms.map((palm) => palm && repeatLast(palm, 3, more)),
      tips: hands.tips.map((tip) => tip && repeatLast(tip, 3, more)),
      touches: hands.touches,
      near: hands.near?.map((one) => ({ ...one, out: repeatLast(one.out, OUT.stride, more) })),
    },
    body: body && {
      places: new Map([...body.places].map(([part, places]) => [part, repeatLast(places, 3, more)])),
      rests: body.rests,
      low: repeatLast(body.low, 1, more),
    },
  };
}
