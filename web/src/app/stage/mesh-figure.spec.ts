import { type Mesh, type MeshLambertMaterial, SkinnedMesh, Vector3 } from 'three';
import { ClipReader, clipOf, prepareRig, readMotionFile } from '@hollow-stride/core';
import { makeFile, makeGlb, randomShape, walk } from '../../../../core/src/testing';
import { displayBody } from '../solver/display';
import { MeshFigure } from './mesh-figure';

describe('a mesh on the stage', () => {
  const shape = randomShape(31, { clavicles: true, spine: 2 });
  const made = makeFile(shape, { axes: 9 }, walk(shape, { seed: 31, frames: 40 }));
  const motion = clipOf(made, prepareRig(made));

  /** The same body as a file with a skin, in any unit, its motion beside it. */
  async function load(options: Parameters<typeof makeGlb>[1]) {
    const bytes = await makeGlb(made.skeleton, { ...options, sheath: true });
    const file = await readMotionFile(bytes, 'body.glb');
    const rig = prepareRig(file);
    const body = displayBody(rig, file, 'hash');
    const figure = await MeshFigure.load(bytes.slice().buffer, body.mesh!);
    const skins: SkinnedMesh[] = [];
    figure.group.traverse((object) => object instanceof SkinnedMesh && skins.push(object));
    return { file, rig, figure, skins, reader: new ClipReader(rig.skeleton, motion) };
  }

  /** Every vertex of the skin where the graphics card would put it, metres. */
  function placesOf(skins: readonly SkinnedMesh[]): Vector3[] {
    return skins.flatMap((mesh) => {
      mesh.skeleton.update();
      return Array.from({ length: mesh.geometry.getAttribute('position').count }, (_, i) =>
        mesh.applyBoneTransform(i, new Vector3().fromBufferAttribute(mesh.geometry.getAttribute('position'), i)),
      );
    });
  }

  for (const [name, options] of [
    ['in metres', {}],
    ['in centimetres under a turned container', { scale: 0.01, turn: [Math.SQRT1_2, 0, 0, Math.SQRT1_2] as const }],
  ] as const) {
    it(`${name}: is moved by the poses of its joints as the core moves its skin`, async () => {
      const { file, rig, figure, skins, reader } = await load(options);
      const { skin } = file;
      const { metres } = rig.basis;
      for (const f of [0, 17, 39]) {
        const pose = reader.at(f);
        figure.pose(pose);
        const shown = placesOf(skins);
        // Each point of the core's skin, blended by hand from its joints' frames, must be one that is drawn.
        let worst = 0;
        for (let i = 0; i < skin!.joints.length; i += 7) {
          const at = new Vector3();
          for (let k = 0; k < 4; k++) {
            const joint = skin!.influences[i * 4 + k];
            if (joint < 0) break;
            const local = new Vector3().fromArray(skin!.locals, (i * 4 + k) * 3).multiplyScalar(metres);
            const [x, y, z, w] = pose.rotations.slice(joint * 4, joint * 4 + 4);
            const u = new Vector3(x, y, z);
            const t = u.clone().cross(local).multiplyScalar(2);
            local
              .add(t.clone().multiplyScalar(w))
              .add(u.clone().cross(t))
              .add(new Vector3().fromArray(pose.positions, joint * 3));
            at.addScaledVector(local, skin!.weights[i * 4 + k]);
          }
          worst = Math.max(worst, Math.min(...shown.map((place) => place.distanceTo(at))));
        }
        expect(worst).withContext(`frame ${f}`).toBeLessThan(1e-4);
      }
      figure.dispose();
    });
  }

  it('knows the skin about each joint, for framing', async () => {
    const { rig, figure } = await load({});
    const shin = figure.boxes[rig.roles.get('left.lowerLeg')!]!;
    const length = Math.hypot(...[0, 1, 2].map((c) => rig.skeleton.restT[rig.roles.get('left.foot')! * 3 + c]));
    expect(shin.getSize(new Vector3()).length()).toBeGreaterThan(0.5 * length);
    expect(figure.boxes.length).toBe(rig.skeleton.names.length);
    figure.dispose();
  });

  it('is seen through when it is veiled, and as before afterwards', async () => {
    const { figure } = await load({});
    const materials: MeshLambertMaterial[] = [];
    figure.group.traverse(
      (object) => 'material' in object && materials.push(...([(object as Mesh).material].flat() as MeshLambertMaterial[])),
    );
    const before = materials.map(({ opacity, transparent }) => [opacity, transparent]);
    figure.veil(true);
    figure.veil(true);
    for (const { opacity, transparent, depthWrite } of materials)
      expect([opacity < 0.5, transparent, depthWrite]).toEqual([true, true, false]);
    figure.veil(false);
    expect(materials.map(({ opacity, transparent }) => [opacity, transparent])).toEqual(before);
    figure.dispose();
  });
});
