import { readContainer, writeContainer } from './container';

interface Loose {
  [key: string]: unknown;
  asset?: unknown;
  scene?: unknown;
  scenes?: unknown;
  nodes?: Record<string, unknown>[];
}

/** Parts of a node that say how it stands; all else of it belongs to what is left out. */
const KEPT = ['name', 'children', 'translation', 'rotation', 'scale', 'matrix'];

/**
 * A GLB file's nodes alone: no mesh, skin, picture or animation. Nodes keep their numbers, so that motion is written onto them as
 * onto the whole file.
 */
export function bareGlb(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const { asset, scene, scenes, nodes = [] } = readContainer(bytes).json as Loose;
  const bare = nodes.map((node) => Object.fromEntries(Object.entries(node).filter(([key]) => KEPT.includes(key))));
  return writeContainer({ asset, ...(scene !== undefined && { scene }), scenes, nodes: bare }, new Uint8Array(0));
}
