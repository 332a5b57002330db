/** A seeded generator (mulberry32): the same seed gives the same numbers everywhere. */
export interface Random {
  /** The next number in [0, 1). */
  next(): number;
  /** The next number in [low, high). */
  range(low: number, high: number): number;
  /** The next number of a normal distribution with mean 0 and deviation 1 (sum of twelve, exact arithmetic). */
  normal(): number;
  /** The next whole number in [low, high]. */
  integer(low: number, high: number): number;
}

/** @param seed any whole number; equal seeds give equal series */
export function random(seed: number): Random {
  let state = seed >>> 0;
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return {
    next,
    range: (low, high) => low + (high - low) * next(),
    normal: () => {
      let s = -6;
      for (let i = 0; i < 12; i++) s += next();
      return s;
    },
    integer: (low, high) => low + Math.floor(next() * (high - low + 1)),
  };
}
