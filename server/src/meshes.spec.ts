import * as v from 'valibot';
import { meshSchema, type MeshJson } from '@hollow-stride/contract';
import { DEFAULT_FIT } from '@hollow-stride/core';
import { clayBody, clayObj, clayShape, makeFile, makeGlb, randomShape } from '@hollow-stride/core/testing/index';
import { readManifest } from './backup/write';
import { Served } from './testing/serve';

const body = clayBody(clayShape(2), 0.03);
const obj = clayObj(body) as Uint8Array<ArrayBuffer>;

describe('meshes without a skeleton', () => {
  let served: Served;
  let mesh: MeshJson;

  beforeAll(async () => {
    served = await Served.start();
    const character = makeFile(randomShape(5, { spine: 3, clavicles: true })).skeleton;
    const { files } = await served.upload(
      ['clay.obj', obj],
      ['body.glb', (await makeGlb(character, { sheath: true })) as Uint8Array<ArrayBuffer>],
      ['bad.obj', 'v 0 0 0\nf 1 2 3\n'],
    );
    const byName = new Map(files.map((file) => [file.fileName, file]));
    expect(byName.get('clay.obj')?.meshes.length).toBe(1);
    expect(byName.get('body.glb')?.characters.length).toBe(1);
    expect(byName.get('bad.obj')?.error).toEqual(jasmine.objectContaining({ code: 'obj/syntax' }));
    [mesh] = byName.get('clay.obj')!.meshes;
    const [{ id }] = byName.get('body.glb')!.characters;
    const answer = await served.send('POST', '/api/meshes', { character: id });
    expect(v.parse(meshSchema, await answer.json()).facts.joints).toBeGreaterThan(10);
  });
  afterAll(() => served.stop());

  it('are on the rack with what they hold and come back as they were', async () => {
    const { meshes, characters } = await served.rack();
    expect(mesh.choices).toEqual(DEFAULT_FIT);
    // One of them is the mesh of a character, to be bound anew.
    expect(meshes.map(({ fileName }) => fileName)).toEqual(['clay.obj', 'body.glb']);
    expect(meshes[1].file).toBe(characters[0].file);
    expect([mesh.facts.shells, mesh.facts.joints, mesh.facts.triangles]).toEqual([1, 0, body.triangles.length / 3]);
    const bytes = new Uint8Array(await (await fetch(`${served.base}/api/files/${mesh.file}`)).arrayBuffer());
    expect(bytes).toEqual(obj);
  });

  it('keep what was decided about their skeleton, and refuse an edit of an older version', async () => {
    const choices = { ...DEFAULT_FIT, landmarks: { 'left.knee': [0.1, 0.5, 0] as [number, number, number] } };
    const edit = (base: number): Promise<Response> => served.send('PATCH', `/api/meshes/${mesh.id}/fit`, { base, choices });
    const answer = await edit(mesh.version);
    expect(v.parse(meshSchema, await answer.json()).choices).toEqual(choices);
    expect((await edit(mesh.version)).status).toBe(409);
    expect(
      (await served.send('PATCH', `/api/meshes/${mesh.id}/fit`, { base: 2, choices: { landmarks: { nose: [0, 0, 0] } } })).status,
    ).toBe(400);
  });

  it('are refused of what is no character', async () => {
    expect((await served.send('POST', '/api/meshes', { character: mesh.id })).status).toBe(404);
  });

  it('are in a backup, whole, and brought in again with what was decided', async () => {
    const before = await readManifest(served.services.library.db);
    expect(before.meshes.length).toBe(2);
    const archive = new Uint8Array(await (await fetch(`${served.base}/api/backup`)).arrayBuffer());
    const other = await Served.start();
    try {
      await other.upload(['rack.zip', archive]);
      const { meshes } = await other.rack();
      expect(meshes.map(({ fileName, choices }) => [fileName, choices])).toEqual(
        (await served.rack()).meshes.map(({ fileName, choices }) => [fileName, choices]),
      );
    } finally {
      await other.stop();
    }
  });
});
