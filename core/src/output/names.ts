/** What a file name is made of. */
export interface NameParts {
  readonly take: string;
  readonly character: string;
  readonly fps: number;
  readonly frames: number;
  /** Place in the run, from 1. */
  readonly number: number;
}

/** What stands for what in a pattern of file names. */
export const NAME_TOKENS = ['take', 'character', 'fps', 'frames', 'number'] as const;
export const DEFAULT_PATTERN = '{take}-on-{character}';

/** What is wrong with a pattern, in words; undefined for nothing. */
export function patternFault(pattern: string): string | undefined {
  if (pattern.trim() === '') return 'the pattern is empty';
  const unknown = [...pattern.matchAll(/\{([^{}]*)\}/g)]
    .map(([, token]) => token)
    .find((token) => !NAME_TOKENS.some((known) => known === token));
  if (unknown !== undefined) return `{${unknown}} stands for nothing; ${NAME_TOKENS.map((token) => `{${token}}`).join(', ')} do`;
  if (/[{}]/.test(pattern.replace(/\{[^{}]*\}/g, ''))) return 'a brace is not closed';
  return undefined;
}

/** A name that every file system takes: lower case letters, digits and hyphens, no longer than most can hold. */
export function safeName(text: string): string {
  const plain = text
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/['’]/g, '')
    .replace(/[^a-z0-9._-]+/g, '-')
    .replace(/-{2,}/g, '-')
    .replace(/^[-.]+|[-.]+$/g, '')
    .slice(0, 120);
  // Names that one system keeps for its devices.
  return plain === '' || /^(con|prn|aux|nul|com\d|lpt\d)$/.test(plain) ? `file-${plain || 'unnamed'}` : plain;
}

/** One file's name by a pattern, without its ending. */
export function nameBy(pattern: string, parts: NameParts): string {
  return safeName(
    pattern.replace(/\{(\w+)\}/g, (whole, token: string) => (token in parts ? String(parts[token as keyof NameParts]) : whole)),
  );
}

/**
 * The names of many files by a pattern: where two come to the same, the later are counted on.
 * @returns names without endings, in the order of the parts, and how many had to be counted on
 */
export function namesBy(pattern: string, list: readonly NameParts[]): { readonly names: readonly string[]; readonly clashes: number } {
  const taken = new Set<string>();
  let clashes = 0;
  const names = list.map((parts) => {
    const name = nameBy(pattern, parts);
    let free = name;
    for (let i = 2; taken.has(free); i++) free = `${name}-${i}`;
    if (free !== name) clashes++;
    taken.add(free);
    return free;
  });
  return { names, clashes };
}
