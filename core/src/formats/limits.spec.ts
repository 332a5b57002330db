import { FaultError } from '../errors';
import { makeFile, makeGlb, randomShape, walk } from '../testing';
import { shortened, wellFormed } from '../text';
import { packGltf, readMotionFile, writeBvh, type BvhLayout } from '.';
import { MAX_MOTION_BYTES, MotionBudget } from './limits';
import { readContainer, writeContainer } from './glb/container';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const SHAPE = randomShape(5, { spine: 2, neck: 1, clavicles: true });

async function faultOf(work: Promise<unknown> | (() => unknown)): Promise<{ code: string; message: string; where: object }> {
  try {
    await (typeof work === 'function' ? work() : work);
  } catch (error) {
    if (error instanceof FaultError) return error.fault;
    throw error;
  }
  throw new Error('nothing was refused');
}

describe('text from outside', () => {
  it('is made such that it can be stored, and keeps the lines of a note', () => {
    expect(wellFormed('a\u0000b\u0007c\ud800d🕯')).toBe('a b c\ufffdd🕯');
    expect(wellFormed('one\r\ntwo\tthree', true)).toBe('one\ntwo\tthree');
    expect(wellFormed('one\ntwo')).toBe('one two');
    expect(wellFormed('\udc00\ud800')).toBe('\ufffd\ufffd');
  });

  it('is cut between letters, never within one', () => {
    expect(shortened('tide', 9)).toBe('tide');
    expect(shortened('ab🕯cd', 3)).toBe('ab');
    expect(shortened('ab🕯cd', 4)).toBe('ab🕯');
    // A family of four is one letter of eleven units.
    const family = '\u{1F468}\u200d\u{1F469}\u200d\u{1F467}\u200d\u{1F466}';
    expect([shortened(`x${family}`, 11), shortened(`x${family}`, 12)]).toEqual(['x', `x${family}`]);
    expect(shortened('e\u0301e\u0301', 3)).toBe('e\u0301');
  });
});

describe('limits of what is read', () => {
  const take = makeFile(SHAPE, { metres: 0.01 }, walk(SHAPE, { frames: 4 }));
  const bvh = new TextDecoder().decode(writeBvh(take.skeleton, take.clips[0], take.layout as BvhLayout));

  it('refuse numbers beyond any body, with line, joint and frame', async () => {
    const far = bvh.replace(/(Frame Time:.*\n.*\n)\S+ \S+/, '$10 -3e9');
    const line = far.slice(0, far.indexOf('-3e9')).split('\n').length;
    const fault = await faultOf(readMotionFile(bytes(far), 'far.bvh'));
    expect(fault.where).toEqual({ file: 'far.bvh', line, joint: take.skeleton.names[0], frame: 2 });
    expect(fault.message).toContain('"-3e9" is beyond any body');
    expect((await faultOf(readMotionFile(bytes(bvh.replace(/OFFSET \S+/, 'OFFSET 1e12')), 'o.bvh'))).code).toBe('bvh/number');
  });

  it('refuse a place that only scale carries away', async () => {
    const glb = await makeGlb(take.skeleton, { scale: 1e-3 });
    const { json, bin } = readContainer(glb);
    const nodes = (json as { nodes: { name?: string; translation?: number[] }[] }).nodes;
    nodes.find(({ name }) => name === take.skeleton.names[3])!.translation = [1e30, 0, 0];
    const fault = await faultOf(readMotionFile(writeContainer(json, bin!), 'b.glb'));
    expect([fault.code, fault.where]).toEqual(['clip/not-finite', { file: 'b.glb', joint: take.skeleton.names[3], frame: undefined }]);
  });

  it('refuse joint names of hundreds of letters, and mend those that nothing could store', async () => {
    const long = bvh.replace(/ROOT \S+/, `ROOT ${'n'.repeat(300)}`);
    const fault = await faultOf(readMotionFile(bytes(long), 'l.bvh'));
    expect([fault.code, fault.message]).toEqual(['skeleton/names', jasmine.stringMatching(/300 letters/) as never]);
    const { skeleton } = await readMotionFile(bytes(bvh.replace(/ROOT \S+/, 'ROOT a\u0001b')), 'c.bvh');
    expect(skeleton.names[0]).toBe('a b');
  });

  it('count what motions take before it is taken', () => {
    const budget = new MotionBudget();
    const joints = 100;
    const frames = Math.floor(MAX_MOTION_BYTES / (joints * 16 + 12) / 2);
    budget.take('one', frames, joints, 1);
    budget.take('two', frames, joints, 1);
    expect(() => budget.take('three', 10, joints, 1)).toThrowError(/with animation "three" .* the motions take 256 MB; at most 256 MB/);
    expect(() => new MotionBudget().take('none', NaN, 1, 1)).toThrow();
  });

  it('count accessors that take room which the file does not', async () => {
    const { json, bin } = readContainer(await makeGlb(take.skeleton));
    const document = json as { accessors: object[] };
    for (let i = 0; i < 40; i++) document.accessors.push({ componentType: 5126, type: 'MAT4', count: 150_000 });
    const fault = await faultOf(readMotionFile(writeContainer(json, bin!), 'a.glb'));
    expect(fault.message).toMatch(/the accessors take \d+ MB; at most 320 MB/);
  });

  it('hold a document’s parts to the size of a file', async () => {
    const part = new Uint8Array(100 * 2 ** 20);
    const uris = ['a.bin', 'b.bin', 'c.bin'];
    const document = (list: readonly string[]): Uint8Array =>
      bytes(JSON.stringify({ asset: { version: '2.0' }, buffers: list.map((uri) => ({ byteLength: 4, uri })) }));
    const contents = new Map(uris.map((uri) => [uri, part.slice()]));
    expect((await faultOf(() => packGltf(document(uris), 'd.gltf', (uri) => contents.get(uri)))).message).toContain(
      'parts are 300 MB together',
    );
    expect(packGltf(document(['a.bin', 'a.bin', 'a.bin']), 'd.gltf', () => new Uint8Array(1000)).length).toBeLessThan(1500);
  });
});
