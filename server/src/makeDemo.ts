import { depotMotions, makeDemo, type DemoFile } from '@hollow-stride/demo';
import type { DepotItem } from './depot/item';

/** The demo production, made in its own module so that a server whose rack is filled never loads the generator. */
export const demoFiles = (): Promise<DemoFile[]> => makeDemo();

/** The motions of the depot. */
export const depotItems = (): DepotItem[] => depotMotions().map((source) => ({ ...source, tags: [...source.tags] }));
