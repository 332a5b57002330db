import { randomUUID } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { open, rename } from 'node:fs/promises';
import { join } from 'node:path';
import type { Library } from './library';

const SETTING = 'rack';
const FILE = 'rack-id';

/** True when a database and a data folder are known to belong together: their server has seen to it. @throws as `matchRack` */
export async function isMatched(library: Library, folder: string): Promise<boolean> {
  const [here, there] = [idOf(folder), await library.setting(SETTING)];
  // The folder is told first: a database that has an id has a folder that has it too.
  if (there === undefined) return false;
  if (here !== there)
    throw new Error(`the database belongs to another data folder than ${folder}; set HOLLOW_STRIDE_DATA to that of its server`);
  return true;
}

function idOf(folder: string): string | undefined {
  const path = join(folder, FILE);
  return existsSync(path) ? readFileSync(path, 'utf8').trim() : undefined;
}

/**
 * Makes sure that a database and a data folder belong together: contents lie in the one and are named in the other. Both carry the
 * rack's id. A folder without one is taken where it holds all contents that the database names: a new one, or one that was copied.
 * @throws Error that says which folder is wanted
 */
export async function matchRack(library: Library, folder: string): Promise<void> {
  const path = join(folder, FILE);
  const here = idOf(folder);
  const there = (await library.setting(SETTING)) as string | undefined;
  if (here !== undefined && here === there) return;
  const lacking = [...(await library.knownFiles())].filter((hash) => !existsSync(join(folder, 'files', hash)));
  if (there !== undefined && (here !== undefined || lacking.length > 0)) {
    throw new Error(
      `the database belongs to another data folder than ${folder}${lacking.length > 0 ? `, which lacks ${lacking.length} of its files` : ''}; ` +
        'set HOLLOW_STRIDE_DATA to the folder that it was used with, or HOLLOW_STRIDE_DATABASE to another database',
    );
  }
  const id = there ?? here ?? randomUUID();
  if (here === undefined) {
    const beside = `${path}.part`;
    const file = await open(beside, 'w');
    await file.writeFile(`${id}\n`);
    await file.sync().finally(() => file.close());
    await rename(beside, path);
  }
  if (there === undefined) await library.remember(SETTING, id);
}
