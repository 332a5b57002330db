import type { SkinPoints } from '../../formats';
import type { Rig } from '../../rig';

const known = new WeakMap<Rig, Map<string, { readonly of: readonly unknown[]; readonly value: unknown }>>();

/** What is made of a body and its skin alone is made once, however many takes of it are judged. @param others what else it depends on */
export function onceFor<T>(name: string, rig: Rig, skin: SkinPoints | undefined, make: () => T, ...others: readonly unknown[]): T {
  const kept = known.get(rig) ?? new Map<string, { of: readonly unknown[]; value: unknown }>();
  known.set(rig, kept);
  const of = [skin, ...others];
  const before = kept.get(name);
  if (before && before.of.length === of.length && before.of.every((one, i) => one === of[i])) return before.value as T;
  const value = make();
  kept.set(name, { of, value });
  return value;
}
