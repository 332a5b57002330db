import { depotMotions, makeDemo, type DemoFile } from '@hollow-stride/demo';
import type { DepotItem } from './depot/item';

/** The demo production, made where it does not keep the server from answering: in a thread of the pool. */
export const demoFiles = (): Promise<DemoFile[]> => makeDemo();

/** The motions of the depot. */
export const depotItems = (): DepotItem[] => depotMotions().map((source) => ({ ...source, tags: [...source.tags] }));
