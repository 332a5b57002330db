import type { StageOptions } from './options';

/** What a key changes of how the stage is looked at; undefined for keys that mean nothing to it. */
export function stageKey(key: string, options: StageOptions): Partial<StageOptions> | undefined {
  const changes: Record<string, Partial<StageOptions>> = {
    b: { before: true },
    r: { trails: !options.trails },
    f: { view: 'front' },
    s: { view: 'side' },
    t: { view: 'top' },
    v: { view: 'free' },
  };
  return changes[key.toLowerCase()];
}
