import { WebIO, type Node } from '@gltf-transform/core';

/** A skinned GLB file, posed by the standard's own words and nothing of the core. */
export interface PlainSkin {
  readonly seconds: number;
  readonly joints: readonly string[];
  /** Points of each triangle, three by three. */
  readonly triangles: readonly number[];
  /** Most that the weights of a point miss 1. */
  readonly worstSum: number;
  /** Places of all points at a second of the last animation, undefined for the file's own rest; 3 each. */
  places(seconds?: number): Float64Array;
}

type Matrix = number[];

/** Reads every skinned mesh of a file (glTF 2.0 sections 3.7.3 and 3.11; keys between on straight lines). */
export async function readPlainSkin(bytes: Uint8Array): Promise<PlainSkin> {
  const document = await new WebIO().readBinary(bytes);
  const root = document.getRoot();
  const animation = root.listAnimations().at(-1);
  const tracks = new Map<Node, Map<string, { times: ArrayLike<number>; values: ArrayLike<number> }>>();
  let seconds = 0;
  for (const channel of animation?.listChannels() ?? []) {
    const node = channel.getTargetNode()!;
    const times = channel.getSampler()!.getInput()!.getArray()!;
    const own = tracks.get(node) ?? new Map<string, { times: ArrayLike<number>; values: ArrayLike<number> }>();
    tracks.set(node, own.set(channel.getTargetPath()!, { times, values: channel.getSampler()!.getOutput()!.getArray()! }));
    seconds = Math.max(seconds, times[times.length - 1]);
  }
  const valueAt = (node: Node, path: string, t: number | undefined, rest: readonly number[]): number[] => {
    const track = tracks.get(node)?.get(path);
    if (t === undefined || !track) return [...rest];
    let k = 1;
    while (k + 1 < track.times.length && track.times[k] < t) k++;
    const f = Math.min(1, Math.max(0, (t - track.times[k - 1]) / (track.times[k] - track.times[k - 1])));
    const size = rest.length;
    const [a, b] = [k - 1, k].map((i) => Array.from({ length: size }, (_, c) => track.values[i * size + c]));
    const sign = size === 4 && a.reduce((sum, v, c) => sum + v * b[c], 0) < 0 ? -1 : 1;
    const out = a.map((v, c) => v + f * (sign * b[c] - v));
    const length = size === 4 ? Math.hypot(...out) : 1;
    return out.map((v) => v / length);
  };
  const world = (node: Node, t: number | undefined, known: Map<Node, Matrix>): Matrix => {
    const found = known.get(node);
    if (found) return found;
    const own = compose(
      valueAt(node, 'translation', t, node.getTranslation()),
      valueAt(node, 'rotation', t, node.getRotation()),
      node.getScale(),
    );
    const parent = node.getParentNode();
    const out = parent ? times(world(parent, t, known), own) : own;
    known.set(node, out);
    return out;
  };
  const bodies = root.listNodes().filter((node) => node.getMesh() && node.getSkin());
  let worstSum = 0;
  const triangles: number[] = [];
  let first = 0;
  for (const primitive of bodies.flatMap((body) => body.getMesh()!.listPrimitives())) {
    for (const corner of primitive.getIndices()!.getArray()!) triangles.push(first + corner);
    first += primitive.getAttribute('POSITION')!.getCount();
  }
  const places = (t?: number): Float64Array => {
    const known = new Map<Node, Matrix>();
    const out: number[] = [];
    for (const body of bodies) {
      const skin = body.getSkin()!;
      const inverse = skin.getInverseBindMatrices()!;
      const matrices = skin.listJoints().map((joint, j) => times(world(joint, t, known), inverse.getElement(j, [])));
      for (const primitive of body.getMesh()!.listPrimitives()) {
        const [position, joints, weights] = ['POSITION', 'JOINTS_0', 'WEIGHTS_0'].map((name) => primitive.getAttribute(name)!);
        for (let i = 0; i < position.getCount(); i++) {
          const [p, j, w] = [position.getElement(i, []), joints.getElement(i, []), weights.getElement(i, [])];
          worstSum = Math.max(worstSum, Math.abs(1 - w.reduce((a, b) => a + b, 0)));
          for (let r = 0; r < 3; r++) {
            let sum = 0;
            for (let k = 0; k < 4; k++) {
              const m = matrices[j[k]];
              sum += w[k] * (m[r] * p[0] + m[4 + r] * p[1] + m[8 + r] * p[2] + m[12 + r]);
            }
            out.push(sum);
          }
        }
      }
    }
    return Float64Array.from(out);
  };
  places();
  return {
    seconds,
    joints: [
      ...new Set(
        bodies.flatMap((body) =>
          body
            .getSkin()!
            .listJoints()
            .map((joint) => joint.getName()),
        ),
      ),
    ],
    triangles,
    worstSum,
    places,
  };
}

function compose([x, y, z]: readonly number[], [a, b, c, d]: readonly number[], [u, v, w]: readonly number[]): Matrix {
  return [
    ...[(1 - 2 * (b * b + c * c)) * u, 2 * (a * b + c * d) * u, 2 * (a * c - b * d) * u, 0],
    ...[2 * (a * b - c * d) * v, (1 - 2 * (a * a + c * c)) * v, 2 * (b * c + a * d) * v, 0],
    ...[2 * (a * c + b * d) * w, 2 * (b * c - a * d) * w, (1 - 2 * (a * a + b * b)) * w, 0],
    ...[x, y, z, 1],
  ];
}

function times(a: readonly number[], b: readonly number[]): Matrix {
  return Array.from({ length: 16 }, (_, i) => {
    const [r, c] = [i % 4, Math.floor(i / 4)];
    return a[r] * b[c * 4] + a[4 + r] * b[c * 4 + 1] + a[8 + r] * b[c * 4 + 2] + a[12 + r] * b[c * 4 + 3];
  });
}
