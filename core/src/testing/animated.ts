import { Document, WebIO } from '@gltf-transform/core';
import { makeFile, randomShape } from './bodies';

/** An animation of the hips: a key turn at each of these times, seconds. */
export interface Keys {
  readonly name: string;
  readonly times: readonly number[];
}

/** A body without a mesh as GLB, with animations of few keys: what a small file may ask for. */
export async function animatedGlb(seed: number, animations: readonly Keys[]): Promise<Uint8Array<ArrayBuffer>> {
  const { skeleton } = makeFile(randomShape(seed, { spine: 2, neck: 1, clavicles: true }));
  const document = new Document();
  const buffer = document.createBuffer();
  const nodes = skeleton.names.map((name, j) =>
    document.createNode(name).setTranslation([skeleton.restT[j * 3], skeleton.restT[j * 3 + 1], skeleton.restT[j * 3 + 2]]),
  );
  const scene = document.createScene();
  skeleton.parents.forEach((parent, j) => (parent < 0 ? scene : nodes[parent]).addChild(nodes[j]));
  const skin = document.createSkin();
  nodes.forEach((node) => skin.addJoint(node));
  for (const { name, times } of animations) {
    const input = document.createAccessor().setType('SCALAR').setBuffer(buffer).setArray(Float32Array.from(times));
    const turns = Float32Array.from(times.flatMap((_, i) => [0, Math.sin(i / 10), 0, Math.cos(i / 10)]));
    const output = document.createAccessor().setType('VEC4').setBuffer(buffer).setArray(turns);
    const sampler = document.createAnimationSampler().setInput(input).setOutput(output);
    const channel = document.createAnimationChannel().setTargetNode(nodes[0]).setTargetPath('rotation').setSampler(sampler);
    document.createAnimation(name).addSampler(sampler).addChannel(channel);
  }
  return (await new WebIO().writeBinary(document)) as Uint8Array<ArrayBuffer>;
}
