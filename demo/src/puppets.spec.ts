import {
  clipOf,
  DEFAULT_SOLVE,
  makePairing,
  measure,
  prepareBody,
  readMotionFile,
  REQUIRED_ROLES,
  restPose,
  solve,
  type Body,
  type GlbLayout,
} from '@hollow-stride/core';
import { depotMotions } from './depot';
import { makeDemo } from './index';

describe('the puppets of the demo', () => {
  const puppets = new Map<string, Body>();

  beforeAll(async () => {
    for (const { name, bytes } of await makeDemo()) {
      if (name.endsWith('.glb')) puppets.set(name, prepareBody(await readMotionFile(bytes, name)));
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

  it('take every motion of the depot with feet that hold, nothing sunk and nothing turned over', async () => {
    const heron = puppets.get('heron.glb')!;
    const ferryman = puppets.get('ferryman.glb')!;
    for (const [i, motion] of depotMotions().entries()) {
      const { name, bytes } = await motion.file({ travel: 'travelling', fps: 30, body: 'motion' });
      const performer = prepareBody(await readMotionFile(bytes, name));
      const figures = measure(solve(makePairing(performer, i % 2 ? heron : ferryman), clipOf(performer), DEFAULT_SOLVE));
      expect(figures.slide.worst).withContext(`${motion.id}: slide`).toBeLessThan(1);
      expect(figures.sink.worst).withContext(`${motion.id}: sink`).toBeLessThan(2);
      expect(figures.flips.count).withContext(`${motion.id}: flips`).toBe(0);
      expect(figures.pop.ratio).withContext(`${motion.id}: pop`).toBeLessThan(2.1);
    }
  }, 90_000);
});
