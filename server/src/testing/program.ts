import type { ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { serverFolder } from '../paths';

/** A program of the server as it ships, bundled anew when its sources have changed: it starts in a third of the time of the sources. */
export async function programOf(name: 'main' | 'workMain'): Promise<string> {
  const bundler = new URL('../../../scripts/bundle.mjs', import.meta.url).href;
  const { ensureBundle } = (await import(bundler)) as { ensureBundle: (workspace: string) => Promise<string> };
  await ensureBundle('server');
  return join(serverFolder(), 'dist', `${name}.js`);
}

/** Output of a program, and a promise for the first match in it (or its first group). */
export function listenTo({ stdout, stderr }: ChildProcess): { text: () => string; said: (pattern: RegExp) => Promise<string> } {
  let text = '';
  const heard = new EventTarget();
  for (const stream of [stdout, stderr])
    stream?.on('data', (chunk: Buffer) => {
      text += chunk.toString();
      heard.dispatchEvent(new Event('text'));
    });
  const said = (pattern: RegExp): Promise<string> =>
    new Promise((resolve) => {
      const look = (): void => {
        const found = pattern.exec(text);
        if (found) resolve(found[1] ?? found[0]);
      };
      heard.addEventListener('text', look);
      look();
    });
  return { text: () => text, said };
}
