import { WebIO } from '@gltf-transform/core';
import type { Clip } from '../clip';
import { readMotionFile, writeGlb, type GlbLayout } from '../formats';
import { DEFAULT_BY_JOINT, DEFAULT_RECIPE, makeLayer } from '../recipe';
import { makeFile, makeGlb, randomMachine, randomShape, runMachine, stateMachine, walk } from '../testing';
import { runJob } from './job';

/** Where a joint of a GLB file is in a frame of its last animation, as the format says: by matrices with scale. */
async function worldOf(bytes: Uint8Array): Promise<(joint: string, frame: number) => number[]> {
  const root = (await new WebIO().readBinary(bytes)).getRoot();
  const channels = root.listAnimations().at(-1)!.listChannels();
  return (joint, frame) => {
    for (const channel of channels) {
      const output = channel.getSampler()!.getOutput()!;
      const value: number[] = [];
      output.getElement(Math.min(frame, output.getCount() - 1), value);
      const node = channel.getTargetNode()!;
      if (channel.getTargetPath() === 'rotation') node.setRotation(value as [number, number, number, number]);
      else if (channel.getTargetPath() === 'translation') node.setTranslation(value as [number, number, number]);
      else node.setScale(value as [number, number, number]);
    }
    return root
      .listNodes()
      .find((node) => node.getName() === joint)!
      .getWorldTranslation();
  };
}

describe('joints that grow in a take', () => {
  const machine = randomMachine(31);
  const SIZE = 0.5;

  it('grow on the character, in a file of its own format and as places in one that knows no sizes', async () => {
    const [a, b] = [stateMachine(machine, { axes: 4 }), stateMachine(machine, { axes: 9, size: SIZE })];
    const crane = await readMotionFile(await makeGlb(a.skeleton, { scale: 10 }), 'crane.glb');
    const run = runMachine(a, 5, 60);
    const sizes = [1, 6].map((joint) => ({ joint, values: Float32Array.from({ length: 180 }, (_, i) => 1 + Math.floor(i / 3) / 60) }));
    const clip: Clip = { ...run, moves: run.moves.filter(({ joint }) => joint === 0), sizes };
    const take = await readMotionFile(writeGlb(crane.skeleton, clip, crane.layout as GlbLayout), 'crane.glb');
    expect(take.clips.at(-1)!.sizes!.map(({ joint }) => joint)).toEqual([1, 6]);
    const character = await readMotionFile(await makeGlb(b.skeleton, { scale: 3 }), 'model.glb');
    const recipe = { ...DEFAULT_RECIPE, pairing: { ...DEFAULT_RECIPE.pairing, byJoint: DEFAULT_BY_JOINT } };
    // A layer over it takes nothing of it away.
    const layers = [makeLayer({ name: 'calm', strength: 0, does: { kind: 'calm', parts: ['left.arm'] } })];
    const job = { take, clip: take.clips.length - 1, character, recipe: { ...recipe, layers } };
    const { bytes, report } = runJob(job);
    expect(report.verdict.figures.find(({ id }) => id === 'joints.sizes')!.mark).toBe('good');
    const [theirs, mine] = [await worldOf((take.layout as GlbLayout).bytes), await worldOf(bytes)];
    const asBvh = runJob({ ...job, recipe: { ...job.recipe, delivery: { ...recipe.delivery, format: 'bvh' } } });
    expect(asBvh.output.clip.sizes).toBeUndefined();
    const baked = await readMotionFile(asBvh.bytes, 'model.bvh');
    const last = baked.clips[0];
    for (const frame of [0, 30, 59]) {
      for (const { name } of machine.joints) {
        // The files' own units: tenths of a metre here, thirds there.
        const [p, q] = [theirs(name, frame), mine(name, frame)];
        expect(Math.hypot(...p.map((v, c) => v * SIZE - q[c])))
          .withContext(`${name} ${frame}`)
          .toBeLessThan(2e-4);
      }
    }
    const moved = last.moves.map(({ joint }) => baked.skeleton.names[joint]);
    const below = machine.joints.filter(({ parent }) => parent === 1).map(({ name }) => name);
    expect(below.every((name) => moved.includes(name))).toBeTrue();
  });

  it('are left as they are on a body, and it is said', () => {
    const shape = randomShape(32, { spine: 2, clavicles: true });
    const file = makeFile(shape, { name: 'walk.bvh' }, walk(shape, { seed: 32, frames: 60 }));
    const hand = file.skeleton.names.length - 1;
    const grown = { ...file, clips: [{ ...file.clips[0], sizes: [{ joint: hand, values: new Float32Array(180).fill(2) }] }] };
    const character = makeFile(randomShape(33, { spine: 2, clavicles: true }), { name: 'body.bvh' });
    const plain = runJob({ take: file, clip: 0, character, recipe: DEFAULT_RECIPE });
    const { report, transfer } = runJob({ take: grown, clip: 0, character, recipe: DEFAULT_RECIPE });
    expect(transfer.clip.rotations).toEqual(plain.transfer.clip.rotations);
    expect(report.cautions.map(({ where, message }) => [where.joint, message.includes('grows')])).toContain([
      file.skeleton.names[hand],
      true,
    ]);
  });
});
