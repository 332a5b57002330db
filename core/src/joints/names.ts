/** Names of joints taken apart, and how alike two of them are. */
import type { NameHints } from '../label';
import type { NameRule } from '../recipe';

/** A name taken apart: prefix, case and marks are gone, side and numbers stand apart. */
export type NameParts = Pick<NameHints, 'words' | 'side' | 'numbers'>;

/** 0…1: how alike two names are. Sides that contradict each other are not alike at all. */
export function nameLikeness(a: NameParts, b: NameParts): number {
  if (a.side !== b.side && (a.side !== undefined || b.side !== undefined)) return 0;
  const words = wordsLikeness(a.words, b.words);
  if (words === 0) return 0;
  const [first, second] = [a.numbers.join(' '), b.numbers.join(' ')];
  // A number that one has and the other has not says less against them than two that differ.
  const numbers = first === second ? 1 : first === '' || second === '' ? 0.9 : 0.75;
  return words * numbers;
}

/** Share of the letters that are in words of both, whole words and parts of words. */
function wordsLikeness(a: readonly string[], b: readonly string[]): number {
  const [x, y] = [a.join(''), b.join('')];
  if (x === '' || y === '') return x === y ? 1 : 0;
  if (x === y) return 1;
  let shared = 0;
  const rest = [...b];
  for (const word of a) {
    let best = -1;
    let most = 0;
    rest.forEach((other, i) => {
      const likeness = wordLikeness(word, other);
      if (likeness > most) [best, most] = [i, likeness];
    });
    if (best < 0) continue;
    shared += most * Math.min(word.length, rest[best].length);
    rest.splice(best, 1);
  }
  return Math.min(1, (2 * shared) / (x.length + y.length));
}

/** Two words: the same, one at the beginning of the other, or pairs of letters that both have (Dice's coefficient). */
function wordLikeness(a: string, b: string): number {
  if (a === b) return 1;
  const short = a.length < b.length ? a : b;
  const long = short === a ? b : a;
  if (short.length >= 3 && long.startsWith(short)) return 1;
  const pairs = (word: string): string[] => Array.from({ length: Math.max(0, word.length - 1) }, (_, i) => word.slice(i, i + 2));
  const rest = pairs(b);
  const all = pairs(a).length + rest.length;
  if (all === 0) return 0;
  let both = 0;
  for (const pair of pairs(a)) {
    const i = rest.indexOf(pair);
    if (i < 0) continue;
    rest.splice(i, 1);
    both++;
  }
  const dice = (2 * both) / all;
  // Words with a few letters in common by chance are not alike.
  return dice >= 0.5 ? dice : 0;
}

/** What a rule does to a name: the name it becomes, or undefined where it does not fit. Case does not matter. */
export function applyRule({ from, to }: NameRule, name: string): string | undefined {
  const pieces = from.toLowerCase().split('*');
  const low = name.toLowerCase();
  // Not a regular expression: what a person types is a name, and long ones must not take long.
  if (!low.startsWith(pieces[0])) return undefined;
  let at = pieces[0].length;
  const caught: string[] = [];
  for (let i = 1; i < pieces.length; i++) {
    const isLast = i === pieces.length - 1;
    const found = isLast ? low.length - pieces[i].length : low.indexOf(pieces[i], at);
    if (found < at || !low.startsWith(pieces[i], found)) return undefined;
    caught.push(name.slice(at, found));
    at = found + pieces[i].length;
  }
  if (at !== name.length) return undefined;
  let next = 0;
  return to.replace(/\*/g, () => caught[next++] ?? '');
}

/** Joint keys as a performer's rules read them, and which rule each fits (−1 for none). */
export function readByRules(
  keys: readonly string[],
  rules: readonly NameRule[],
): { readonly named: readonly string[]; readonly rule: Int32Array } {
  const rule = new Int32Array(keys.length).fill(-1);
  const named = keys.map((key, j) => {
    for (let i = 0; i < rules.length; i++) {
      const name = applyRule(rules[i], key);
      if (name === undefined) continue;
      rule[j] = i;
      return name === '' ? key : name;
    }
    return key;
  });
  return { named, rule };
}
