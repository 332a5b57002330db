/** Result of merging three versions of one record: the common base and the two edits of it. */
export interface Merged {
  readonly value: Record<string, unknown>;
  /** Fields that both changed, each to something else, as paths: "choices.balance". */
  readonly collisions: readonly string[];
}

type Fields = Readonly<Record<string, unknown>>;

const isFields = (value: unknown): value is Fields => typeof value === 'object' && value !== null && !Array.isArray(value);
const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/**
 * Merges the fields of an edit with what a row has become since: what only one of the two changed is taken from that one, records are
 * looked into field by field, and lists count as one value.
 * @param mine the fields that were edited
 * @param prefer whose value is taken where both changed a field
 */
export function merge3(base: Fields, mine: Fields, theirs: Fields, prefer: 'mine' | 'theirs' = 'mine'): Merged {
  const value: Record<string, unknown> = {};
  const collisions: string[] = [];
  for (const [key, own] of Object.entries(mine)) {
    const [before, other] = [base[key], theirs[key]];
    if (same(own, other) || same(other, before)) value[key] = own;
    else if (same(own, before)) value[key] = other;
    else if (isFields(own) && isFields(other)) {
      const inner = merge3(isFields(before) ? before : {}, { ...other, ...own }, { ...own, ...other }, prefer);
      value[key] = inner.value;
      collisions.push(...inner.collisions.map((path) => `${key}.${path}`));
    } else {
      value[key] = prefer === 'mine' ? own : other;
      collisions.push(key);
    }
  }
  return { value, collisions };
}
