import { depotMotions, makeDemo, makeMachines, makeRecordings, type DemoFile, type DemoRecording } from '@hollow-stride/demo';
import type { DepotItem } from './depot/item';

/** The demo production, made where it does not keep the server from answering: in a thread of the pool. */
export const demoFiles = async (): Promise<DemoFile[]> => [...(await makeDemo()), ...(await makeMachines())];
export const demoRecordings = (): DemoRecording[] => makeRecordings();

/** The motions of the depot. */
export const depotItems = (): DepotItem[] => depotMotions().map((source) => ({ ...source, tags: [...source.tags] }));
