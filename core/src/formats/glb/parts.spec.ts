import * as fc from 'fast-check';
import { labelFile, prepareRig } from '../../rig';
import { asFault } from '../../errors';
import { factsOf } from '../../job';
import { makeFile, makeGlb, randomShape } from '../../testing';
import { packGltf, partsOfGltf, readGlb, readMotionFile } from '..';
import { readContainer, writeContainer } from './container';

const shape = randomShape(19, { clavicles: true, spine: 3, neck: 1, fingers: 2 });
const model = makeFile(shape, { names: (role) => `q${[...role].reduce((h, c) => (h * 31 + c.charCodeAt(0)) % 9973, 3)}` }).skeleton;
const text = (json: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(json));

/** A GLB taken apart into a document and its parts. */
async function apart(): Promise<{ glb: Uint8Array; json: Record<string, unknown>; bin: Uint8Array }> {
  const glb = await makeGlb(model);
  const { json, bin } = readContainer(glb);
  return { glb, json: json as Record<string, unknown>, bin: bin! };
}

describe('a glTF document with parts', () => {
  it('reads as the same file in one piece, its pictures packed too', async () => {
    const { glb, json, bin } = await apart();
    const picture = Uint8Array.of(0x89, 0x50, 1, 2, 3);
    const document = text({
      ...json,
      buffers: [{ byteLength: bin.length, uri: './my%20body.bin' }],
      images: [{ uri: 'coat.png' }],
    });
    expect(partsOfGltf(document, 'a.gltf')).toEqual(['my body.bin', 'coat.png']);
    const packed = packGltf(document, 'a.gltf', (path) => ({ 'my body.bin': bin, 'coat.png': picture })[path]);
    const [one, two] = [await readGlb(glb, 'a'), await readGlb(packed, 'a')];
    expect(two.skeleton).toEqual(one.skeleton);
    expect(two.skin).toEqual(one.skin);
    const inside = readContainer(packed);
    const { images, bufferViews } = inside.json as {
      images: { bufferView: number; mimeType: string }[];
      bufferViews: { byteOffset: number; byteLength: number }[];
    };
    const view = bufferViews[images[0].bufferView];
    expect(images[0].mimeType).toBe('image/png');
    expect([...inside.bin!.subarray(view.byteOffset, view.byteOffset + view.byteLength)]).toEqual([...picture]);
  });

  it('reads alone when its parts are inside, and names each part that is missing', async () => {
    const { json, bin } = await apart();
    const inside = text({
      ...json,
      buffers: [{ byteLength: bin.length, uri: `data:application/octet-stream;base64,${btoa(String.fromCharCode(...bin))}` }],
    });
    expect((await readMotionFile(inside, 'a.gltf')).skeleton.names.length).toBe(model.names.length);
    const outside = text({ ...json, buffers: [{ byteLength: bin.length, uri: 'a.bin' }], images: [{ uri: 'b.png' }] });
    await expectAsync(readMotionFile(outside, 'a.gltf')).toBeRejectedWithError(/parts are missing: a\.bin, b\.png/);
    await expectAsync(readMotionFile(text({ hello: 1 }), 'a.json')).toBeRejectedWithError(/not a glTF document/);
  });

  it('never crashes on documents that lie', () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.jsonValue(), (buffers, views) => {
        try {
          packGltf(text({ asset: {}, buffers, bufferViews: views, images: buffers }), 'x', () => new Uint8Array(8));
        } catch (error) {
          expect(asFault(error).code).toMatch(/^(gltf|glb|file)\//);
        }
      }),
      { numRuns: 200, seed: 2 },
    );
  });
});

describe('an avatar with its own body map', () => {
  const BONES: Record<string, string> = {
    hips: 'hips',
    'spine.1': 'spine',
    'spine.2': 'chest',
    'spine.3': 'upperChest',
    'neck.1': 'neck',
    head: 'head',
  };
  const PARTS: Record<string, string> = {
    clavicle: 'Shoulder',
    upperArm: 'UpperArm',
    lowerArm: 'LowerArm',
    hand: 'Hand',
    upperLeg: 'UpperLeg',
    lowerLeg: 'LowerLeg',
    foot: 'Foot',
    toes: 'Toes',
  };
  const boneOf = (role: string): string | undefined => {
    const [side, part, number] = role.split('.');
    if (role in BONES) return BONES[role];
    if (part in PARTS) return `${side}${PARTS[part]}`;
    if (/thumb|index/.test(part)) return `${side}${part[0].toUpperCase()}${part.slice(1)}${['Proximal', 'Distal'][Number(number) - 1]}`;
    return undefined;
  };

  it('is labelled by it, in both versions of the standard', async () => {
    const { json, bin } = await apart();
    const nodes = json['nodes'] as { name: string }[];
    const entries = shape.joints.flatMap(({ role }, j) => {
      const bone = boneOf(role);
      return bone ? [[bone, nodes.findIndex(({ name }) => name === model.names[j])] as const] : [];
    });
    const one = {
      VRMC_vrm: { specVersion: '1.0', humanoid: { humanBones: Object.fromEntries(entries.map(([b, node]) => [b, { node }])) } },
    };
    const zero = { VRM: { humanoid: { humanBones: entries.map(([bone, node]) => ({ bone, node })) } } };
    for (const extensions of [one, zero]) {
      const file = await readMotionFile(writeContainer({ ...json, extensions }, bin), 'a.vrm');
      const body = prepareRig(file);
      expect(file.format).toBe('vrm');
      for (const [role, joint] of body.roles)
        expect(file.skeleton.names[joint]).toBe(model.names[shape.joints.findIndex((s) => s.role === role)]);
      expect(body.roles.size).toBe(entries.length);
      expect([factsOf(file).format, factsOf(file).labelled]).toEqual(['vrm', 'file']);
    }
  });

  it('falls back on names and structure where the map is not whole', async () => {
    const { json, bin } = await apart();
    const extensions = { VRMC_vrm: { humanoid: { humanBones: { hips: { node: 1 } } } } };
    const file = await readMotionFile(writeContainer({ ...json, extensions }, bin), 'a.vrm');
    expect(labelFile(file).missing).toEqual([]);
  });
});
