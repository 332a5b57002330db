import type { Animation } from '@gltf-transform/core';
import { asFault, asFaultError, fail, type Fault } from '../../errors';
import { shortened, wellFormed } from '../../text';
import type { Clip } from '../../clip';
import { copy, identity, mul, rotate } from '../../math/quat';
import { bareNames, makeSkeleton, restPose } from '../../skeleton';
import { MAX_CLIP_NAME, MAX_CLIPS, MotionBudget } from '../limits';
import type { MotionFile } from '../motionFile';
import { sampleAnimation } from './animation';
import { readContainer } from './container';
import { readDocument } from './document';
import { DRACO } from './draco';
import { checkGltf, type Gltf } from './gltf';
import type { FaceTrack } from '../face/track';
import type { GlbLayout } from './layout';
import { MESHOPT } from './meshopt';
import { morphNodes, sampleFace } from './morphs';
import { chooseJoints, nodeTransforms, nodeWorld } from './nodes';
import { skinPoints } from './skinPoints';
import { readBodyMap } from './vrm';

const MAX_NODES = 50_000;
/** Extensions that a file may require and that change nothing of joints, motion and the shape of the mesh as it is read here. */
const HARMLESS =
  /^(KHR_(materials_|texture_|lights_|mesh_quantization|animation_pointer|xmp)|EXT_(texture_|lights_|mesh_gpu_instancing)|VRM|VRMC_|MSFT_texture_)/;

/**
 * Reads a GLB file: skeleton, animations, and the mesh points that its skin moves.
 * Uniform scale anywhere above or in the skeleton is folded into translations.
 * @param withSkin false leaves the mesh points out, for who wants the motion alone
 * @param frameTime seconds of a frame, where who reads knows them: keys that were left out hide them
 * @throws FaultError with the joint, node or accessor
 */
export async function readGlb(bytes: Uint8Array, name: string, withSkin = true, frameTime?: number): Promise<MotionFile> {
  try {
    const { json, bin } = readContainer(bytes);
    const file = await assemble(name, bytes, checkGltf(json, bin?.length), bin, withSkin, frameTime);
    return withBodyMap(file, readBodyMap(json));
  } catch (error) {
    throw asFaultError(error, name);
  }
}

/** An avatar's own body map as joint names; nodes that are no joints of the skeleton are left out. */
function withBodyMap(file: MotionFile, map: ReadonlyMap<string, number> | undefined): MotionFile {
  if (!map || file.layout.format !== 'glb') return file;
  const { nodes } = file.layout;
  const names = bareNames(file.skeleton);
  const entries = [...map].map(([role, node]) => [role, nodes.indexOf(node)] as const).filter(([, joint]) => joint >= 0);
  return { ...file, format: 'vrm', bodyMap: Object.fromEntries(entries.map(([role, joint]) => [role, names[joint]])) };
}

async function assemble(
  name: string,
  bytes: Uint8Array,
  gltf: Gltf,
  bin: Uint8Array | undefined,
  withSkin: boolean,
  frameTime?: number,
): Promise<MotionFile> {
  const warnings: Fault[] = [];
  const nodes = gltf.nodes ?? [];
  if (nodes.length > MAX_NODES) fail('skeleton/limit', `${nodes.length} nodes; at most ${MAX_NODES} are read`);
  const unknown = gltf.extensionsRequired?.filter((name) => !HARMLESS.test(name) && name !== DRACO && !MESHOPT.some((own) => own === name));
  if (unknown && unknown.length > 0) {
    warnings.push({
      code: 'glb/extension',
      message: `the file requires ${unknown.join(', ')}, which ${unknown.length === 1 ? 'is' : 'are'} not read here: it is kept, and its mesh may look otherwise than it was made`,
      where: {},
    });
  }
  const motions = gltf.animations?.length ?? 0;
  if (motions > MAX_CLIPS) fail('clip/limit', `the file holds ${motions} animations; at most ${MAX_CLIPS} are read. Split it`);
  const transforms = nodeTransforms(gltf);
  const { nodes: jointNodes, jointOfNode } = chooseJoints(gltf, transforms.parents);
  const count = jointNodes.length;
  const names: string[] = [];
  const parents = new Int32Array(count);
  const restT = new Float64Array(count * 3);
  const restR = new Float64Array(count * 4);
  const scales = new Float64Array(count);
  const ownScales = new Float64Array(count);
  const containerR = new Float64Array(count * 4);
  const containerT = new Float64Array(count * 3);
  for (let j = 0; j < count; j++) {
    const n = jointNodes[j];
    names.push(nodes[n].name || `node ${n}`);
    const parentNode = transforms.parents[n];
    parents[j] = parentNode >= 0 ? jointOfNode[parentNode] : -1;
    identity(containerR, j * 4);
    if (parents[j] >= 0) scales[j] = ownScales[parents[j]];
    else {
      for (let up = parentNode; up >= 0; up = transforms.parents[up]) checkScale(up);
      const world = parentNode >= 0 ? nodeWorld(transforms, parentNode) : undefined;
      scales[j] = world?.s ?? 1;
      if (world) {
        copy(containerR, j * 4, world.r, 0);
        containerT.set(world.t, j * 3);
      }
    }
    const hasChildren = nodes[n].children?.some((child) => jointOfNode[child] >= 0) ?? false;
    if (hasChildren) checkScale(n);
    ownScales[j] = scales[j] * (Number.isNaN(transforms.s[n]) ? 1 : transforms.s[n]);
    for (let c = 0; c < 3; c++) restT[j * 3 + c] = transforms.t[n * 3 + c] * scales[j];
    copy(restR, j * 4, transforms.r, n * 4);
    if (parents[j] < 0) {
      rotate(restT, j * 3, containerR, j * 4, restT, j * 3);
      for (let c = 0; c < 3; c++) restT[j * 3 + c] += containerT[j * 3 + c];
      mul(restR, j * 4, containerR, j * 4, restR, j * 4);
    }
  }
  const skeleton = makeSkeleton({ names, parents, restT, restR });
  const morphs = morphNodes(gltf, warnings);
  const layout: GlbLayout = { format: 'glb', bytes, nodes: jointNodes, scales, ownScales, containerR, containerT, morphs };

  const document = await readDocument(gltf, bin, withSkin ? 'skinned' : 'none');
  const root = document.getRoot();
  const clips: Clip[] = [];
  const faces: (FaceTrack | undefined)[] = [];
  const budget = new MotionBudget();
  root.listAnimations().forEach((animation, i) => {
    const source = gltf.animations![i];
    const label = shortened(wellFormed(source.name ?? '').trim(), MAX_CLIP_NAME) || `animation ${i + 1}`;
    const clip = sampleAnimation(
      animation,
      label,
      skeleton,
      layout,
      (c) => {
        const node = source.channels[c]?.target.node;
        return node === undefined ? -1 : jointOfNode[node];
      },
      warnings,
      budget,
      frameTime,
    );
    const face = faceOf(animation, label, morphs, (c) => source.channels[c]?.target.node, warnings);
    if (clip) clips.push(clip);
    if (clip ?? face) faces[clip ? clips.length - 1 : clips.length] ??= face;
  });
  const skin = withSkin ? skinPoints(document, jointOfNode, restPose(skeleton), ownScales) : undefined;
  const shapes = [...new Set(morphs.flatMap(({ names: own }) => own))];
  return { name, skeleton, clips, warnings, layout, skin, ...(shapes.length > 0 && { shapes }), ...(faces.some(Boolean) && { faces }) };

  function checkScale(n: number): void {
    const trouble = transforms.trouble.get(n);
    if (trouble !== undefined) {
      fail('glb/scale', `${trouble}; apply the scale in the program that made the file`, { joint: nodes[n].name || `node ${n}` });
    }
  }
}

/** The face of an animation; one that cannot be read keeps nobody from the body's motion. */
function faceOf(
  animation: Animation,
  name: string,
  morphs: NonNullable<GlbLayout['morphs']>,
  nodeOf: (channel: number) => number | undefined,
  warnings: Fault[],
): FaceTrack | undefined {
  if (morphs.length === 0) return undefined;
  try {
    return sampleFace(animation, name, morphs, nodeOf);
  } catch (error) {
    const { code, message, where } = asFault(error);
    warnings.push({ code, message: `the face of animation "${shortened(name, 60)}" is left out: ${message}`, where });
    return undefined;
  }
}
