import type { Case } from './case';
import type { Figure, Found, Verdict } from './figure';
import { LIMITS, type Limit } from './limits';
import { isRising, markBy } from './marks';
import { MEASURES, type Measure } from './measures';
import { makeScene } from './scene';

/** Judges a motion beside the take that it came from. Costs about as much as the solve. */
export function judge(given: Case): Verdict {
  const scene = makeScene(given);
  const { seen, rests, holdings, overFloor } = scene;
  const { frames, points } = seen;
  return {
    frames,
    frameTime: given.take.frameTime,
    figures: MEASURES.flatMap((measure: Measure) => measure(scene)).map(figureOf),
    rests: rests.map((rest) => {
      const { point, kind, first, last, theirs } = rest;
      return { point, kind, first, last, name: points[point].name, lost: holdings[kind].lost.get(rest) ?? 0, height: overFloor(theirs) };
    }),
    skin: scene.skin.known,
  };
}

/** A figure by its limits. */
export function figureOf({ id, value, looked, words, frame, performer, loosen = 0 }: Found): Figure {
  const { name, unit, good, fault } = LIMITS[id] as Limit;
  const by = isRising(id) ? 0 : loosen;
  const limit = { good: good + by, fault: fault + by };
  return { id, name, unit, value, performer, mark: markBy(id, value, limit), limit, looked, words, frame };
}
