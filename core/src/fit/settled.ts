import { SIDES } from '../label';
import type { FitChoices } from '../recipe';
import type { Found } from './find/find';
import { landmarkNames, mirrored, type Landmarks, type Place } from './landmarks';

/** A hock that nobody has seen or set lies so far from the knee to the ankle, and so far behind, share of that way. */
const HOCK = { along: 0.5, behind: 0.25 };

/** All landmarks of a body: those that were set by hand, what they say of the other side, and those that were found. */
export function settled(
  { landmarks: found, middle, hasHocks }: Found,
  { landmarks: set, mirrored: isMirrored, hocks }: FitChoices,
): Landmarks {
  const withHocks = hocks ?? hasHocks;
  const out: Record<string, Place> = {};
  for (const name of landmarkNames(withHocks)) {
    const other = name.startsWith('left.') ? name.replace('left.', 'right.') : name.replace('right.', 'left.');
    const own = set[name] as Place | undefined;
    const beside = isMirrored && other !== name ? (set[other] as Place | undefined) : undefined;
    const place = own ?? (beside && mirrored(beside, middle)) ?? (found[name] as Place | undefined);
    if (place) out[name] = place;
  }
  for (const side of SIDES) {
    const [knee, ankle] = [out[`${side}.knee`], out[`${side}.ankle`]];
    if (!withHocks || (out[`${side}.hock`] as Place | undefined)) continue;
    const way = [0, 1, 2].map((c) => knee[c] + HOCK.along * (ankle[c] - knee[c])) as [number, number, number];
    way[2] -= HOCK.behind * (knee[1] - ankle[1]);
    out[`${side}.hock`] = way;
  }
  return out;
}
