/** Earlier results, so that a changed decision recomputes only its dependents. */
export class Memory {
  private readonly kept = new Map<string, { readonly from: readonly unknown[]; readonly value: unknown }[]>();

  /** @param most how many results of a kind are kept */
  constructor(private readonly most = 1) {}

  /** The value made from these inputs, files and what was made of them by identity, decisions by content. */
  of<T>(name: string, from: readonly unknown[], make: () => T): T {
    const key = from.map((part) => (isMade(part) ? part : JSON.stringify(part)));
    const list = this.kept.get(name) ?? [];
    const found = list.find((entry) => entry.from.every((part, i) => Object.is(part, key[i])));
    if (found) return found.value as T;
    const value = make();
    this.kept.set(name, [{ from: key, value }, ...list].slice(0, this.most));
    return value;
  }
}

/** What files and what was made of them have: they hold typed arrays. */
const PARTS = ['skeleton', 'rotations', 'plants', 'links', 'channels', 'triangles'] as const;

function isMade(part: unknown): boolean {
  return ArrayBuffer.isView(part) || (typeof part === 'object' && part !== null && PARTS.some((name) => name in part));
}
