import {
  depotMotions,
  makeDemo,
  makeMachines,
  makeMeshes,
  makeRecordings,
  type DemoFile,
  type DemoMesh,
  type DemoRecording,
} from '@hollow-stride/demo';
import type { DepotItem } from './depot/item';

/** The demo production, made where it does not keep the server from answering: in a thread of the pool. */
export const demoFiles = async (): Promise<DemoFile[]> => [...(await makeDemo()), ...(await makeMachines())];
export const demoRecordings = (): DemoRecording[] => makeRecordings();

export const demoMeshes = (): DemoMesh[] => makeMeshes();

/** The motions of the depot. */
export const depotItems = (): DepotItem[] => depotMotions().map((source) => ({ ...source, tags: [...source.tags] }));
