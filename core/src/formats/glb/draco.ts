import { KHRDracoMeshCompression } from '@gltf-transform/extensions';
import type { WebIO } from '@gltf-transform/core';
import { fail } from '../../errors';

export const DRACO = 'KHR_draco_mesh_compression';

/** Makes the decoder of Draco meshes, which is a program of its own (WebAssembly) that each platform loads in its own way. */
export type LoadDraco = () => Promise<unknown>;

let load: LoadDraco | undefined;
let loaded: Promise<unknown> | undefined;

/** Says how the Draco decoder is loaded here; it is loaded when the first packed mesh is read. */
export function useDraco(how: LoadDraco): void {
  load = how;
  loaded = undefined;
}

/** Lets a reader of glTF documents unpack Draco meshes. @throws FaultError glb/extension where no decoder can be loaded */
export async function withDraco(io: WebIO): Promise<WebIO> {
  if (!load) fail('glb/extension', `the mesh is packed with ${DRACO}, and its decoder is not part of this program`);
  loaded ??= load();
  let decoder: unknown;
  try {
    decoder = await loaded;
  } catch {
    loaded = undefined;
    fail('glb/extension', `the mesh is packed with ${DRACO}, and its decoder could not be loaded`);
  }
  return io.registerExtensions([KHRDracoMeshCompression]).registerDependencies({ 'draco3d.decoder': decoder });
}
