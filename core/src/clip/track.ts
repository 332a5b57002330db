/** Three values a frame for one joint: its local translation, or its size. */
export interface Track {
  readonly joint: number;
  readonly values: Float32Array;
}

/** Two motions that are mixed frame by frame. */
export interface Mixing {
  /** Of the whole. */
  readonly frames: number;
  /** The frame of each that a frame of the whole takes; asked for only where its share is not 0. */
  readonly first: (frame: number) => number;
  readonly second: (frame: number) => number;
  /** Share of the second for a joint. */
  readonly share: (frame: number, joint: number) => number;
}

/** Tracks mixed. A joint that one of them leaves as it is at rest goes there. @param restOf the three values at rest */
function mixTracks(
  a: readonly Track[] = [],
  b: readonly Track[] = [],
  { frames, first, second, share }: Mixing,
  restOf: (joint: number) => ArrayLike<number>,
): Track[] {
  const joints = [...new Set([...a, ...b].map(({ joint }) => joint))].sort((one, other) => one - other);
  return joints.map((joint): Track => {
    const [own, next] = [a, b].map((tracks) => tracks.find((track) => track.joint === joint)?.values);
    const rest = restOf(joint);
    const values = new Float32Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      const w = share(f, joint);
      for (let c = 0; c < 3; c++) {
        const x = w === 1 ? 0 : own ? own[first(f) * 3 + c] : rest[c];
        const y = w === 0 ? 0 : next ? next[second(f) * 3 + c] : rest[c];
        values[f * 3 + c] = w === 0 ? x : w === 1 ? y : x + w * (y - x);
      }
    }
    return { joint, values };
  });
}

/** Moves and sizes of two motions mixed. @param restT local translations at rest, 3 per joint */
export function mixedTracks(a: Tracked, b: Tracked, mixing: Mixing, restT: Float64Array): Tracked {
  const moves = mixTracks(a.moves, b.moves, mixing, (joint) => restT.subarray(joint * 3, joint * 3 + 3));
  const sizes = mixTracks(a.sizes, b.sizes, mixing, () => [1, 1, 1]);
  return { moves, ...(sizes.length > 0 && { sizes }) };
}

interface Tracked {
  readonly moves: readonly Track[];
  readonly sizes?: readonly Track[];
}
