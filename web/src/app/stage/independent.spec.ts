import { AnimationMixer, type AnimationClip, type Object3D, Vector3 } from 'three';
import { BVHLoader } from 'three/addons/loaders/BVHLoader.js';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { ClipReader, DEFAULT_RECIPE, readMotionFile, runJob, type Outcome, type Recipe } from '@hollow-stride/core';
import { makeFile, makeGlb, randomShape, walk } from '../../../../core/src/testing';

/** Delivered files as a reader of another make understands them. */
describe('delivered files, read by another program', () => {
  const shape = randomShape(14, { clavicles: true, spine: 3 });
  const take = makeFile(shape, { name: 'walk.bvh', metres: 0.01 }, walk(shape, { seed: 14, frames: 90 }));
  const other = randomShape(15, { clavicles: true, spine: 2 });

  async function delivered(delivery: Partial<Recipe['delivery']>): Promise<Outcome> {
    const character = await readMotionFile(await makeGlb(makeFile(other, { axes: 3 }).skeleton, { sheath: true, scale: 0.01 }), 'body.glb');
    return runJob({ take, clip: 0, character, recipe: { ...DEFAULT_RECIPE, delivery: { ...DEFAULT_RECIPE.delivery, ...delivery } } });
  }

  /** Farthest that a joint is from where it was solved, metres, over all frames. */
  function worst({ output, ready }: Outcome, root: Object3D, clip: AnimationClip, metres: number): number {
    const mixer = new AnimationMixer(root);
    mixer.clipAction(clip).play();
    const { skeleton } = ready.character;
    const reader = new ClipReader(skeleton, output.clip);
    const joints = skeleton.names.map((name) => root.getObjectByName(name)!);
    expect(joints.every(Boolean)).toBeTrue();
    const at = new Vector3();
    let most = 0;
    // The very last moment is the first again for a mixer that repeats.
    for (let f = 0; f < output.clip.frames - 1; f += 7) {
      mixer.setTime(f * output.clip.frameTime + 1e-6);
      root.updateMatrixWorld(true);
      const { positions } = reader.at(f);
      joints.forEach((joint, j) => {
        joint.getWorldPosition(at).multiplyScalar(metres);
        most = Math.max(most, Math.hypot(at.x - positions[j * 3], at.y - positions[j * 3 + 1], at.z - positions[j * 3 + 2]));
      });
    }
    return most;
  }

  it('play as they were solved: GLB whole, bare, and with fewer keys', async () => {
    for (const delivery of [{}, { bare: true }, { tolerance: 1 }]) {
      const outcome = await delivered(delivery);
      const gltf = await new GLTFLoader().parseAsync(outcome.bytes.slice().buffer, '');
      const clip = gltf.animations.at(-1)!;
      expect(worst(outcome, gltf.scene, clip, 1))
        .withContext(JSON.stringify(delivery))
        .toBeLessThan(5e-4);
    }
  });

  it('play as they were solved: BVH in centimetres', async () => {
    const outcome = await delivered({ format: 'bvh', unit: 0.01 });
    const { skeleton, clip } = new BVHLoader().parse(new TextDecoder().decode(outcome.bytes));
    expect(worst(outcome, skeleton.bones[0], clip, 0.01)).toBeLessThan(5e-4);
  });
});
