import { GLB_BUFFER, WebIO, type Document, type GLTF } from '@gltf-transform/core';
import { asFault, fail } from '../../errors';
import { DRACO, withDraco } from './draco';
import type { Gltf } from './gltf';
import { unpackMeshopt } from './meshopt';

/** Which meshes of a file are read: none, those that a skin moves, or all. */
export type MeshesRead = 'none' | 'skinned' | 'all';

/** The document with its data plain, whatever it was packed with. @throws FaultError glb/extension */
export async function readDocument(gltf: Gltf, bin: Uint8Array | undefined, which: MeshesRead): Promise<Document> {
  const plain = await unpackMeshopt(gltf, bin ?? new Uint8Array(0));
  const json = reduced(plain.gltf, which);
  const isDraco = json.extensionsUsed !== undefined;
  const io = isDraco ? await withDraco(new WebIO()) : new WebIO();
  // Views need whole words; a chunk that lies so already is read where it is, and not held twice.
  const chunk = plain.bin.byteOffset % 4 === 0 ? plain.bin : plain.bin.slice();
  const resources: Record<string, Uint8Array<ArrayBuffer>> = bin ? { [GLB_BUFFER]: chunk as Uint8Array<ArrayBuffer> } : {};
  const document = { json, resources };
  if (!isDraco) return io.readJSON(document);
  try {
    return await io.readJSON(document);
  } catch (error) {
    return fail('glb/extension', `the mesh is packed with ${DRACO} and cannot be unpacked: ${asFault(error).message}`);
  }
}

/** The document with only what motion needs, so that pictures, materials and foreign extensions are not touched. */
function reduced(gltf: Gltf, which: MeshesRead): GLTF.IGLTF {
  let isDraco = false;
  const read = <T>(attributes: Readonly<Record<string, T>>): Record<string, T> =>
    Object.fromEntries(Object.entries(attributes).filter(([key]) => key === 'POSITION' || key === 'JOINTS_0' || key === 'WEIGHTS_0'));
  const dracoOf = (extensions: unknown): object => {
    const found = (extensions as Record<string, { attributes?: Record<string, unknown> }> | undefined)?.[DRACO];
    if (found === undefined) return {};
    isDraco = true;
    return { extensions: { [DRACO]: { ...found, attributes: read(found.attributes ?? {}) } } };
  };
  const meshes =
    which === 'none'
      ? undefined
      : gltf.meshes?.map(({ primitives }) => ({
          primitives: primitives.map(({ attributes, indices, mode, extensions }) => ({
            ...(mode === undefined || (mode >= 4 && mode <= 6) ? { indices } : {}),
            ...dracoOf(extensions),
            attributes: read(attributes),
          })),
        }));
  const keeps = (mesh: number | undefined, skin: number | undefined): boolean =>
    mesh !== undefined && (which === 'all' || (meshes !== undefined && skin !== undefined));
  const nodes = gltf.nodes?.map(({ mesh, skin, ...node }) =>
    keeps(mesh, skin) ? { ...node, mesh, ...(skin !== undefined && { skin }) } : node,
  );
  const { asset, skins, animations, accessors, bufferViews, buffers } = gltf;
  const used = isDraco ? { extensionsUsed: [DRACO], extensionsRequired: [DRACO] } : {};
  return JSON.parse(JSON.stringify({ asset, nodes, skins, animations, accessors, bufferViews, buffers, meshes, ...used })) as GLTF.IGLTF;
}
