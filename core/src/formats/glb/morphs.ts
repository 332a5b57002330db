/** Morph targets of a GLB file: what face shapes it has, and how its animations move them. */
import type { Animation } from '@gltf-transform/core';
import { frameGrid, MAX_FRAMES } from '../../clip';
import { fail, type Fault } from '../../errors';
import { hermite } from '../../math/filter';
import { shortened, wellFormed } from '../../text';
import { evenTrack } from '../face/even';
import { MAX_FACE_SAMPLES, type FaceTrack } from '../face/track';
import type { Gltf } from './gltf';
import type { GlbLayout } from './layout';

/** Most morph targets of one file. */
const MOST_TARGETS = 4000;
type Morphs = NonNullable<GlbLayout['morphs']>;

/** Nodes whose mesh has morph targets, with the targets' names; those without one are numbered. Of too many none are read, with a caution. */
export function morphNodes({ nodes = [], meshes = [] }: Gltf, warnings: Fault[]): Morphs {
  const morphs = nodes.flatMap(({ mesh, weights }, node) => {
    if (mesh === undefined) return [];
    const { primitives, extras, weights: own } = meshes[mesh];
    const count = primitives[0]?.targets?.length ?? 0;
    if (count === 0) return [];
    const given = namesOf(extras);
    const names = Array.from({ length: count }, (_, i) => shortened(wellFormed(given[i] ?? '').trim(), 120) || `shape ${i + 1}`);
    const rest = weights ?? own ?? [];
    return [{ node, names, rest: names.map((_, i) => rest[i] ?? 0) }];
  });
  const total = morphs.reduce((sum, { names }) => sum + names.length, 0);
  if (total <= MOST_TARGETS) return morphs;
  const message = `the meshes have ${total} face shapes; at most ${MOST_TARGETS} are read, and so none are`;
  warnings.push({ code: 'skeleton/limit', message, where: {} });
  return [];
}

/** Names of morph targets, which files keep beside the mesh. */
function namesOf(extras: unknown): (string | undefined)[] {
  const names = typeof extras === 'object' && extras !== null && 'targetNames' in extras ? extras.targetNames : undefined;
  return Array.isArray(names) ? names.map((name) => (typeof name === 'string' ? name : undefined)) : [];
}

/**
 * The face of an animation: every shape that it moves, by name, evenly sampled. A shape that several meshes have is read once.
 * @param nodeOf node of a channel of the document
 * @throws FaultError glb/animation, clip/limit
 */
export function sampleFace(
  animation: Animation,
  name: string,
  morphs: Morphs,
  nodeOf: (channelIndex: number) => number | undefined,
): FaceTrack | undefined {
  const used = animation.listChannels().flatMap((channel, i) => {
    const sampler = channel.getSampler();
    const morph = channel.getTargetPath() === 'weights' ? morphs.find(({ node }) => node === nodeOf(i)) : undefined;
    const times = sampler?.getInput()?.getArray();
    const output = sampler?.getOutput();
    if (!morph || !sampler || !times || times.length === 0 || !output) return [];
    const mode = sampler.getInterpolation();
    const perKey = mode === 'CUBICSPLINE' ? 3 : 1;
    if (output.getCount() * output.getElementSize() < times.length * perKey * morph.names.length) {
      fail('glb/animation', `animation "${name}" has fewer shape weights than key times`);
    }
    return [{ morph, times, output, mode }];
  });
  if (used.length === 0) return undefined;
  const grid = frameGrid(used.map(({ times }) => times));
  const [first, last] = [Math.min(...used.map(({ times }) => times[0])), Math.max(...used.map(({ times }) => times[times.length - 1]))];
  const step = grid?.frameTime ?? 1 / 60;
  const frames = grid?.frames ?? Math.round((last - first) / step) + 1;
  const columns = new Map<string, (time: number) => number>();
  for (const { morph, times, output, mode } of used) {
    const targets = morph.names.length;
    const isCubic = mode === 'CUBICSPLINE';
    const element: number[] = [];
    /** A cubic key holds its in-slopes, its values and its out-slopes: 0, 1, 2. */
    const valueAt = (key: number, target: number, part = 1): number => {
      const at = (isCubic ? key * 3 + part : key) * targets + target;
      const size = output.getElementSize();
      output.getElement(Math.floor(at / size), element);
      return element[at % size];
    };
    morph.names.forEach((shape, target) => {
      if (columns.has(shape)) return;
      let key = 0;
      columns.set(shape, (time) => {
        if (time < times[key]) key = 0;
        while (key + 1 < times.length - 1 && times[key + 1] <= time) key++;
        const next = Math.min(key + 1, times.length - 1);
        const span = times[next] - times[key];
        const t = span > 0 ? Math.min(1, Math.max(0, (time - times[key]) / span)) : 0;
        const [a, b] = [valueAt(key, target), valueAt(next, target)];
        if (mode === 'STEP') return t < 1 ? a : b;
        if (!isCubic) return a + (b - a) * t;
        return hermite(a, valueAt(key, target, 2), b, valueAt(next, target, 0), span, t);
      });
    });
  }
  const channels = [...columns.keys()];
  if (!(frames <= MAX_FRAMES) || frames * channels.length > MAX_FACE_SAMPLES) {
    fail('clip/limit', `animation "${name}" moves ${channels.length} face shapes over ${frames} frames, more than are read. Split it`);
  }
  const times = Float64Array.from({ length: Math.max(2, frames) }, (_, f) => first + f * step);
  const values = new Float32Array(times.length * channels.length);
  [...columns.values()].forEach((at, c) => times.forEach((time, f) => (values[f * channels.length + c] = at(Math.min(time, last)))));
  return evenTrack(name, { channels, times, values });
}
