/** How a GLB file's nodes stand behind the skeleton's joints: kept so that motion is written onto the same nodes. */
export interface GlbLayout {
  readonly format: 'glb';
  /** The whole file as it came. */
  readonly bytes: Uint8Array;
  /** Node index of each joint. */
  readonly nodes: Int32Array;
  /** Product of the uniform scales above each joint: folded translation = node translation × this. */
  readonly scales: Float64Array;
  /** World scale of each joint's own frame: the product above times its own scale. */
  readonly ownScales: Float64Array;
  /** Rest of what stands above each root joint (its container): rotation (4 per joint), position (3 per joint). */
  readonly containerR: Float64Array;
  readonly containerT: Float64Array;
  /** Nodes whose mesh has morph targets: the targets' names in their order, and their weights at rest. */
  readonly morphs?: readonly { readonly node: number; readonly names: readonly string[]; readonly rest: readonly number[] }[];
}
