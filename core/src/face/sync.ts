/** Where a recording made apart lies in a take: a clap is heard in the sound, and seen as two hands that meet. */
import { ClipReader, type Clip } from '../clip';
import type { Sound } from '../formats';
import { distance } from '../math/vec';
import type { Rig } from '../rig';

/** A moment that may be a clap. */
export interface Clap {
  /** Second of the sound, or frame time of the clip. */
  readonly at: number;
  /** How much it is like one; only to be compared with others of its kind. */
  readonly strength: number;
}

/** Seconds between looks at a sound's loudness. */
const HOP = 0.002;
/** What a clap stands out from: the mean of so many seconds before it. */
const BEFORE = 0.06;
/** Two claps are at least this far apart, seconds. */
const APART = 0.15;
const MOST_CLAPS = 12;
/** Metres by which hands that have met still come nearer. */
const GIVES = 0.004;

/**
 * Sudden sounds: where the energy of the differences of neighbouring samples, in which clicks and claps stand out from voices,
 * rises most above what was just before (onset detection by high-frequency content: Bello and others 2005).
 */
export function clapsHeard({ rate, samples }: Sound): Clap[] {
  const hop = Math.max(1, Math.round(HOP * rate));
  const hops = Math.floor((samples.length - 1) / hop);
  const energy = new Float64Array(Math.max(0, hops));
  let most = 0;
  for (let h = 0; h < hops; h++) {
    let sum = 0;
    for (let i = h * hop + 1; i <= (h + 1) * hop; i++) sum += (samples[i] - samples[i - 1]) * (samples[i] - samples[i - 1]);
    energy[h] = sum;
    most = Math.max(most, sum);
  }
  if (most === 0) return [];
  const before = Math.round(BEFORE / HOP);
  // Silence has a floor, so that the first breath after it is no clap.
  const quiet = 1e-3 * most;
  const rise = new Float64Array(energy.length);
  let sum = 0;
  for (let h = 0; h < energy.length; h++) {
    rise[h] = (energy[h] - sum / before) / (sum / before + quiet);
    sum += energy[h] - (h >= before ? energy[h - before] : 0);
  }
  return peaks(rise, (h) => rise[h] * Math.sqrt(energy[h] / most)).map(({ i, strength }) => ({ at: i * HOP, strength }));
}

/** Hands that meet quickly and part again, in seconds of the clip: between frames by the speeds before and after. */
export function clapsSeen(rig: Rig, clip: Clip): Clap[] {
  const [left, right] = (['left', 'right'] as const).map(
    (side) => rig.hands.find((hand) => hand.side === side)?.hand ?? rig.roles.get(`${side}.hand`),
  );
  if (left === undefined || right === undefined || clip.frames < 3) return [];
  const reader = new ClipReader(rig.skeleton, clip);
  const apart = Float64Array.from({ length: clip.frames }, (_, f) => {
    const { positions } = reader.at(f);
    return distance(positions, left * 3, positions, right * 3);
  });
  const span = Math.max(1, Math.round(0.08 / clip.frameTime));
  const near = 0.35 * rig.legLength;
  // Hands that close quickly stop at once: how much speed is lost within a moment, where they are next to each other.
  const stop = Float64Array.from(apart, (d, f) => {
    const a = Math.max(0, f - span);
    const b = Math.min(clip.frames - 1, f + span);
    if (d > near || f === a || f === b) return 0;
    const closing = (apart[a] - d) / ((f - a) * clip.frameTime);
    const parting = (apart[b] - d) / ((b - f) * clip.frameTime);
    return Math.max(0, closing) + 0.3 * Math.max(0, parting);
  });
  return peaks(stop, (f) => (stop[f] > 0.5 ? stop[f] : 0), APART / clip.frameTime).map(({ i, strength }) => {
    const [a, b] = [Math.max(0, i - span), Math.min(clip.frames - 1, i + span)];
    const nearest = apart.subarray(a, b + 1).reduce((least, d) => Math.min(least, d), Infinity);
    // They meet where they come no nearer: the skin between them gives by some millimetres.
    let met = a;
    while (apart[met] > nearest + GIVES) met++;
    return { at: met * clip.frameTime, strength };
  });
}

/** The highest places of a series, apart from each other, strongest first. */
function peaks(series: Float64Array, strengthOf: (i: number) => number, apart = APART / HOP): { i: number; strength: number }[] {
  const all = Array.from(series.keys())
    .filter((i) => series[i] >= (series[i - 1] ?? 0) && series[i] > (series[i + 1] ?? 0))
    .map((i) => ({ i, strength: strengthOf(i) }))
    .filter(({ strength }) => strength > 0)
    .sort((a, b) => b.strength - a.strength);
  const kept: { i: number; strength: number }[] = [];
  for (const one of all) {
    if (kept.length >= MOST_CLAPS) break;
    if (kept.every(({ i }) => Math.abs(i - one.i) >= apart)) kept.push(one);
  }
  return kept;
}

/** Claps that are heard and seen within this are the same, seconds. */
const SAME = 0.04;

/**
 * The offset by which a sound lies in a take so that most of what is heard is seen.
 * @param heard claps of the sound
 * @param seen claps of the hands, in the take's own seconds
 * @returns seconds of the take at the sound's start, and how many claps agree; undefined where either side has none
 */
export function matchClaps(heard: readonly Clap[], seen: readonly Clap[]): { offset: number; agreed: number } | undefined {
  const [loudest, firmest] = [heard[0]?.strength ?? 0, seen[0]?.strength ?? 0];
  let best: { offset: number; agreed: number; score: number } | undefined;
  for (const hand of seen) {
    for (const sound of heard) {
      const offset = hand.at - sound.at;
      let score = 0;
      let agreed = 0;
      for (const one of heard) {
        const near = seen.filter(({ at }) => Math.abs(at - one.at - offset) < SAME);
        if (near.length === 0) continue;
        agreed++;
        score += (one.strength / loudest) * Math.max(...near.map(({ strength }) => strength / firmest));
      }
      if (!best || score > best.score) best = { offset, agreed, score };
    }
  }
  return best && { offset: best.offset, agreed: best.agreed };
}

/** Lowest and highest sample of even parts of a sound, for a picture: parts × 2. */
export function soundPeaks({ samples }: Sound, parts: number): Float32Array {
  const out = new Float32Array(parts * 2);
  for (let p = 0; p < parts; p++) {
    const [from, to] = [Math.floor((p * samples.length) / parts), Math.floor(((p + 1) * samples.length) / parts)];
    let [low, high] = [0, 0];
    for (let i = from; i < to; i++) {
      if (samples[i] < low) low = samples[i];
      if (samples[i] > high) high = samples[i];
    }
    out[p * 2] = low;
    out[p * 2 + 1] = high;
  }
  return out;
}
