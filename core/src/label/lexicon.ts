import { bareName, commonPrefix } from '../skeleton';
import type { Finger, Side } from './roles';
import { FINGER_WORDS, LEFT, LEFT_END, LEFT_START, RIGHT, RIGHT_END, RIGHT_START, WORDS, type NamePart } from './words';

export type { NamePart } from './words';

/** Roles from a joint's name, before any look at the skeleton's shape. */
export interface NameHints {
  /** The name without prefix, side and numbers, lower case, letters only. */
  readonly stem: string;
  /** The words that the stem is made of. */
  readonly words: readonly string[];
  readonly side: Side | undefined;
  /** Last number in the name, NaN when there is none. */
  readonly number: number;
  readonly numbers: readonly number[];
  readonly isTwist: boolean;
  /** The end of a bone rather than a joint: a tip, a nub, an end site. */
  readonly isEnd: boolean;
  readonly finger: Finger | undefined;
  /** How well the name fits each part, 0…1; parts not listed fit 0. */
  readonly fit: Readonly<Partial<Record<NamePart, number>>>;
}

/** Splits a name into lower-case words: at separators, at capitals, between letters and numbers. */
export function splitName(name: string): string[] {
  return name
    .normalize('NFC')
    .replace(/([\p{Ll}0-9])(\p{Lu})/gu, '$1 $2')
    .replace(/(\p{Lu}+)(\p{Lu}\p{Ll})/gu, '$1 $2')
    .replace(/(\p{L})([0-9])/gu, '$1 $2')
    .replace(/([0-9])(\p{L})/gu, '$1 $2')
    .split(/[^\p{L}0-9]+/u)
    .filter((word) => word !== '')
    .map((word) => folded(word.toLowerCase()));
}

/** A word without the marks on its letters, as people type names where a keyboard or a program has none. */
function folded(word: string): string {
  if (ASCII.test(word)) return word;
  return word
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/[łøıßæœ]/g, (letter) => LETTERS[letter]);
}

const ASCII = /^[ -~]*$/;
const LETTERS: Readonly<Record<string, string>> = { ł: 'l', ø: 'o', ı: 'i', ß: 'ss', æ: 'ae', œ: 'oe' };

/** What was read, by the list it was read from: labels, mistakes, partners and parts aside all ask of one skeleton. */
const known = new WeakMap<readonly string[], readonly NameHints[]>();

/** Reads all names of a skeleton, whose list of names is never changed. */
export function readNames(names: readonly string[]): readonly NameHints[] {
  const before = known.get(names);
  if (before) return before;
  const prefix = commonPrefix(names);
  const clean = names.map((name) => bareName(name, prefix));
  const split = clean.map(splitName);
  // One letter says a side only where the skeleton uses both letters so.
  const singles = new Set(split.flat().filter((word) => word.length === 1));
  const oneLetter = singles.has('l') && singles.has('r');
  // "LThumb", "RThumb": a capital glued to a capitalised word.
  const glued = ['L', 'R'].every((letter) => clean.some((name) => new RegExp(`^${letter}[A-Z][a-z]`).test(name)));
  const hints = clean.map((name, j) => {
    if (!glued || !/^[LR][A-Z][a-z]/.test(name)) return readName(split[j], undefined, oneLetter);
    return readName(splitName(name.slice(1)), name[0] === 'L' ? 'left' : 'right', oneLetter);
  });
  known.set(names, hints);
  return hints;
}

/** Reads a name by the words that it splits into. @param side where a letter that is glued to the name has said it */
function readName(split: readonly string[], side: Side | undefined, oneLetter: boolean): NameHints {
  const words: string[] = [];
  const numbers: number[] = [];
  for (let word of split) {
    if (/^\d+$/.test(word)) {
      numbers.push(Number(word));
      continue;
    }
    if (side === undefined) {
      if (LEFT.test(word) || (oneLetter && word === 'l')) side = 'left';
      else if (RIGHT.test(word) || (oneLetter && word === 'r')) side = 'right';
      if (side !== undefined) continue;
      const glue = [
        [LEFT_START, 'left'],
        [RIGHT_START, 'right'],
        [LEFT_END, 'left'],
        [RIGHT_END, 'right'],
      ] as const;
      for (const [pattern, found] of glue) {
        if (pattern.test(word) && word.replace(pattern, '').length > 1) {
          side = found;
          word = word.replace(pattern, '');
          break;
        }
      }
    }
    words.push(word);
  }
  const stem = words.join('');
  const isTwist = words.some((word) => /^(twist|roll|tw|drehung|torsion|twst)$/.test(word)) || /twist|roll$/.test(stem);
  const isEnd =
    words.some((word) => /^(end|nub|tip|top|site|effector|eff|leaf|ende|fin|null)$/.test(word)) || /(nub|endsite|_?end)$/.test(stem);
  const inFoot = /toe|zehe|orteil|dedopie|foot|fuss|ayak|stopy/.test(stem);
  const finger = inFoot ? undefined : FINGER_WORDS.find(([pattern]) => pattern.test(stem))?.[1];
  const fit: Partial<Record<NamePart, number>> = {};
  if (finger === undefined) {
    for (const [pattern, parts] of WORDS) {
      if (!pattern.test(stem)) continue;
      for (const [part, score] of Object.entries(parts) as [NamePart, number][]) {
        fit[part] = Math.max(fit[part] ?? 0, score);
      }
    }
    // A word of its own: many a word of another language ends in it.
    if (words.includes('ik')) fit.prop = Math.max(fit.prop ?? 0, 0.6);
    settle(fit, stem, side);
  }
  return { stem, words, side, number: numbers.at(-1) ?? NaN, numbers, isTwist, isEnd, finger, fit };
}

/** Where one word holds another ("forearm" holds "arm"), the longer word wins. */
function settle(fit: Partial<Record<NamePart, number>>, stem: string, side: Side | undefined): void {
  if (fit.lowerArm === 1) delete fit.upperArm;
  if (fit.upperArm === 1) delete fit.lowerArm;
  if (fit.upperLeg === 1) delete fit.lowerLeg;
  if (fit.lowerLeg === 1) delete fit.upperLeg;
  if (fit.toes === 1) delete fit.foot;
  if (fit.toes !== undefined && fit.foot === undefined) delete fit.hock;
  if (fit.fetlock !== undefined) delete fit.toes;
  if (/cervic/.test(stem)) delete fit.spine;
  if (/finger/.test(stem)) {
    delete fit.hand;
    delete fit.hips;
  }
  if (fit.hand !== undefined) {
    delete fit.upperArm;
    delete fit.lowerArm;
  }
  if (/forehead|headtop|headend|eye|jaw|mandib|maxill|hair|ear$|tongue|brow|lip|cheek|lid|nose|teeth/.test(stem)) delete fit.head;
  if (/breast|bust$|pec/.test(stem)) delete fit.spine;
  if (side === undefined && fit.hips === 1) delete fit.upperLeg;
  if (side !== undefined) delete fit.hips;
}
