/** x². The power operator is left to the engine, which need not give the same bits everywhere. */
export function square(x: number): number {
  return x * x;
}

/** Length of a vector of any number of parts; `Math.hypot` is the engine's. */
export function hypot(...parts: readonly number[]): number {
  let sum = 0;
  for (const part of parts) sum += part * part;
  return Math.sqrt(sum);
}
