import { WebIO } from '@gltf-transform/core';
import { validateBytes } from 'gltf-validator';
import {
  DEFAULT_RECIPE,
  prepareRig,
  readMotionFile,
  REQUIRED_ROLES,
  restPose,
  runJob,
  type FigureId,
  type GlbLayout,
  type MotionFile,
  type Rig,
} from '@hollow-stride/core';
import { asTaken, depotMotions } from './depot';
import { makeMachines } from './index';
import { production } from './testing/production';

/** The red entries of docs/judged.md are known, with the figure that tells of each; no other may appear. */
const KNOWN: Readonly<Record<string, readonly FigureId[]>> = {
  // A head in a wide hat is where the hands would be; a long neck keeps short arms off the floor.
  cartwheel: ['places.hands', 'hover'],
  // Arms longer than shoulders are high over the floor bend; shorter ones do not reach it.
  crawl: ['likeness.arms', 'places.hands', 'hover'],
  // Hands that stay while a body with longer legs goes down.
  kneel: ['energy.upper'],
  // A capture's tremor in knees that stand still.
  point: ['knees'],
};

describe('the puppets of the demo', () => {
  const puppets = new Map<string, Rig & { file: MotionFile }>();

  beforeAll(async () => {
    for (const { name, bytes } of await production()) {
      if (!name.endsWith('.glb')) continue;
      const file = await readMotionFile(bytes, name);
      puppets.set(name, { ...prepareRig(file), file });
    }
  });

  it('are six, each of another build', () => {
    expect([...puppets.keys()].sort()).toEqual([
      'apprentice.glb',
      'bellkeeper.glb',
      'ferryman.glb',
      'heron.glb',
      'lantern-bearer.glb',
      'tide-king.glb',
    ]);
    const legs = [...puppets.values()].map((body) => body.legLength);
    expect(Math.max(...legs) / Math.min(...legs)).toBeGreaterThan(2);
  });

  it('show the outside of their skin: what a file calls the front of a triangle looks out; and are valid files', async () => {
    for (const { name, bytes } of [...(await production()), ...(await makeMachines())]) {
      if (!name.endsWith('.glb')) continue;
      // The file itself is as the standard asks.
      const { issues } = await validateBytes(bytes);
      expect(issues.messages.filter(({ severity }) => severity < 2))
        .withContext(name)
        .toEqual([]);
      const [mesh] = (await new WebIO().readBinary(bytes)).getRoot().listMeshes();
      for (const part of mesh.listPrimitives()) {
        const p = part.getAttribute('POSITION')!.getArray()!;
        const triangles = part.getIndices()!.getArray()!;
        // Six times the volume under each triangle, by its corners.
        let volume = 0;
        for (let t = 0; t < triangles.length; t += 3) {
          const [a, b, c] = [triangles[t] * 3, triangles[t + 1] * 3, triangles[t + 2] * 3];
          volume += p[a] * (p[b + 1] * p[c + 2] - p[b + 2] * p[c + 1]);
          volume += p[a + 1] * (p[b + 2] * p[c] - p[b] * p[c + 2]);
          volume += p[a + 2] * (p[b] * p[c + 1] - p[b + 1] * p[c]);
        }
        expect(volume).withContext(`${name} ${part.getMaterial()!.getName()}`).toBeGreaterThan(0);
      }
    }
  });

  it('have a mesh about every limb, near the bones that move it', () => {
    for (const [name, { file, roles, basis }] of puppets) {
      const { joints, positions } = file.skin!;
      const rest = restPose(file.skeleton).positions;
      const moved = new Set(joints);
      for (const role of REQUIRED_ROLES) expect(moved).withContext(`${name} ${role}`).toContain(roles.get(role)!);
      const reach = 0.75 / basis.metres;
      for (let p = 0; p < joints.length; p += 7) {
        const j = joints[p] * 3;
        const way = Math.hypot(positions[p * 3] - rest[j], positions[p * 3 + 1] - rest[j + 1], positions[p * 3 + 2] - rest[j + 2]);
        if (!(way < reach)) fail(`${name}: a point of ${file.skeleton.names[joints[p]]} is ${way * basis.metres} m away from it`);
      }
    }
  });

  it('stand with their soles on the floor, their mesh about them', () => {
    for (const [name, body] of puppets) {
      expect(body.sole.known).withContext(name).toBe('mesh');
      expect(body.sole.depth).withContext(name).toBeGreaterThanOrEqual(0);
      expect(body.feet.map(({ side }) => side).sort())
        .withContext(name)
        .toEqual(['left', 'right']);
      expect((body.file.layout as GlbLayout).nodes.length)
        .withContext(name)
        .toBe(body.skeleton.names.length);
    }
  });

  it('take every motion of the depot with feet that hold better than plain, nothing sunk, shaken, torn or turned over', async () => {
    const heron = puppets.get('heron.glb')!.file;
    const ferryman = puppets.get('ferryman.glb')!.file;
    for (const [i, motion] of depotMotions().entries()) {
      const { name, bytes } = await motion.file({ travel: 'travelling', body: 'motion', ...asTaken(motion.id) });
      const take = await readMotionFile(bytes, name);
      const { report } = runJob({ take, clip: 0, character: i % 2 ? heron : ferryman, recipe: DEFAULT_RECIPE });
      const of = ({ figures }: typeof report.verdict) => new Map(figures.map((figure) => [figure.id, figure]));
      const [figures, plain] = [of(report.verdict), of(report.plain!)];
      expect(figures.get('held.feet')!.value)
        .withContext(`${motion.id}: feet held`)
        .toBeGreaterThan(Math.min(85, plain.get('held.feet')!.value));
      const faults = [...figures.values()].filter(({ id, mark }) => mark === 'fault' && !(KNOWN[motion.id] ?? []).includes(id));
      expect(faults.map(({ words }) => words))
        .withContext(motion.id)
        .toEqual([]);
    }
  });

  it('have feet that do not jump for a single frame where the performer’s roll in and go at once', async () => {
    const ferryman = puppets.get('ferryman.glb')!;
    for (const id of ['walk-tired', 'walk-tiptoe', 'skip']) {
      const { name, bytes } = await depotMotions()
        .find((motion) => motion.id === id)!
        .file({ travel: 'travelling', fps: 60, body: 'motion' });
      const take = await readMotionFile(bytes, name);
      const { report } = runJob({ take, clip: 0, character: ferryman.file, recipe: DEFAULT_RECIPE });
      const jumps = report.verdict.figures.find((figure) => figure.id === 'jumps')!;
      expect(jumps.value).withContext(`${id}: ${jumps.words}`).toBeLessThan(12);
    }
  });
});
