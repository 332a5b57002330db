import { clipOf, prepareRig } from '../rig';
import { FaultError } from '../errors';
import { makePairing } from '../match';
import { solve } from '../solve';
import { makeFile, makeGlb, randomShape, walk } from '../testing';
import { readMotionFile, writeBvh, writeMotion, type BvhLayout, type MotionFile } from '.';

const shape = randomShape(61, { clavicles: true });
const made = makeFile(shape, {}, walk(shape, { frames: 24 }));

async function codeOf(work: () => unknown): Promise<string> {
  try {
    await work();
  } catch (error) {
    if (error instanceof FaultError) return error.fault.code;
    throw error;
  }
  return 'none';
}

describe('reading a file', () => {
  it('goes by what it holds and not by its name', async () => {
    const bvh = writeBvh(made.skeleton, made.clips[0], made.layout as BvhLayout);
    const glb = await makeGlb(made.skeleton);
    expect((await readMotionFile(bvh, 'named.glb')).layout.format).toBe('bvh');
    expect((await readMotionFile(glb, 'named.bvh')).layout.format).toBe('glb');
    expect((await readMotionFile(bvh, 'no ending')).clips[0].frames).toBe(24);
  });

  it('refuses nothing, other formats, and pictures that are called motions', async () => {
    const text = (t: string): Uint8Array => new TextEncoder().encode(t);
    expect(await codeOf(() => readMotionFile(new Uint8Array(0), 'a.bvh'))).toBe('file/empty');
    expect(await codeOf(() => readMotionFile(text('{"asset":{}}'), 'a.gltf'))).toBe('glb/json');
    expect(await codeOf(() => readMotionFile(text('{"name":"x"}'), 'a.json'))).toBe('file/unknown-format');
    expect(await codeOf(() => readMotionFile(Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10), 'a.bvh'))).toBe('file/unknown-format');
    expect(await codeOf(() => readMotionFile(text('glTF'), 'a.glb'))).toBe('glb/container');
  });
});

describe('writing a motion', () => {
  const performer = prepareRig(made);

  it('puts it into the unit and axes of the character’s file', async () => {
    const target = makeFile(randomShape(62, { clavicles: true }), { metres: 0.01 });
    const character = prepareRig(target);
    const { clip } = solve(makePairing(performer, character), clipOf(made, performer));
    const back = await readMotionFile(writeMotion(target, character.basis, clip, 'bvh'), 'out.bvh');
    const hips = clip.moves[0].values;
    back.clips[0].moves[0].values.forEach((v, i) => expect(v / 100).toBeCloseTo(hips[i], 5));
  });

  it('has no GLB file to write into for a character that came as BVH', async () => {
    expect(await codeOf(() => writeMotion(made, performer.basis, made.clips[0], 'glb'))).toBe('option');
  });

  it('writes no number that is not finite, and says where it is', async () => {
    const broken = { ...made.clips[0], rotations: made.clips[0].rotations.slice() };
    broken.rotations[(5 * shape.joints.length + 2) * 4] = NaN;
    const fault = (file: MotionFile): Promise<string> => codeOf(() => writeMotion(file, performer.basis, broken, file.layout.format));
    expect(await fault(made)).toBe('clip/not-finite');
    const glb = await readMotionFile(await makeGlb(made.skeleton), 'b.glb');
    expect(await codeOf(() => writeMotion(glb, performer.basis, { ...broken }, 'glb'))).toBe('clip/not-finite');
  });
});
