import { Document, WebIO } from '@gltf-transform/core';
import { ClipReader } from '../../clip';
import { FaultError } from '../../errors';
import { readGlb } from './read';

type Mode = 'LINEAR' | 'STEP' | 'CUBICSPLINE';

/** A stick of three joints whose middle one is moved by the given keys. */
async function stick(options: {
  times: readonly number[];
  values: readonly number[];
  path: 'rotation' | 'translation' | 'scale';
  mode?: Mode;
}): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const [hips, knee, foot] = ['hips', 'knee', 'foot'].map((name, i) => document.createNode(name).setTranslation([0, i === 0 ? 2 : -1, 0]));
  document.createScene().addChild(hips.addChild(knee.addChild(foot)));
  const accessor = (type: 'SCALAR' | 'VEC3' | 'VEC4', array: readonly number[]) =>
    document.createAccessor().setType(type).setArray(Float32Array.from(array)).setBuffer(buffer);
  const sampler = document
    .createAnimationSampler()
    .setInput(accessor('SCALAR', options.times))
    .setOutput(accessor(options.path === 'rotation' ? 'VEC4' : 'VEC3', options.values))
    .setInterpolation(options.mode ?? 'LINEAR');
  const still = document
    .createAnimationSampler()
    .setInput(accessor('SCALAR', [0]))
    .setOutput(accessor('VEC4', [0, 0, 0, 1]));
  document
    .createAnimation('swing')
    .addSampler(sampler)
    .addSampler(still)
    .addChannel(document.createAnimationChannel().setTargetNode(knee).setTargetPath(options.path).setSampler(sampler))
    .addChannel(document.createAnimationChannel().setTargetNode(hips).setTargetPath('rotation').setSampler(still));
  return new WebIO().writeBinary(document);
}

const times = (count: number, rate: number): number[] => Array.from({ length: count }, (_, i) => i / rate);
/** Turns about X, in degrees, as quaternions. */
const turns = (degrees: readonly number[]): number[] =>
  degrees.flatMap((d) => [Math.sin((d * Math.PI) / 360), 0, 0, Math.cos((d * Math.PI) / 360)]);

/** Where the foot is in each frame, along Z. */
async function footPath(bytes: Uint8Array): Promise<{ z: number[]; frameTime: number }> {
  const file = await readGlb(bytes, 'stick.glb');
  const [clip] = file.clips;
  const reader = new ClipReader(file.skeleton, clip);
  const foot = file.skeleton.names.indexOf('foot');
  return { z: Array.from({ length: clip.frames }, (_, f) => reader.at(f).positions[foot * 3 + 2]), frameTime: clip.frameTime };
}

describe('animations of a GLB file', () => {
  it('are read at the rate of their keys', async () => {
    for (const rate of [24, 30, 60, 120]) {
      const { z, frameTime } = await footPath(
        await stick({ times: times(rate + 1, rate), values: turns(times(rate + 1, rate).map((t) => t * 90)), path: 'rotation' }),
      );
      expect(frameTime)
        .withContext(`${rate}`)
        .toBe(1 / rate);
      expect(z.length).toBe(rate + 1);
      expect(z[rate]).toBeCloseTo(-1, 4);
    }
  });

  it('are sampled finely between sparse keys, on the arc and not on the chord', async () => {
    const { z } = await footPath(await stick({ times: [0, 1], values: turns([0, 90]), path: 'rotation' }));
    expect(z.length).toBe(31);
    expect(z[15]).toBeCloseTo(-Math.SQRT1_2, 4);
  });

  it('hold a step until the next key', async () => {
    const { z } = await footPath(await stick({ times: [0, 0.5, 1], values: turns([0, 90, 0]), path: 'rotation', mode: 'STEP' }));
    expect([z[0], z[14], z[16], z[29], z[30]].map((v) => Math.abs(Math.round(v)))).toEqual([0, 0, 1, 1, 0]);
  });

  it('follow a cubic curve through its keys and slopes', async () => {
    // Translation along Z from 0 to 1 with level ends: 3t² − 2t³.
    const zero = [0, 0, 0];
    const { z } = await footPath(
      await stick({
        times: [0, 1],
        values: [...zero, 0, -1, 0, ...zero, ...zero, 0, -1, 1, ...zero],
        path: 'translation',
        mode: 'CUBICSPLINE',
      }),
    );
    z.forEach((v, f) => {
      const t = f / 30;
      expect(v).toBeCloseTo(3 * t * t - 2 * t * t * t, 5);
    });
  });

  it('keep translations of joints that are not roots', async () => {
    const { z } = await footPath(await stick({ times: [0, 1], values: [0, -1, 0, 0, -1, 0.6], path: 'translation' }));
    expect(z[30]).toBeCloseTo(0.6, 5);
  });

  it('caution where a joint is scaled over time, and stay silent where the scale does not change', async () => {
    const scaling = await readGlb(await stick({ times: [0, 1], values: [1, 1, 1, 2, 2, 2], path: 'scale' }), 'stick.glb');
    expect(scaling.warnings).toEqual([jasmine.objectContaining({ code: 'glb/animation', where: { joint: 'knee' } })]);
    const steady = await readGlb(await stick({ times: [0, 1], values: [1, 1, 1, 1, 1, 1], path: 'scale' }), 'stick.glb');
    expect(steady.warnings).toEqual([]);
  });

  it('are refused where times fall or numbers are not finite, with joint and frame', async () => {
    for (const [bytes, code] of [
      [await stick({ times: [0, 1, 0.5], values: turns([0, 10, 20]), path: 'rotation' }), 'glb/animation'],
      [await stick({ times: [0, 1], values: [0, 0, 0, 1, NaN, 0, 0, 1], path: 'rotation' }), 'clip/not-finite'],
      [await stick({ times: [0, 1, 2], values: turns([0, 10]), path: 'rotation' }), 'glb/animation'],
    ] as const) {
      await expectAsync(readGlb(bytes, 'stick.glb')).toBeRejectedWith(jasmine.any(FaultError) as never);
      const fault = await readGlb(bytes, 'stick.glb').catch((e: unknown) => (e as FaultError).fault);
      expect([(fault as { code: string }).code, (fault as { where: { joint: string } }).where.joint]).toEqual([code, 'knee']);
    }
  });
});
