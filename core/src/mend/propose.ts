import { makeLayer, type Layer, type LayerDoes, type LayerEnd, type LayerPart } from '../recipe';

/** A figure as far as a proposal needs it. */
interface Seen {
  readonly id: string;
  readonly name: string;
  /** Where and when it is worst: "left knee at 2.3 s". */
  readonly words: string;
}

/** A proposed layer is laid on for so long about the worst moment, and goes over for so long at either end, seconds. */
const ABOUT = 0.3;
const FADE = 0.2;

const ARMS: readonly LayerPart[] = ['left.arm', 'right.arm'];
const LEGS: readonly LayerPart[] = ['left.leg', 'right.leg'];
const HANDS: readonly LayerEnd[] = ['left.hand', 'right.hand'];
const FEET: readonly LayerEnd[] = ['left.foot', 'right.foot'];

/** Which parts of the body a figure is about, where a filter helps it. */
const CALMED: Readonly<Record<string, readonly LayerPart[]>> = {
  // A foot that stands comes back to its place: knees are calmed by the hips.
  knees: ['way', ...LEGS],
  jumps: ['way', ...LEGS, ...ARMS],
  elbows: ARMS,
  wrists: ARMS,
  neck: ['head'],
  hips: ['way', 'trunk'],
};
/** Which limb ends are moved where a figure says that they are elsewhere. */
const REACHED: Readonly<Record<string, readonly LayerEnd[]>> = {
  'held.hands': HANDS,
  meet: HANDS,
  touch: HANDS,
  inside: HANDS,
  grip: HANDS,
  'places.hands': HANDS,
  hover: HANDS,
  'timing.hands': HANDS,
  'held.feet': FEET,
  slide: FEET,
  sink: FEET,
  float: FEET,
  crossing: FEET,
  'places.feet': FEET,
  'timing.feet': FEET,
  flight: ['hips'],
  'held.body': ['hips'],
};
/** Parts whose motion has too much or too little energy. */
const SCALED: Readonly<Record<string, readonly LayerPart[]>> = { 'energy.upper': ARMS, 'energy.legs': LEGS };
const TURNED: Readonly<Record<string, readonly string[]>> = {
  'likeness.head': ['head'],
  'likeness.trunk': ['spine.1'],
  'likeness.legs': ['left.upperLeg', 'right.upperLeg'],
  'likeness.feet': ['left.foot', 'right.foot'],
  'likeness.hands': ['left.hand', 'right.hand'],
};

/**
 * A layer that leads to the mend of a figure, about its worst moment: a filter that mends it, or the joints and limb ends that it is about,
 * ready to be moved.
 * @param at the worst moment, the take's own second; undefined where there is none: the layer then always holds
 * @param has whether the body has a role
 */
export function proposeLayer({ id, name, words }: Seen, at: number | undefined, has: (role: string) => boolean): Layer {
  const mask = at === undefined ? null : { from: Math.max(0, at - ABOUT), to: at + ABOUT, fade: FADE };
  return makeLayer({ name: at === undefined ? name : `${name} at ${at.toFixed(1)} s`, does: doesFor(id, words, at ?? 0, has), mask });
}

function doesFor(id: string, words: string, at: number, has: (role: string) => boolean): LayerDoes {
  // Where the words name a side, the other is left alone.
  const side = /\b(left|right)\b/.exec(words)?.[1];
  const own = <T extends string>(list: readonly T[]): T[] => {
    const kept = list.filter((one) => side === undefined || !/^(left|right)\./.test(one) || one.startsWith(side));
    return kept.length > 0 ? kept : [...list];
  };
  if (id === 'flips') return { kind: 'spikes', parts: [] };
  if (id in CALMED) return { kind: 'calm', parts: own(CALMED[id]), seconds: 0.08 };
  const energy = Number(/([\d.]+) of the performer/.exec(words)?.[1] ?? NaN);
  if (id in SCALED && energy > 0) {
    // What is too much in the quick band is calmed; else the motion is made as large as the performer's: energy goes by the square.
    if (energy > 1 && /quick/.test(words)) return { kind: 'calm', parts: own(SCALED[id]), seconds: 0.08 };
    return { kind: 'amount', parts: own(SCALED[id]), factor: Math.max(0.3, Math.min(3, 1 / Math.sqrt(energy))) };
  }
  const still = { at, value: [0, 0, 0] as [number, number, number], tangent: 'smooth' as const, slope: null };
  if (id in REACHED) {
    return { kind: 'reach', way: 'add', trunk: 0, tracks: own(REACHED[id]).map((end) => ({ end, frame: 'world', keys: [still] })) };
  }
  const roles = own(TURNED[id] ?? ['left.upperArm', 'right.upperArm']).filter(has);
  return { kind: 'turns', way: 'add', tracks: roles.map((role) => ({ role, keys: [still] })) };
}
