import { ENOUGH, mm, type Found } from '../figure';
import type { PointKind } from '../look/points';
import type { Scene } from '../scene';

/** How much of the performer's rests the character holds. */
export function held(scene: Scene): Found[] {
  return (['feet', 'hands', 'body'] as const).map((kind) => heldOf(scene, kind));
}

function heldOf({ given, seen, rests, holdings, at }: Scene, kind: PointKind): Found {
  const id = `held.${kind}` as const;
  const { rested, held: kept, worst, notHeld } = holdings[kind];
  const away =
    worst && notHeld > 0
      ? `; ${notHeld} ${notHeld === 1 ? 'rest' : 'rests'} not held, the worst the ${seen.points[worst.rest.point].name} for ${worst.seconds.toFixed(1)} s at ${at(worst.rest.first)}, ${mm(worst.away)} away`
      : '';
  return {
    id,
    value: rested >= ENOUGH ? (100 * kept) / rested : NaN,
    looked: given.inPlace
      ? 'not looked at in place'
      : `${rested.toFixed(1)} s of ${rests.filter((rest) => rest.kind === kind).length} rests`,
    words: `held ${kept.toFixed(1)} of ${rested.toFixed(1)} s${away}`,
    frame: notHeld > 0 ? worst?.rest.first : undefined,
  };
}
