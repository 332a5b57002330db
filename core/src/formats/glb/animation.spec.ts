import { Document, WebIO } from '@gltf-transform/core';
import { bakeSizes, ClipReader } from '../../clip';
import { FaultError } from '../../errors';
import { reduceKeys } from '../../output';
import type { MotionFile } from '../motionFile';
import type { GlbLayout } from './layout';
import { readGlb } from './read';
import { writeGlb } from './write';

type Mode = 'LINEAR' | 'STEP' | 'CUBICSPLINE';

/** A stick of three joints whose middle one is moved by the given keys. */
async function stick(options: {
  times: readonly number[];
  values: readonly number[];
  path: 'rotation' | 'translation' | 'scale';
  mode?: Mode;
  moving?: 'hips' | 'knee';
  /** Of the knee at rest. */
  size?: number;
}): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const [hips, knee, foot] = ['hips', 'knee', 'foot'].map((name, i) => document.createNode(name).setTranslation([0, i === 0 ? 2 : -1, 0]));
  if (options.size) knee.setScale([options.size, options.size, options.size]);
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
    .addChannel(
      document
        .createAnimationChannel()
        .setTargetNode(options.moving === 'hips' ? hips : knee)
        .setTargetPath(options.path)
        .setSampler(sampler),
    )
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

  it('let joints grow, and what hangs on them with them; one that would be mirrored, or shear what hangs below, is left out', async () => {
    const sized = async (values: readonly number[], moving: 'knee' | 'hips' = 'knee') =>
      readGlb(await stick({ times: [0, 1], values, path: 'scale', moving }), 'stick.glb');
    const footAt = ({ skeleton, clips: [clip] }: MotionFile, f: number): number =>
      new ClipReader(skeleton, clip).at(f).positions[skeleton.names.indexOf('foot') * 3 + 1];
    // The hips stand at 2, the knee a metre below, the foot a metre below that.
    const long = await sized([1, 1, 1, 1, 3, 1]);
    expect([footAt(long, 0), footAt(long, 15), footAt(long, 30)].map((y) => Math.round(y * 1e4) / 1e4)).toEqual([0, -1, -2]);
    expect(long.warnings).toEqual([]);
    const whole = await sized([1, 1, 1, 1.5, 1.5, 1.5], 'hips');
    expect(footAt(whole, 30)).toBeCloseTo(2 - 3, 5);
    for (const bad of [await sized([1, 1, 1, 1, 3, 1], 'hips'), await sized([1, 1, 1, -1, 1, 1])]) {
      expect(bad.warnings).toEqual([jasmine.objectContaining({ code: 'glb/animation' })]);
      expect(bad.clips[0].sizes).toBeUndefined();
    }
    expect((await sized([1, 1, 1, 1, 1, 1])).clips[0].sizes).toBeUndefined();
  });

  it('are written with the sizes that they were read with, whole or as few keys', async () => {
    const values = times(31, 30).flatMap((t) => [1 + t * t, 1 + t * t, 1 + t * t]);
    const bytes = await stick({ times: times(31, 30), values, path: 'scale', size: 2 });
    const file = await readGlb(bytes, 'stick.glb');
    const [clip] = file.clips;
    // As it is told against the rest, at which the knee is twice as large.
    expect([clip.sizes![0].values[1], clip.sizes![0].values[91]]).toEqual([0.5, 1]);
    const again = (await readGlb(writeGlb(file.skeleton, clip, file.layout as GlbLayout), 'stick.glb', false, clip.frameTime)).clips.at(
      -1,
    )!;
    expect(again.sizes).toEqual(clip.sizes);
    const { keys, share, worst } = reduceKeys(file.skeleton, clip, [file.skeleton.names.indexOf('foot')], 0.005);
    expect(share).toBeLessThan(0.5);
    expect(worst).toBeLessThan(0.005);
    const few = (
      await readGlb(writeGlb(file.skeleton, clip, file.layout as GlbLayout, { keys }), 'stick.glb', false, clip.frameTime)
    ).clips.at(-1)!;
    few.sizes![0].values.forEach((value, i) => expect(Math.abs(value - clip.sizes![0].values[i])).toBeLessThan(1.1e-3));
    // Where a file knows no sizes, what hangs on the joint is where it was.
    const baked = bakeSizes(file.skeleton, clip);
    const [a, b] = [clip, baked].map((one) => new ClipReader(file.skeleton, one));
    expect(baked.sizes).toBeUndefined();
    for (const f of [0, 12, 30])
      expect([...b.at(f).positions].map((v) => v.toFixed(6))).toEqual([...a.at(f).positions].map((v) => v.toFixed(6)));
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
