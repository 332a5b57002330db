import { PLANT_LIMITS, type Plant, type Rest, type Series } from './stands';

/**
 * A foot that stands on the floor with its heel or its ball alone stands on the lower of the two.
 * @param plants of each series
 * @param rests where each rests on the floor @param leg the performer's, metres
 * @returns for each series the frames in which it cannot be what the foot stands on, as the other is lower and not planted
 */
export function higherOnes(
  plants: readonly (readonly Plant[])[],
  series: readonly Series[],
  rests: readonly Rest[],
  leg: number,
): ((frame: number) => boolean)[] {
  const over = (i: number, f: number): number => series[i].height[f] - rests[i].base;
  return series.map(({ side, part }, i) => {
    const other = series.findIndex((s) => s.side === side && s.part !== part);
    return (f) =>
      other >= 0 &&
      over(i, f) > over(other, f) + PLANT_LIMITS.higher * leg &&
      !plants[other].some(({ first, last }) => first <= f && f <= last);
  });
}

/** Cuts the frames off the ends of plants on the floor in which the foot cannot stand on them. */
export function cutHigher(plants: readonly Plant[], isHigher: (frame: number) => boolean): Plant[] {
  return plants.flatMap((plant) => {
    if (plant.height) return [plant];
    let { first, last } = plant;
    while (first <= last && isHigher(first)) first++;
    while (last >= first && isHigher(last)) last--;
    return last < first ? [] : [{ ...plant, first, last }];
  });
}
