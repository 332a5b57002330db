/** What BVH text says beyond the skeleton: kept so that a file is written as it came. */
export interface BvhLayout {
  readonly format: 'bvh';
  /** For each joint its channels in order: 0–2 position X Y Z, 3–5 rotation X Y Z. */
  readonly channels: readonly (readonly number[])[];
  /** OFFSET of each joint as written, 3 per joint. */
  readonly offsets: Float64Array;
  /** 1 where a joint's position channels are counted from its OFFSET rather than from its parent. */
  readonly fromOffset: Uint8Array;
  /** End Site offsets of each joint, 3 numbers for each site. */
  readonly endSites: readonly (readonly number[])[];
}

export const CHANNEL_NAMES = ['Xposition', 'Yposition', 'Zposition', 'Xrotation', 'Yrotation', 'Zrotation'] as const;
