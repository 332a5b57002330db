/** Stretches of frames, both ends included, about those that are asked for, within one. @param margin frames before and behind */
export function stretchesOf(asked: Uint8Array, margin: number, [from, to]: readonly [number, number]): (readonly [number, number])[] {
  const out: (readonly [number, number])[] = [];
  for (let f = from; f <= to; f++) {
    if (!asked[f]) continue;
    const [first, last] = [Math.max(from, f - margin), Math.min(to, f + margin)];
    const before = out.at(-1);
    if (before && first <= before[1] + 1) out[out.length - 1] = [before[0], last];
    else out.push([first, last]);
  }
  return out;
}
