import { log } from '../math/trig';
/** Guessing the unit of a file from the size of the body in it. */

export type Unit = 'm' | 'cm' | 'mm' | 'inch' | 'foot' | 'unknown';

export interface UnitGuess {
  readonly unit: Unit;
  /** Metres per file unit. */
  readonly metres: number;
  /** For people: why. */
  readonly reason: string;
}

export const UNIT_METRES: Readonly<Record<Exclude<Unit, 'unknown'>, number>> = { m: 1, cm: 0.01, mm: 0.001, inch: 0.0254, foot: 0.3048 };

/** Leg length, hip joint to floor, of an adult: what an unknown unit is scaled to. */
const ADULT_LEG = 0.9;

/** How much less likely a unit is before the body is looked at; an unknown unit costs a fixed amount. */
const PRIOR: Readonly<Record<Exclude<Unit, 'unknown'>, number>> = { m: 0, cm: 0, mm: 0.1, inch: 0.5, foot: 0.8 };
const UNKNOWN_COST = 1.6;
const SPREAD = 0.45;

/**
 * Guesses the unit from the leg length: each known unit is charged for the distance (in log scale) of the leg it
 * implies from an adult's, and for how rarely it is used; where all are dear, the unit is unknown.
 * @param leg leg length, hip joint to floor, in file units
 * @param inMetres true for formats whose standard says metres (glTF)
 * @param hint what the file itself says of its unit; believed where it gives a leg that a body may have
 */
export function guessUnit(leg: number, inMetres: boolean, hint?: { readonly metres: number; readonly reason: string }): UnitGuess {
  if (!(leg > 0) || !Number.isFinite(leg)) return { unit: 'unknown', metres: 1, reason: 'the body has no legs to measure' };
  if (inMetres && leg > 0.12 && leg < 8) {
    return { unit: 'm', metres: 1, reason: `the format is in metres; hip to floor is ${leg.toFixed(2)} m` };
  }
  if (hint && leg * hint.metres > 0.25 && leg * hint.metres < 3) {
    return { ...nameUnit(hint.metres), reason: `${hint.reason}; hip to floor is ${(leg * hint.metres).toFixed(2)} m` };
  }
  let unit: Unit = 'unknown';
  let cost = UNKNOWN_COST;
  for (const [name, metres] of Object.entries(UNIT_METRES) as [Exclude<Unit, 'unknown'>, number][]) {
    const own = Math.abs(log((leg * metres) / ADULT_LEG)) / SPREAD + PRIOR[name];
    if (own < cost) {
      cost = own;
      unit = name;
    }
  }
  const size = leg < 10 ? leg.toFixed(2) : leg.toFixed(1);
  if (unit === 'unknown') {
    return {
      unit,
      metres: ADULT_LEG / leg,
      reason: `hip to floor is ${size} units, which fits no usual unit; scaled to an adult's ${ADULT_LEG} m`,
    };
  }
  return { unit, metres: UNIT_METRES[unit], reason: `hip to floor is ${size} ${unit}, ${(leg * UNIT_METRES[unit]).toFixed(2)} m` };
}

/** A unit set by hand: metres per file unit. */
export function nameUnit(metres: number): UnitGuess {
  const known = (Object.entries(UNIT_METRES) as [Exclude<Unit, 'unknown'>, number][]).find(([, m]) => Math.abs(m / metres - 1) < 1e-6);
  return { unit: known?.[0] ?? 'unknown', metres, reason: 'set by hand' };
}
