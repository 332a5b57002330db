import { type Document, WebIO } from '@gltf-transform/core';
import { makeFile, makeGlb, randomShape, withFace } from '../../testing';
import { readMotionFile } from '..';

const body = makeFile(randomShape(61, { clavicles: true })).skeleton;

/** A body whose face is animated by these keys: times, and weights as they stand in the file. */
async function animated(
  shapes: readonly string[],
  mode: 'LINEAR' | 'STEP' | 'CUBICSPLINE',
  times: readonly number[],
  weights: readonly number[],
): Promise<Uint8Array> {
  const io = new WebIO();
  const document: Document = await io.readBinary(await withFace(await makeGlb(body), [shapes]));
  const root = document.getRoot();
  const [buffer] = root.listBuffers();
  const accessor = (values: readonly number[]) =>
    document.createAccessor().setType('SCALAR').setArray(Float32Array.from(values)).setBuffer(buffer);
  const sampler = document.createAnimationSampler().setInput(accessor(times)).setOutput(accessor(weights)).setInterpolation(mode);
  const node = root.listNodes().find((one) => one.getMesh()?.getName() === 'face 0')!;
  const channel = document.createAnimationChannel().setTargetNode(node).setTargetPath('weights').setSampler(sampler);
  document.createAnimation('call').addSampler(sampler).addChannel(channel);
  return io.writeBinary(document);
}

describe('morph animation of GLB files', () => {
  it('is read as its keys say: on straight lines, in steps, and as cubic splines', async () => {
    const at = async (mode: 'LINEAR' | 'STEP' | 'CUBICSPLINE', weights: readonly number[]): Promise<number[]> => {
      const { faces } = await readMotionFile(await animated(['open', 'wide'], mode, [0, 0.5], weights), 'call.glb');
      const { values, channels, frames, frameTime } = faces![0]!;
      expect(channels).toEqual(['open', 'wide']);
      const quarter = Math.round(0.125 / frameTime);
      return [values[0], values[quarter * 2], values[(frames - 1) * 2], values[(frames - 1) * 2 + 1]];
    };
    expect((await at('LINEAR', [0, 1, 1, 0.5])).map((x) => Number(x.toFixed(1)))).toEqual([0, 0.3, 1, 0.5]);
    expect(await at('STEP', [0, 1, 1, 0.5])).toEqual([0, 0, 1, 0.5]);
    // In-slopes, values, out-slopes of each key; a slope of 4 a second lifts the first quarter far over the straight line.
    const cubic = await at('CUBICSPLINE', [0, 0, 0, 1, 4, 0, 0, 0, 1, 0.5, 0, 0]);
    expect(cubic[1]).toBeGreaterThan(0.35);
    expect([cubic[0], cubic[2], cubic[3]]).toEqual([0, 1, 0.5]);
  });

  it('keeps nobody from the body, whatever is wrong with it', async () => {
    const few = await readMotionFile(await animated(['open', 'wide'], 'LINEAR', [0, 1], [0, 1, 1]), 'few.glb');
    expect(few.faces).toBeUndefined();
    expect(few.warnings.map(({ message }) => message).join()).toContain('the face of animation "call" is left out');
    const many = Array.from({ length: 500 }, (_, i) => `shape ${i}`);
    const crowd = await readMotionFile(
      await animated(
        many,
        'LINEAR',
        [0, 1],
        [...many, ...many].map(() => 0),
      ),
      'crowd.glb',
    );
    expect([crowd.shapes!.length, crowd.faces, crowd.skeleton.names.length]).toEqual([500, undefined, body.names.length]);
    expect(crowd.warnings.map(({ message }) => message).join()).toContain('at most 400');
  });
});
