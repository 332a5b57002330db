import { join } from 'node:path';
import { serverFolder } from '../paths';

/** A program of the server as it ships, bundled anew when its sources have changed: it starts in a third of the time of the sources. */
export async function programOf(name: 'main' | 'workMain'): Promise<string> {
  const bundler = new URL('../../../scripts/bundle.mjs', import.meta.url).href;
  const { ensureBundle } = (await import(bundler)) as { ensureBundle: (workspace: string) => Promise<string> };
  await ensureBundle('server');
  return join(serverFolder(), 'dist', `${name}.js`);
}
