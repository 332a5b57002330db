/** Reads the morph animation of a GLB file by the standard's own words and nothing of the core. */
interface Gltf {
  readonly nodes: readonly { readonly mesh?: number }[];
  readonly meshes: readonly { readonly extras?: { readonly targetNames?: readonly string[] } }[];
  readonly accessors: readonly { readonly bufferView: number; readonly byteOffset?: number; readonly count: number }[];
  readonly bufferViews: readonly { readonly byteOffset?: number }[];
  readonly animations: readonly {
    readonly samplers: readonly { readonly input: number; readonly output: number }[];
    readonly channels: readonly { readonly sampler: number; readonly target: { readonly node: number; readonly path: string } }[];
  }[];
}

export interface PlainFace {
  readonly times: Float32Array;
  /** A shape's weight at a second, between keys on a straight line. */
  weight(shape: string, seconds: number): number;
}

/** The last animation's weights of the first mesh that it moves. */
export function readPlainFace(bytes: Uint8Array): PlainFace {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const length = view.getUint32(12, true);
  const gltf = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as Gltf;
  const bin = 20 + length + 8;
  const numbers = (accessor: number, count: number): Float32Array => {
    const { bufferView, byteOffset = 0 } = gltf.accessors[accessor];
    const from = bin + (gltf.bufferViews[bufferView].byteOffset ?? 0) + byteOffset;
    return Float32Array.from({ length: count }, (_, i) => view.getFloat32(from + i * 4, true));
  };
  const animation = gltf.animations[gltf.animations.length - 1];
  const channel = animation.channels.find(({ target }) => target.path === 'weights');
  if (!channel) throw new Error('no weights are animated');
  const { input, output } = animation.samplers[channel.sampler];
  const names = gltf.meshes[gltf.nodes[channel.target.node].mesh!].extras!.targetNames!;
  const times = numbers(input, gltf.accessors[input].count);
  const values = numbers(output, times.length * names.length);
  return {
    times,
    weight: (shape, seconds) => {
      const s = names.indexOf(shape);
      const next = Math.max(
        1,
        times.findIndex((time) => time >= seconds),
      );
      const share = (seconds - times[next - 1]) / (times[next] - times[next - 1]);
      return values[(next - 1) * names.length + s] * (1 - share) + values[next * names.length + s] * share;
    },
  };
}
