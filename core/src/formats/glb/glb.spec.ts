import * as fc from 'fast-check';
import { clipOf, prepareRig } from '../../rig';
import { ClipReader } from '../../clip';
import { FaultError, type Fault } from '../../errors';
import { makePairing } from '../../match';
import { random } from '../../math/random';
import { restPose } from '../../skeleton';
import { DEFAULT_SOLVE, solve } from '../../solve';
import { type GlbOptions, makeFile, makeGlb, randomShape, walk, performerOf } from '../../testing';
import { readMotionFile, writeMotion } from '..';
import { readContainer, writeContainer } from './container';
import { readGlb } from './read';

const shape = randomShape(12, { clavicles: true, spine: 3 });
const model = makeFile(shape, { axes: 4 }).skeleton;

async function faultOf(bytes: Uint8Array): Promise<Fault> {
  try {
    await readGlb(bytes, 'body.glb');
  } catch (error) {
    if (error instanceof FaultError) return error.fault;
    throw error;
  }
  throw new Error('no fault');
}

/** The file with its document changed. */
function changed(bytes: Uint8Array, change: (json: Record<string, never>) => void, bin?: Uint8Array | null): Uint8Array {
  const container = readContainer(bytes);
  const json = JSON.parse(JSON.stringify(container.json)) as Record<string, never>;
  change(json);
  return writeContainer(json, bin === null ? new Uint8Array(0) : (bin ?? container.bin!));
}

describe('reading GLB', () => {
  const cases: readonly (readonly [string, GlbOptions])[] = [
    ['plain', {}],
    ['scaled a hundredfold above', { scale: 100 }],
    ['turned and moved above', { turn: [0, Math.SQRT1_2, 0, Math.SQRT1_2], at: [1, 0, -2] }],
    ['scaled within', { jointScale: { joint: 1, factor: 2.5 } }],
    ['without a skin', { skinned: false }],
  ];
  for (const [title, options] of cases) {
    it(`finds the joints where they stand in the world: ${title}`, async () => {
      const file = await readGlb(await makeGlb(model, options), 'body.glb');
      const expected = restPose(model);
      const found = restPose(file.skeleton);
      const [, sin, , cos] = options.turn ?? [0, 0, 0, 1];
      const turn = 2 * Math.atan2(sin, cos);
      const [ax, , az] = options.at ?? [0, 0, 0];
      model.names.forEach((name, j) => {
        const k = file.skeleton.names.indexOf(name);
        const [x, y, z] = expected.positions.slice(j * 3, j * 3 + 3);
        expect(found.positions[k * 3])
          .withContext(name)
          .toBeCloseTo(x * Math.cos(turn) + z * Math.sin(turn) + ax, 4);
        expect(found.positions[k * 3 + 1]).toBeCloseTo(y, 4);
        expect(found.positions[k * 3 + 2]).toBeCloseTo(-x * Math.sin(turn) + z * Math.cos(turn) + az, 4);
      });
    });
  }

  it('measures soles on the mesh', async () => {
    const body = prepareRig(await readGlb(await makeGlb(model), 'body.glb'));
    expect(body.sole.known).toBe('mesh');
    const pose = restPose(body.skeleton);
    const toes = body.roles.get('left.toes')!;
    expect(pose.positions[toes * 3 + 1] - body.sole.depth).toBeLessThan(0.03);
  });

  it('says what is broken', async () => {
    const good = await makeGlb(model);
    const cut = good.slice(0, 200);
    expect((await faultOf(cut)).code).toBe('glb/container');
    const broken = good.slice();
    new DataView(broken.buffer).setUint32(12, 0x7fffffff, true);
    expect((await faultOf(broken)).code).toBe('glb/container');
    const garbled = good.slice();
    garbled[30] = 0xff;
    expect((await faultOf(garbled)).code).toBe('glb/json');
    expect((await faultOf(changed(good, () => undefined, null))).message).toContain('buffer');
    expect((await faultOf(changed(good, (j) => ((j['skins'] as never as { joints: number[] }[])[0].joints[2] = 9999)))).message).toContain(
      '9999',
    );
    expect((await faultOf(changed(good, (j) => ((j['accessors'] as never as { count: number }[])[0].count = 1e6)))).code).toBe(
      'glb/reference',
    );
    const nodes = (j: Record<string, never>) => j['nodes'] as never as { name: string; children?: number[]; scale?: number[] }[];
    const loop = await faultOf(
      changed(good, (j) => {
        const list = nodes(j);
        const head = list.findIndex((n) => n.name === 'Head');
        list[head].children = [list.findIndex((n) => n.name === 'Hips')];
      }),
    );
    expect(loop.code).toBe('skeleton/loop');
    const sheared = await faultOf(changed(good, (j) => (nodes(j).find((n) => n.name === 'Hips')!.scale = [1, 2, 1])));
    expect([sheared.code, sheared.where.joint]).toEqual(['glb/scale', 'Hips']);
    const bare = await faultOf(
      changed(good, (j) => {
        delete j['skins'];
        j['nodes'] = [{ name: 'box', mesh: 0 }] as never;
        j['scenes'] = [{ nodes: [0] }] as never;
      }),
    );
    expect(bare.code).toBe('skeleton/none');
  });

  it('reads a matrix as the same place, turn and size, and refuses what it shears or mirrors', async () => {
    const good = await makeGlb(model, { scale: 2, turn: [0.5, 0.5, 0.5, 0.5], at: [0.1, 0.2, 0.3] });
    interface Stand {
      name: string;
      matrix?: number[];
      scale?: number[];
      rotation?: number[];
      translation?: number[];
    }
    const stand = (j: Record<string, never>): Stand => (j['nodes'] as never as Stand[]).find((n) => n.name === 'stand')!;
    const stated = (matrix: number[]): Uint8Array =>
      changed(good, (j) => {
        const node = stand(j);
        node.scale = node.rotation = node.translation = undefined;
        node.matrix = matrix;
      });
    // A third of a turn about (1, 1, 1) takes x to y, y to z, z to x.
    const same = await readMotionFile(stated([0, 2, 0, 0, 0, 0, 2, 0, 2, 0, 0, 0, 0.1, 0.2, 0.3, 1]), 'a.glb');
    const plain = await readMotionFile(good, 'a.glb');
    same.skeleton.restT.forEach((v, i) => expect(v).toBeCloseTo(plain.skeleton.restT[i], 6));
    same.skeleton.restR.forEach((v, i) => expect(Math.abs(v)).toBeCloseTo(Math.abs(plain.skeleton.restR[i]), 6));
    expect((await faultOf(stated([1, 0, 0, 0, 0.6, 0.8, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]))).message).toContain('sheared');
    expect((await faultOf(stated([-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]))).message).toContain('mirrored');
  });

  it('answers any damage with a fault or a usable file, never otherwise', async () => {
    const good = await makeGlb(model);
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 1, max: 10 }), async (seed, hits) => {
        const rng = random(seed);
        let bytes = good.slice();
        const textEnd = 20 + new DataView(good.buffer).getUint32(12, true);
        for (let i = 0; i < hits; i++) {
          const inText = rng.next() < 0.7;
          const at = inText ? rng.integer(20, textEnd - 1) : rng.integer(0, bytes.length - 1);
          // Digits for digits keep the document readable and make its numbers wrong.
          if (inText && bytes[at] >= 48 && bytes[at] <= 57) bytes[at] = 48 + rng.integer(0, 9);
          else if (rng.next() < 0.3) bytes[at] = rng.integer(0, 255);
          else if (rng.next() < 0.05) bytes = bytes.slice(0, at);
        }
        try {
          const file = await readMotionFile(bytes, 'damaged.glb');
          expect(file.skeleton.names.length).toBeGreaterThan(1);
        } catch (error) {
          expect(error).toBeInstanceOf(FaultError);
        }
      }),
      { numRuns: 150, seed: 2 },
    );
  });
});

describe('writing GLB', () => {
  it('adds the motion to the character’s own file, read back within 0.1 mm, and keeps everything else', async () => {
    const performer = performerOf(shape, walk(shape, { seed: 2, frames: 40 }));
    for (const options of [{}, { scale: 100, turn: [0, 0, 0, 1] }, { jointScale: { joint: 1, factor: 2.5 } }] as GlbOptions[]) {
      const bytes = await makeGlb(model, options);
      const file = await readGlb(bytes, 'body.glb');
      const character = prepareRig(file);
      const { clip } = solve(makePairing(performer.rig, character), performer.clip, DEFAULT_SOLVE);
      const out = writeMotion(file, character.basis, clip, 'glb');
      const written = await readGlb(out, 'out.glb');
      const back = prepareRig(written);
      const a = new ClipReader(character.skeleton, clip);
      const b = new ClipReader(back.skeleton, clipOf(written, back));
      expect(written.clips[0].frames).toBe(40);
      for (let f = 0; f < 40; f += 3) a.at(f).positions.forEach((x, i) => expect(Math.abs(b.at(f).positions[i] - x)).toBeLessThan(1e-4));
      const [before, after] = [bytes, out].map((file) => readContainer(file).json as Record<string, unknown[]>);
      for (const part of ['nodes', 'skins', 'meshes', 'scenes']) expect(after[part]).toEqual(before[part]);
      expect(after['accessors'].slice(0, before['accessors'].length)).toEqual(before['accessors']);
    }
  });

  it('states a GLB skeleton as BVH, which knows no rest rotations, with the same positions', async () => {
    const performer = performerOf(shape, walk(shape, { seed: 3, frames: 30 }));
    const file = await readGlb(await makeGlb(model, { scale: 10 }), 'body.glb');
    const character = prepareRig(file);
    const { clip } = solve(makePairing(performer.rig, character), performer.clip, DEFAULT_SOLVE);
    const text = await readMotionFile(writeMotion(file, character.basis, clip, 'bvh'), 'out.bvh');
    const a = new ClipReader(character.skeleton, clip);
    const b = new ClipReader(text.skeleton, text.clips[0]);
    for (let f = 0; f < 30; f += 5) {
      const [p, q] = [a.at(f).positions, b.at(f).positions];
      text.skeleton.names.forEach((name, j) => {
        const k = character.skeleton.names.indexOf(name);
        for (let c = 0; c < 3; c++)
          expect(q[j * 3 + c])
            .withContext(name)
            .toBeCloseTo(p[k * 3 + c], 4);
      });
    }
  });
});
