/** Parts of a file name. */
export interface NameParts {
  readonly take: string;
  readonly character: string;
  readonly fps: number;
  readonly frames: number;
  /** Place in the run, from 1. */
  readonly number: number;
}

/** Placeholders in a pattern of file names. */
export const NAME_TOKENS = ['take', 'character', 'fps', 'frames', 'number'] as const;
export const DEFAULT_PATTERN = '{take}-on-{character}';

/** Fault of a pattern, in words; undefined for none. */
export function patternFault(pattern: string): string | undefined {
  if (pattern.trim() === '') return 'the pattern is empty';
  const unknown = [...pattern.matchAll(/\{([^{}]*)\}/g)]
    .map(([, token]) => token)
    .find((token) => !NAME_TOKENS.some((known) => known === token));
  if (unknown !== undefined) return `{${unknown}} is unknown; use ${NAME_TOKENS.map((token) => `{${token}}`).join(', ')}`;
  if (/[{}]/.test(pattern.replace(/\{[^{}]*\}/g, ''))) return 'a brace is not closed';
  return undefined;
}

/** File systems take names of 255 bytes; an ending and a count must fit behind. */
const MOST_BYTES = 200;

/**
 * A name that every file system takes: letters of any script in lower case, digits and hyphens, no longer than most can hold. Marks
 * over Latin letters are left out.
 */
export function safeName(text: string): string {
  const plain = text
    .normalize('NFKD')
    .replace(/(\p{Script=Latin})[\u0300-\u036f]+/gu, '$1')
    .normalize('NFC')
    .toLowerCase()
    .replace(/['’]/g, '')
    .replace(/[^\p{L}\p{M}\p{N}._-]+/gu, '-')
    .replace(/-{2,}/g, '-')
    // A mark that stands on nothing would change the letter that is written before it.
    .replace(/^[-.\p{M}]+|[-.]+$/gu, '');
  const short = cut(plain, MOST_BYTES).replace(/[-.]+$/, '');
  // Names that one system keeps for its devices, whatever their ending.
  return short === '' || /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/.test(short) ? `file-${short || 'unnamed'}` : short;
}

/** The beginning of a text that takes no more than so many bytes as UTF-8. */
function cut(text: string, most: number): string {
  let bytes = 0;
  let out = '';
  for (const sign of text) {
    const code = sign.codePointAt(0)!;
    bytes += code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
    if (bytes > most) break;
    out += sign;
  }
  return out;
}

/** One file's name by a pattern, without its ending. */
export function nameBy(pattern: string, parts: NameParts): string {
  return safeName(
    pattern.replace(/\{(\w+)\}/g, (whole, token: string) => (token in parts ? valueOf(parts[token as keyof NameParts]) : whole)),
  );
}

/** Rates have decimals: 29.97 and not 29.970029970029973. */
const valueOf = (value: string | number): string => (typeof value === 'number' ? String(Number(value.toFixed(3))) : value);

/** Key to compare names by: file systems that ignore case, and those that compose letters, take some for one. */
const folded = (name: string): string => name.normalize('NFKC').toUpperCase().toLowerCase();

/** Gives names out, each once: the later of two that come to the same is counted on. */
export class Names {
  private readonly taken = new Set<string>();

  /** @param reserved names that are given out already */
  constructor(reserved: readonly string[] = []) {
    for (const name of reserved) this.taken.add(folded(name));
  }

  /** @returns the name itself, or with the first free number from 2 behind it */
  free(name: string): string {
    let free = name;
    for (let i = 2; this.taken.has(folded(free)); i++) free = `${name}-${i}`;
    this.taken.add(folded(free));
    return free;
  }
}

/**
 * The names of many files by a pattern, each once.
 * @returns names without endings, in the order of the parts, and how many had to be counted on
 */
export function namesBy(pattern: string, list: readonly NameParts[]): { readonly names: readonly string[]; readonly clashes: number } {
  const given = new Names();
  let clashes = 0;
  const names = list.map((parts) => {
    const name = nameBy(pattern, parts);
    const free = given.free(name);
    if (free !== name) clashes++;
    return free;
  });
  return { names, clashes };
}
