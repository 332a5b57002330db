/** Names of face channels taken apart into parts of the face and what they do, and how alike two of them are. */
import { readNames, type Side } from '../label';

/** What a name of a channel or shape speaks of. */
export interface FaceWords {
  readonly side: Side | undefined;
  /** Parts of the face. */
  readonly parts: readonly string[];
  /** What they do, and where in the part. */
  readonly acts: readonly string[];
}

const PARTS: readonly (readonly [RegExp, string, string?])[] = [
  [/^(eye)?brows?$|^eyebrows?$|^bro$/, 'brow'],
  [/^eyes?$|^pupils?$|^gaze$/, 'eye'],
  // A lid alone does one thing.
  [/^(eye)?lids?$/, 'eye', 'close'],
  [/^cheeks?$/, 'cheek'],
  [/^nos(e|es|trils?)$/, 'nose'],
  [/^(mouth|lips?|mth)$/, 'mouth'],
  [/^(jaw|chin|mandible)$/, 'jaw'],
  [/^tongue$/, 'tongue'],
];

/** Words for what a part does; where a word says the part too, it is named. */
const ACTS: readonly (readonly [RegExp, string, string?])[] = [
  [/^blink(ing|s)?$|^wink$/, 'close', 'eye'],
  [/^(up|raise[rds]?|lift(ed|er)?|high)$/, 'up'],
  [/^(down|depress(or|ed)?|lowered|lowerer|low|drop(ped)?)$/, 'down'],
  [/^(open(ed|ing)?|gape)$/, 'open'],
  [/^(close[ds]?|shut|closing)$/, 'close'],
  [/^(wide(n|ned)?|stretch(ed|er)?|spread)$/, 'wide'],
  [/^(smile[rs]?|happy|grin)$/, 'smile', 'mouth'],
  [/^(frown(ed)?|sad)$/, 'frown'],
  [/^(pucker(ed)?|kiss|purse[dr]?)$/, 'pucker', 'mouth'],
  [/^funnel(er)?$/, 'funnel', 'mouth'],
  [/^dimple[rs]?$/, 'dimple', 'mouth'],
  [/^squint(ed)?$|^squeeze$/, 'squint'],
  [/^(press(ed)?|tight(en|ener)?)$/, 'press'],
  [/^(roll(ed)?|suck|fold)$/, 'roll'],
  [/^shrug$/, 'shrug'],
  [/^(puff(ed)?|blow|inflate)$/, 'puff', 'cheek'],
  [/^(sneer|wrinkle[rd]?|scrunch)$/, 'sneer', 'nose'],
  [/^(forward|fwd|thrust)$/, 'forward'],
  [/^(inner|mid|middle|inside|centre|center)$/, 'inner'],
  [/^(outer|outside)$/, 'outer'],
  [/^(upper|top)$/, 'upper'],
  [/^(lower|bottom)$/, 'lower'],
  [/^(look|turn|rotate)$/, 'look'],
  [/^in(ward)?$/, 'in'],
  [/^out(ward)?$/, 'out'],
];
/** Words that say nothing. */
const EMPTY = /^(face|facial|shape|blend|blendshape|morph|target|key|ctrl|control|bs|au|exp|expression|the|of|and|to)$/;

/** Reads names of channels or shapes, which belong together. */
export function readFaceNames(names: readonly string[]): FaceWords[] {
  return readNames(names).map(({ words, side }) => {
    const parts = new Set<string>();
    const acts = new Set<string>();
    const implied: string[] = [];
    for (const word of words) {
      if (EMPTY.test(word)) continue;
      const part = PARTS.find(([pattern]) => pattern.test(word));
      const act = ACTS.find(([pattern]) => pattern.test(word));
      if (part) {
        parts.add(part[1]);
        if (part[2] !== undefined) implied.push(part[2]);
      } else if (act) {
        acts.add(act[1]);
        if (act[2] !== undefined) parts.add(act[2]);
      } else acts.add(word);
    }
    return { side, parts: [...parts], acts: acts.size > 0 ? [...acts] : implied };
  });
}

/** Acts that look much the same: an open jaw opens the mouth. */
const KIN: readonly (readonly [string, string, number])[] = [
  ['jaw', 'mouth', 0.75],
  ['open', 'down', 0.6],
  ['wide', 'open', 0.5],
  ['wide', 'smile', 0.4],
  ['pucker', 'funnel', 0.5],
  ['lower', 'down', 0.6],
  ['upper', 'up', 0.6],
  ['squint', 'close', 0.4],
  ['frown', 'down', 0.5],
];
const kin = (a: string, b: string): number =>
  a === b ? 1 : (KIN.find(([x, y]) => (x === a && y === b) || (x === b && y === a))?.[2] ?? 0);

/** 0…1: how alike two names are, their sides apart. Parts that contradict each other are not alike at all. */
export function faceLikeness(a: FaceWords, b: FaceWords): number {
  const parts =
    a.parts.length === 0 && b.parts.length === 0 ? 1 : a.parts.length === 0 || b.parts.length === 0 ? 0.5 : shared(a.parts, b.parts);
  if (parts === 0) return 0;
  if (a.acts.length === 0 && b.acts.length === 0) return parts;
  if (a.acts.length === 0 || b.acts.length === 0) return 0.4 * parts;
  return parts * shared(a.acts, b.acts);
}

/** Dice's coefficient of two sets of words, words that are kin counted in part. */
function shared(a: readonly string[], b: readonly string[]): number {
  const rest = [...b];
  let sum = 0;
  for (const word of a) {
    const best = rest.reduce((most, other, i) => (kin(word, other) > kin(word, rest[most]) ? i : most), 0);
    if (rest.length === 0 || kin(word, rest[best]) === 0) continue;
    sum += kin(word, rest[best]);
    rest.splice(best, 1);
  }
  return (2 * sum) / (a.length + b.length);
}
