import { makePairing } from '../match';
import { readMotionFile, type MotionFile } from '../formats';
import { driveShapes, resolveTable } from '../face';
import { DEFAULT_DELIVERY, type DeliveryChoices } from '../recipe';
import { prepareRig, type Rig } from '../rig';
import { solve } from '../solve';
import { ClipReader, trim, type Clip } from '../clip';
import { carrying, CRATE, makeFaceTrack, makeFile, makeGlb, performerOf, randomShape, rigWithCrate, walk, withCrate } from '../testing';
import { makeOutput, readBack, writeOutput, type Output } from './output';
import { loopWeights, makeLoop } from './loop';
import { reduceKeys, sampleKeys, worstOf } from './reduce';

/** A walk solved onto a body of other proportions, whose file is of either kind. */
async function solved(seed: number, format: 'bvh' | 'glb'): Promise<{ file: MotionFile; rig: Rig; clip: Clip }> {
  const shape = randomShape(seed, { clavicles: true, fingers: 2 });
  const { rig: performer, clip: take } = performerOf(shape, walk(shape, { seed, frames: 160, fps: 60 }));
  const body = randomShape(seed + 7, { clavicles: true, fingers: 2, ground: seed % 2 === 0 });
  const file =
    format === 'bvh'
      ? makeFile(body, { axes: seed, metres: 0.01, up: '+Z', name: 'body.bvh' })
      : await readMotionFile(await makeGlb(makeFile(body, { axes: seed }).skeleton, { sheath: true, scale: 0.5 }), 'body.glb');
  const rig = prepareRig(file);
  return { file, rig, clip: solve(makePairing(performer, rig), take).clip };
}
const watchedOf = ({ roles }: Rig): number[] =>
  ['left.hand', 'right.hand', 'left.foot', 'right.foot', 'head'].map((role) => roles.get(role)!);

/** A clip played over and over, to and fro, for so many frames. */
function repeatedClip(clip: Clip, frames: number): Clip {
  const back = 2 * (clip.frames - 1);
  const at = (f: number): number => Math.min(f % back, back - (f % back));
  const spread = (values: Float32Array): Float32Array => {
    const width = values.length / clip.frames;
    const out = new Float32Array(frames * width);
    for (let f = 0; f < frames; f++) out.set(values.subarray(at(f) * width, (at(f) + 1) * width), f * width);
    return out;
  };
  return { ...clip, frames, rotations: spread(clip.rotations), moves: clip.moves.map((m) => ({ ...m, values: spread(m.values) })) };
}

describe('a motion as it is delivered', () => {
  const back = async (
    format: 'bvh' | 'glb',
    seed: number,
    decisions: Partial<DeliveryChoices>,
  ): Promise<{ output: Output; worst: number; file: MotionFile; joints: number }> => {
    const { file, rig, clip } = await solved(seed, format);
    const output = writeOutput(makeOutput(file, rig, clip, decisions.format ?? format, { ...DEFAULT_DELIVERY, ...decisions }));
    const { worst, joints } = await readBack(output, rig, `out.${output.format}`);
    return { output, worst, joints, file: await readMotionFile(output.bytes, `out.${output.format}`) };
  };

  it('is read back joint by joint as it was solved, in every format, unit and up axis', async () => {
    for (const [format, decisions] of [
      ['bvh', {}],
      ['bvh', { unit: 1, up: '+Y' }],
      ['bvh', { unit: 0.0254, up: '+X' }],
      ['bvh', { unlabelled: false }],
      ['glb', {}],
      ['glb', { bare: true }],
      ['glb', { format: 'bvh', up: '+Z', unit: 0.01 }],
    ] as const) {
      const { worst } = await back(format, 3, decisions);
      expect(worst)
        .withContext(JSON.stringify([format, decisions]))
        .toBeLessThan(5e-5);
    }
  });

  it('has face shapes that end where they begin when it is to be played on end, and are left alone in the middle', () => {
    const track = makeFaceTrack(['jawOpen'], { seconds: 3 });
    const table = resolveTable(track.channels, ['jawOpen'], []);
    const { weights } = driveShapes(track, table, { first: 0, step: 1 / 60 }, { frames: 181, frameTime: 1 / 60 });
    const looped = loopWeights(weights, 0.4);
    const last = looped.values.length - 1;
    expect(Math.abs(looped.values[last] - looped.values[0])).toBeLessThan(1e-6);
    expect(looped.values.subarray(30, 150)).toEqual(weights.values.subarray(30, 150));
  });

  it('says of a loop that it is one, and of no other motion', async () => {
    const { file, rig, clip } = await solved(3, 'glb');
    const saysLoop = (bytes: Uint8Array): boolean => new TextDecoder('latin1').decode(bytes).includes('"extras":{"loop":true}');
    const made = (loop: number, beside = {}): Uint8Array =>
      writeOutput(makeOutput(file, rig, clip, 'glb', { ...DEFAULT_DELIVERY, loop }, beside)).bytes;
    expect([saysLoop(made(0)), saysLoop(made(0.3)), saysLoop(made(0, { isLoop: true }))]).toEqual([false, true, true]);
  });

  it('has what is carried where the hands have it, in every format and with fewer keys', async () => {
    const { rig: performer, clip: take } = carrying(randomShape(2, { clavicles: true, spread: [0.95, 1.05] }), 2);
    const body = withCrate(randomShape(9, { clavicles: true }));
    const file = await readMotionFile(await makeGlb(makeFile(body, { axes: 2 }).skeleton, { sheath: true, scale: 0.5 }), 'porter.glb');
    const rig = rigWithCrate(file);
    const { clip } = solve(makePairing(performer, rig), take);
    const crate = rig.roles.get(CRATE.role)! * 3;
    for (const decisions of [{}, { bare: true }, { tolerance: 1 }, { format: 'bvh', unlabelled: false, unit: 0.01 }] as const) {
      const output = writeOutput(makeOutput(file, rig, clip, 'format' in decisions ? 'bvh' : 'glb', { ...DEFAULT_DELIVERY, ...decisions }));
      const { worst } = await readBack(output, rig, 'out');
      expect(worst).withContext(JSON.stringify(decisions)).toBeLessThan(5e-5);
      const [a, b] = [new ClipReader(rig.skeleton, clip), new ClipReader(rig.skeleton, output.clip)];
      let off = 0;
      for (let f = 0; f < clip.frames; f++) {
        const [p, q] = [a.at(f).positions, b.at(f).positions];
        off = Math.max(off, Math.hypot(...[0, 1, 2].map((c) => p[crate + c] - q[crate + c])));
      }
      expect(off)
        .withContext(`${JSON.stringify(decisions)}: the crate`)
        .toBeLessThan('tolerance' in decisions ? 0.00101 : 1e-6);
    }
  });

  it('is read back key by key at any frame time, and long takes do not drift', async () => {
    const { file, rig, clip } = await solved(3, 'glb');
    for (const frameTime of [1 / 120, 0.0083333, 1001 / 30000, 0.00834, 0.0137]) {
      const long = { ...repeatedClip(clip, 2000), frameTime };
      for (const tolerance of frameTime === 0.0083333 ? [null, 2] : [null]) {
        const output = writeOutput(makeOutput(file, rig, long, 'glb', { ...DEFAULT_DELIVERY, tolerance, bare: true }));
        const { worst, frames } = await readBack(output, rig, 'long.glb');
        expect(frames).toBe(2000);
        expect(worst).withContext(`${frameTime} ${tolerance}`).toBeLessThan(5e-5);
      }
      const [read] = (
        await readMotionFile(writeOutput(makeOutput(file, rig, long, 'glb', { ...DEFAULT_DELIVERY, bare: true })).bytes, 'long.glb')
      ).clips;
      expect([read.frames, Math.abs(read.frameTime - frameTime) * 2000 < 0.05 * frameTime])
        .withContext(`${frameTime}`)
        .toEqual([2000, true]);
    }
    const output = writeOutput(makeOutput(file, rig, clip, 'glb', { ...DEFAULT_DELIVERY, bare: true }));
    await expectAsync(readBack({ ...output, clip: trim(rig.skeleton, clip, 1, clip.frames - 1) }, rig, 'x.glb')).toBeRejectedWithError(
      /160 frames .* where 159/,
    );
  });

  it('lacks what has no role where it is not wanted, and is found out where it lacks more', async () => {
    const { file, joints } = await back('bvh', 4, { unlabelled: false });
    const whole = await back('bvh', 4, {});
    expect(file.skeleton.names.length).toBeLessThanOrEqual(whole.file.skeleton.names.length);
    expect(joints).toBe(file.skeleton.names.length);
    const { file: own, rig, clip } = await solved(4, 'bvh');
    const output = writeOutput(makeOutput(own, rig, clip, 'bvh', DEFAULT_DELIVERY));
    const spoilt = { ...clip, rotations: clip.rotations.slice() };
    spoilt.rotations.set([0, 0, 1, 0], rig.roles.get('left.upperArm')! * 4);
    expect((await readBack({ ...output, clip: spoilt }, rig, 'x.bvh')).worst).toBeGreaterThan(0.1);
    const text = new TextDecoder().decode(output.bytes).replaceAll(rig.skeleton.names[rig.roles.get('head')!], 'elsewhere');
    await expectAsync(
      readBack({ ...output, bytes: new TextEncoder().encode(text) as Uint8Array<ArrayBuffer> }, rig, 'x.bvh'),
    ).toBeRejectedWithError(/lacks this joint/);
  });

  it('keeps within the tolerance at hands, feet and head with far fewer keys, and says so truly', async () => {
    for (const seed of [3, 5, 6]) {
      const { file, rig, clip } = await solved(seed, 'glb');
      const all = writeOutput(makeOutput(file, rig, clip, 'glb', { ...DEFAULT_DELIVERY, bare: true }));
      for (const tolerance of [0.5, 2]) {
        const output = writeOutput(makeOutput(file, rig, clip, 'glb', { ...DEFAULT_DELIVERY, tolerance, bare: true }));
        const { worst, share } = output.reduced!;
        expect(worst).toBeLessThan(tolerance / 1000);
        expect(share).toBeLessThan(0.6);
        expect(output.bytes.length).toBeLessThan(0.8 * all.bytes.length);
        // The record must agree with the file as it is read, not with the code that wrote it.
        expect((await readBack(output, rig, 'r.glb')).worst).toBeLessThan(5e-5);
        const own = (await readBack({ ...output, clip }, rig, 'r.glb')).worst;
        expect(own).toBeGreaterThanOrEqual(worst * 0.9);
      }
    }
  });
});

describe('keys', () => {
  it('give back the motion where all are kept, and one stands for what does not move', async () => {
    const { rig, clip } = await solved(5, 'bvh');
    const joints = rig.skeleton.names.length;
    const every = Int32Array.from({ length: clip.frames }, (_, f) => f);
    const same = sampleKeys(rig.skeleton, clip, { turns: Array.from({ length: joints }, () => every), moves: clip.moves.map(() => every) });
    expect(worstOf(rig.skeleton, clip, same, watchedOf(rig))).toBeLessThan(1e-7);
    const still = { ...clip, rotations: Float32Array.from({ length: clip.rotations.length }, (_, i) => clip.rotations[i % (joints * 4)]) };
    const { keys, worst } = reduceKeys(rig.skeleton, still, watchedOf(rig), 1e-4);
    expect(keys.turns.every((list) => list.length === 1)).toBeTrue();
    expect(worst).toBeLessThan(1e-4);
  });

  it('are fewer the more may be off', async () => {
    const { rig, clip } = await solved(6, 'bvh');
    const shares = [1e-4, 1e-3, 1e-2].map((tolerance) => reduceKeys(rig.skeleton, clip, watchedOf(rig), tolerance).share);
    expect(shares[1]).toBeLessThan(shares[0]);
    expect(shares[2]).toBeLessThan(shares[1]);
  });
});

describe('a loop', () => {
  it('ends in the pose that it begins in, keeps its travel, and leaves its middle alone', async () => {
    const { rig, clip } = await solved(7, 'bvh');
    const carriers = new Set([0, rig.carrier]);
    const { clip: looped, gap } = makeLoop(rig.skeleton, clip, 0.3, carriers);
    expect(gap).toBeGreaterThan(0.05);
    const reader = new ClipReader(rig.skeleton, looped);
    const root = rig.roles.get('hips')! * 3;
    const from = reader.at(0).positions.slice();
    const to = reader.at(clip.frames - 1).positions.slice();
    const way = [0, 1, 2].map((c) => to[root + c] - from[root + c]);
    for (let j = 0; j < from.length; j += 3) for (let c = 0; c < 3; c++) expect(to[j + c] - from[j + c]).toBeCloseTo(way[c], 4);
    expect(way[1]).toBeCloseTo(0, 5);
    const own = new ClipReader(rig.skeleton, clip);
    const [a, b] = [own.at(0).positions.slice(), own.at(clip.frames - 1).positions];
    expect(Math.hypot(way[0], way[2])).toBeCloseTo(Math.hypot(b[root] - a[root], b[root + 2] - a[root + 2]), 4);
    const middle = clip.frames >> 1;
    const [p, q] = [new ClipReader(rig.skeleton, clip).at(middle).positions, reader.at(middle).positions];
    for (const j of watchedOf(rig)) for (let c = 0; c < 3; c++) expect(q[j * 3 + c]).toBeCloseTo(p[j * 3 + c], 6);
  });
});
