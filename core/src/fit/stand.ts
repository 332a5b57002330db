import type { Surface } from '../formats';
import type { Stand } from '../recipe';
import { guessUnit } from '../rig';
import { UP_AXES } from '../skeleton';
import { standUp } from './body';
import { followLeg } from './find/legs';
import { solidOf } from './find/solid';
import { voxelsOf } from './voxels';

export interface GuessedStand {
  readonly stand: Stand;
  /** For people: what it was told from. */
  readonly reason: string;
}

/** Cells along the height: legs are three to four cells thick. */
const CELLS = 72;
/** What is seen well enough that no other way is tried: two legs over this share of the height, sides that are like by that much. */
const GOOD = { legs: 0.4, likeness: 0.8 };
/** A body that stands is at least so high, share of how far it reaches sideways or back. */
const UPRIGHT = 0.6;
/** Hip joint to floor, share of the height. */
const LEG = 0.53;

/**
 * Guesses how a mesh stands: the way in which two legs rise from the floor beside the middle of two like halves, toes ahead; its unit from
 * how high it is then.
 */
export function guessStand(surface: Surface): GuessedStand {
  let best: { up: Stand['up']; quarter: 0 | 1; score: number; toes: number; legs: number } | undefined;
  // The usual ones first.
  for (const up of UP_AXES) {
    for (const quarter of [0, 1] as const) {
      const seen = look(surface, { metres: 1, up, quarter });
      const score = Math.min(seen.legs, 0.6) + seen.likeness;
      if (!best || score > best.score) best = { up, quarter, score, ...seen };
      if (seen.legs > GOOD.legs && seen.likeness > GOOD.likeness) return told(surface, best);
    }
  }
  // No legs anywhere: as the format has it.
  return told(surface, best && best.legs > 0.15 ? best : { up: '+Y', quarter: 0, toes: 1, legs: 0 });
}

interface Seen {
  /** Share of the height over which two legs are apart. */
  readonly legs: number;
  readonly likeness: number;
  /** Positive where feet reach farther ahead than back. */
  readonly toes: number;
}

function look(surface: Surface, stand: Stand): Seen {
  const body = standUp(surface, stand);
  const span = Math.max(body.high[0] - body.low[0], body.high[2] - body.low[2]);
  if (body.height < UPRIGHT * span) return { legs: 0, likeness: 0, toes: 1 };
  const solid = solidOf(voxelsOf(body, CELLS));
  const { cuts } = followLeg(solid);
  if (cuts.length < 4 || cuts[0].row > 4) return { legs: 0, likeness: solid.likeness, toes: 1 };
  const low = cuts.slice(0, Math.max(2, Math.round(CELLS * 0.04)));
  const shank = cuts.slice(Math.round(CELLS * 0.06), Math.round(CELLS * 0.16));
  const middle = shank.reduce((sum, { z }) => sum + z, 0) / Math.max(1, shank.length);
  const toes = Math.max(...low.map(({ front }) => front)) - middle - (middle - Math.min(...low.map(({ back }) => back)));
  return { legs: cuts.length / CELLS, likeness: solid.likeness, toes };
}

function told(
  surface: Surface,
  { up, quarter, toes, legs }: { up: Stand['up']; quarter: 0 | 1; toes: number; legs: number },
): GuessedStand {
  const turned = (toes < 0 ? quarter + 2 : quarter) as Stand['quarter'];
  const { height } = standUp(surface, { metres: 1, up, quarter: turned });
  const unit = guessUnit(height * LEG, surface.inMetres);
  const stands = legs > 0 ? `two legs rise along ${up}` : `no two legs are seen; ${up} is taken for up`;
  return { stand: { metres: unit.metres, up, quarter: turned }, reason: `${stands}; it is ${(height * unit.metres).toFixed(2)} m high` };
}
