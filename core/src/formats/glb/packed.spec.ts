import { WebIO, type Accessor } from '@gltf-transform/core';
import { makeFile, makeGlb, packDraco, packMeshopt, randomShape } from '../../testing';
import { prepareRig } from '../../rig';
import { makePairing } from '../../match';
import { solve } from '../../solve';
import { performerOf, walk } from '../../testing';
import { packGltf, readMotionFile, useDraco, writeMotion, type MotionFile } from '..';
import { readContainer, writeContainer } from './container';

const shape = randomShape(12, { clavicles: true, spine: 3 });
const plainBody = (): Promise<Uint8Array> => makeGlb(makeFile(shape, { axes: 4 }).skeleton, { sheath: true, scale: 0.5 });

/** Where this runs under Node.js the packages of Draco are at hand; the browser loads its decoder by an address. */
const inNode = typeof (globalThis as { process?: { versions?: { node?: string } } }).process?.versions?.node === 'string';
interface Draco {
  readonly createEncoderModule: () => Promise<unknown>;
  readonly createDecoderModule: () => Promise<unknown>;
}
const draco = async (): Promise<Draco> => ((await import(['draco3d', 'gltf'].join(''))) as { default: Draco }).default;

/** Farthest that the points of two meshes are apart, point by point: packers may put them in another order. */
function apart(a: MotionFile, b: MotionFile): number {
  const [p, q] = [a.skin!.positions, b.skin!.positions];
  let worst = 0;
  for (let i = 0; i < p.length; i += 3) {
    let near = Infinity;
    for (let j = 0; j < q.length; j += 3)
      near = Math.min(near, (p[i] - q[j]) ** 2 + (p[i + 1] - q[j + 1]) ** 2 + (p[i + 2] - q[j + 2]) ** 2);
    worst = Math.max(worst, near);
  }
  return Math.sqrt(worst);
}

describe('a packed GLB file', () => {
  let plain: MotionFile;
  beforeAll(async () => (plain = await readMotionFile(await plainBody(), 'plain.glb')));

  const same = (file: MotionFile, off: number): void => {
    expect(file.warnings).toEqual([]);
    expect(file.skeleton.names).toEqual(plain.skeleton.names);
    expect([apart(file, plain), apart(plain, file)].every((by) => by < off)).toBeTrue();
    const [rig, own] = [prepareRig(file), prepareRig(plain)];
    rig.feet.forEach((foot, i) => expect(foot.ankleHeight).toBeCloseTo(own.feet[i].ankleHeight, 3));
  };

  for (const name of ['EXT_meshopt_compression', 'KHR_meshopt_compression'])
    it(`by ${name} gives its joints, its skin and its soles, and is written with its mesh as it came`, async () => {
      const bytes = await packMeshopt(await plainBody(), name);
      const file = await readMotionFile(bytes, 'packed.glb');
      same(file, 1e-6);
      const { rig: performer, clip } = performerOf(shape, walk(shape, { frames: 20 }));
      const rig = prepareRig(file);
      const written = writeMotion(file, rig.basis, solve(makePairing(performer, rig), clip).clip, 'glb');
      const [before, after] = [readContainer(bytes), readContainer(written)];
      expect(after.bin!.subarray(0, before.bin!.length)).toEqual(before.bin!);
      const again = await readMotionFile(written, 'again.glb');
      expect(again.clips[0].frames).toBe(20);
      same(again, 1e-6);
    });

  it('by meshopt in a document with parts is packed into one file, its stand-in left out', async () => {
    const { json, bin } = readContainer(await packMeshopt(await plainBody()));
    const document = JSON.parse(JSON.stringify(json)) as { buffers: { uri?: string }[] };
    document.buffers[0].uri = 'body.bin';
    const packed = packGltf(new TextEncoder().encode(JSON.stringify(document)), 'body.gltf', (part) =>
      part === 'body.bin' ? bin : undefined,
    );
    same(await readMotionFile(packed, 'body.gltf'), 1e-6);
  });

  it('by Draco gives the same, as far as its steps are fine', async () => {
    if (!inNode) return pending('the packages of Draco are read by Node.js');
    useDraco(async () => (await draco()).createDecoderModule());
    // With a normal at each point, as most meshes have: it is packed too, and not read.
    const io = new WebIO();
    const document = await io.readBinary(await plainBody());
    const [primitive] = document.getRoot().listMeshes()[0].listPrimitives();
    const up = Float32Array.from({ length: primitive.getAttribute('POSITION')!.getCount() * 3 }, (_, i) => (i % 3 === 1 ? 1 : 0));
    primitive.setAttribute('NORMAL', document.createAccessor().setType('VEC3').setArray(up).setBuffer(document.getRoot().listBuffers()[0]));
    const bytes = await packDraco(await io.writeBinary(document), await (await draco()).createEncoderModule());
    expect((readContainer(bytes).json as { extensionsRequired: string[] }).extensionsRequired).toContain('KHR_draco_mesh_compression');
    same(await readMotionFile(bytes, 'packed.glb'), 1e-3);
    // Without the mesh nothing need be unpacked.
    useDraco(() => Promise.reject(new Error('no decoder')));
    expect((await readMotionFile(bytes, 'packed.glb', false)).skeleton.names).toEqual(plain.skeleton.names);
    await expectAsync(readMotionFile(bytes, 'packed.glb')).toBeRejectedWithError(
      /KHR_draco_mesh_compression, and its decoder could not be loaded/,
    );
    useDraco(async () => (await draco()).createDecoderModule());
  });

  it('with sparse accessors, two skins on one body and morph targets with normals is read as it stands', async () => {
    const io = new WebIO();
    const document = await io.readBinary(await plainBody());
    const root = document.getRoot();
    const [buffer] = root.listBuffers();
    const [mesh] = root.listMeshes();
    const [primitive] = mesh.listPrimitives();
    const points = primitive.getAttribute('POSITION')!;
    const zero = (): Accessor =>
      document
        .createAccessor()
        .setType('VEC3')
        .setArray(new Float32Array(points.getCount() * 3).fill(0.01, 30, 60))
        .setBuffer(buffer);
    const target = document
      .createPrimitiveTarget('smile')
      .setAttribute('POSITION', zero().setSparse(true))
      .setAttribute('NORMAL', zero().setSparse(true));
    primitive.addTarget(target);
    // The same mesh once more, on a skin of its own that names the joints in another order.
    const [skin] = root.listSkins();
    const other = document.createSkin();
    [...skin.listJoints()].reverse().forEach((joint) => other.addJoint(joint));
    const last = skin.listJoints().length - 1;
    const order = document.createAccessor().setType('MAT4').setBuffer(buffer);
    const from = skin.getInverseBindMatrices()!.getArray()!;
    order.setArray(Float32Array.from({ length: from.length }, (_, i) => from[(last - (i >> 4)) * 16 + (i & 15)]));
    other.setInverseBindMatrices(order);
    const swapped = document.createAccessor().setType('VEC4').setBuffer(buffer);
    swapped.setArray(Uint8Array.from(primitive.getAttribute('JOINTS_0')!.getArray()! as ArrayLike<number>, (joint) => last - joint));
    const twin = document
      .createPrimitive()
      .setAttribute('POSITION', points)
      .setAttribute('JOINTS_0', swapped)
      .setAttribute('WEIGHTS_0', primitive.getAttribute('WEIGHTS_0'))
      .setIndices(primitive.getIndices());
    root.listScenes()[0].addChild(document.createNode('twin').setMesh(document.createMesh('twin').addPrimitive(twin)).setSkin(other));
    const bytes = await io.writeBinary(document);
    expect(JSON.stringify(readContainer(bytes).json)).toContain('"sparse"');
    const file = await readMotionFile(bytes, 'many.glb');
    expect(file.skin!.positions.length).toBe(2 * plain.skin!.positions.length);
    same(file, 1e-6);
    same(await readMotionFile(await packMeshopt(await plainBody()), 'packed.glb'), 1e-6);
  });

  it('that is damaged, or wants more than it may, is refused and says what is wrong', async () => {
    const bytes = await packMeshopt(await plainBody());
    const { json, bin } = readContainer(bytes);
    const changed = (change: (packed: Record<string, number>) => void): Uint8Array => {
      const copy = JSON.parse(JSON.stringify(json)) as { bufferViews: { extensions: Record<string, Record<string, number>> }[] };
      change(copy.bufferViews[0].extensions['EXT_meshopt_compression']);
      return writeContainer(copy, bin!);
    };
    for (const [change, said] of [
      [(packed) => (packed['byteLength'] = 1e9), /runs past the end/],
      [(packed) => (packed['buffer'] = 1), /runs past the end/],
      [(packed) => (packed['count'] = 3e9), /takes more than 320 MB/],
      [(packed) => (packed['byteStride'] = 0), /not valid/],
      [(packed) => (packed['byteLength'] = 3), /is damaged/],
    ] as [(packed: Record<string, number>) => void, RegExp][])
      await expectAsync(readMotionFile(changed(change), 'x.glb')).toBeRejectedWithError(said);
  });

  it('with an extension that is not known says so by its name, and those that change no shape are passed over', async () => {
    const { json, bin } = readContainer(await plainBody());
    const requiring = (...names: string[]): Uint8Array =>
      writeContainer({ ...(json as object), extensionsUsed: names, extensionsRequired: names }, bin!);
    const file = await readMotionFile(requiring('ACME_folded_geometry', 'KHR_texture_transform'), 'x.glb');
    expect(file.warnings.map(({ code, message }) => `${code} ${message}`).join()).toMatch(
      /glb\/extension .*ACME_folded_geometry, which is not read/,
    );
    expect((await readMotionFile(requiring('KHR_texture_transform', 'KHR_mesh_quantization', 'VRM'), 'x.glb')).warnings).toEqual([]);
  });
});
