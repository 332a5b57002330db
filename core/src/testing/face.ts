/** Faces for tests: recordings of seeded channels, and GLB files with face shapes, jaw and eyes. */
import { type Document, WebIO } from '@gltf-transform/core';
import type { FaceTrack } from '../formats';
import { random } from '../math';

/** A recording of channels that each go their own smooth way between 0 and 1. */
export function makeFaceTrack(
  channels: readonly string[],
  { seed = 1, fps = 60, seconds = 4, start = 0 }: { seed?: number; fps?: number; seconds?: number; start?: number } = {},
): FaceTrack {
  const { range } = random(seed);
  const frames = Math.round(seconds * fps) + 1;
  const waves = channels.map(() => ({ middle: range(0.3, 0.6), height: range(0.1, 0.3), pace: range(2, 9), from: range(0, 6) }));
  const values = new Float32Array(frames * channels.length);
  for (let f = 0; f < frames; f++) {
    waves.forEach(({ middle, height, pace, from }, c) => {
      values[f * channels.length + c] = middle + height * Math.sin(from + (pace * f) / fps);
    });
  }
  return { name: 'face', frameTime: 1 / fps, frames, start, channels, values };
}

/** The file with one mesh for each list of shapes, and with jaw and eyes as joints of the head where they are asked for. */
export async function withFace(bytes: Uint8Array, meshes: readonly (readonly string[])[], hasJoints = false): Promise<Uint8Array> {
  const io = new WebIO();
  const document: Document = await io.readBinary(bytes);
  const root = document.getRoot();
  const buffer = root.listBuffers()[0] ?? document.createBuffer();
  const accessor = (): ReturnType<Document['createAccessor']> =>
    document
      .createAccessor()
      .setType('VEC3')
      .setArray(Float32Array.of(0, 0, 0, 0.01, 0, 0, 0, 0.01, 0))
      .setBuffer(buffer);
  const scene = root.getDefaultScene()!;
  meshes.forEach((names, m) => {
    const primitive = document.createPrimitive().setAttribute('POSITION', accessor());
    for (const name of names) primitive.addTarget(document.createPrimitiveTarget(name).setAttribute('POSITION', accessor()));
    const mesh = document
      .createMesh(`face ${m}`)
      .addPrimitive(primitive)
      .setWeights(names.map(() => 0))
      .setExtras({ targetNames: names });
    scene.addChild(document.createNode(`face ${m}`).setMesh(mesh));
  });
  if (hasJoints) {
    const head = root.listNodes().find((node) => /head/i.test(node.getName()))!;
    const skin = root.listSkins()[0] as ReturnType<Document['createSkin']> | undefined;
    for (const [name, at] of [
      ['jaw', [0, 0.02, 0.03]],
      ['eye_L', [0.03, 0.08, 0.08]],
      ['eye_R', [-0.03, 0.08, 0.08]],
    ] as const) {
      const node = document.createNode(name).setTranslation([...at]);
      head.addChild(node);
      skin?.addJoint(node);
    }
    skin?.setInverseBindMatrices(null);
  }
  return io.writeBinary(document);
}
