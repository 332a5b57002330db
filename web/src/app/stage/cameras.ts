const STORED = 'hollow-stride.cameras';
const MOST = 60;

/** Where a person has put the camera, by what is looked at: x, y and z from the place that it is aimed at. */
export type Place = readonly [number, number, number];

/** The place that was remembered for a key; undefined for none. */
export function cameraOf(key: string): Place | undefined {
  return read().find(([known]) => known === key)?.[1];
}

/** Remembers a place; undefined forgets it. The longest unused go first. */
export function rememberCamera(key: string, place: Place | undefined): void {
  const others = read().filter(([known]) => known !== key);
  const next = place ? [...others, [key, place] as const].slice(-MOST) : others;
  localStorage.setItem(STORED, JSON.stringify(next));
}

function read(): (readonly [string, Place])[] {
  try {
    const list = JSON.parse(localStorage.getItem(STORED) ?? '[]') as unknown;
    return Array.isArray(list)
      ? (list as (readonly [string, Place])[]).filter((one) => Array.isArray(one?.[1]) && one[1].every(Number.isFinite))
      : [];
  } catch {
    return [];
  }
}
