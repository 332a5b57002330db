import { bandOf, BandSystem } from '../math/band';
import { spanOf, stancesOf, type Anchor } from './stances';

/** How a step that is longer, or goes elsewhere, than the performer's is weighed beside stances away from where they are copied: seconds. */
const HASTE = 0.15;

/**
 * Moves stances of one foot so that a foot that is only put down anew does not go farther than the performer's. Limbs of other bones lead a foot
 * elsewhere as they bend, and where it is copied moves while it stands: a foot that the performer puts 5 cm aside within a tenth of a second had 20 to
 * go. Least squares over all stances, in seconds and metres:
 *
 *     T |shift|²                                              for each stance, T its duration
 *     h³/t² |step − the performer's step, scaled|²            from each to the next, t the time between, h = 0.15 s
 *
 * so that steps that take their time, as those of a walk, hardly change.
 * @param anchors of one foot, in their order; moved
 */
export function evenSteps(anchors: readonly Anchor[], frameTime: number): void {
  const stances = stancesOf(anchors);
  if (stances.length < 2) return;
  const system = new BandSystem(bandOf(stances.length, 1));
  stances.forEach((stance, i) => {
    const { first, last } = spanOf(stance);
    for (let c = 0; c < 3; c++) system.near(i, c, 0, (last - first + 1) * frameTime);
    const next = stances.at(i + 1);
    const both = next && sameProbe(stance, next);
    if (!both) return;
    const [from, to] = both;
    const time = Math.max(1, spanOf(next).first - last) * frameTime;
    const weight = (HASTE * HASTE * HASTE) / (time * time);
    for (const [c, axis] of AXES) system.apart(i, i + 1, c, to.rest![c] - from.rest![c] - (to[axis] - from[axis]), weight);
  });
  const shifts = system.solve();
  stances.forEach((stance, i) => {
    for (const anchor of stance) for (const [c, axis] of AXES) anchor[axis] += shifts[i * 3 + c];
  });
}

const AXES = [
  [0, 'x'],
  [2, 'z'],
] as const;

/** The last anchor of a stance, and the first of the next, of one and the same part of the foot, of which both are known where the performer's rest. */
function sameProbe(before: readonly Anchor[], after: readonly Anchor[]): readonly [Anchor, Anchor] | undefined {
  for (const part of ['ball', 'heel'] as const) {
    const from = [...before].reverse().find((one) => one.part === part && one.rest);
    const to = after.find((one) => one.part === part && one.rest);
    if (from && to) return [from, to];
  }
  return undefined;
}
