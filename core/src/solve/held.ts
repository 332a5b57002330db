import { smootherstep } from '../math/filter';

/** How many frames each frame is away from the nearest held one. */
export function framesToHeld(held: Uint8Array): Float64Array {
  const frames = held.length;
  const out = new Float64Array(frames);
  let last = -1e9;
  for (let f = 0; f < frames; f++) {
    if (held[f]) last = f;
    out[f] = f - last;
  }
  last = 1e9;
  for (let f = frames - 1; f >= 0; f--) {
    if (held[f]) last = f;
    out[f] = Math.min(out[f], last - f);
  }
  return out;
}

/** Numbers that say how near a frame is to held ones: 1 there, 0 from so many frames on. */
export function nearHeld(held: Uint8Array, width: number): Float64Array {
  return framesToHeld(held).map((distance) => 1 - smootherstep(distance / width));
}

/** Marks frames no farther than some from marked ones. */
export function around(marks: Uint8Array, frames: number): Uint8Array {
  const out = new Uint8Array(marks.length);
  let until = 0;
  for (let f = 0; f < marks.length; f++) {
    if (marks[f] === 0) continue;
    const end = Math.min(marks.length, f + frames + 1);
    out.fill(1, Math.max(until, f - frames), end);
    until = end;
  }
  return out;
}
