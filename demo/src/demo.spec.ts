import { validateBytes } from 'gltf-validator';
import {
  clipOf,
  ClipReader,
  DEFAULT_SOLVE,
  makePairing,
  measure,
  prepareBody,
  readMotionFile,
  REQUIRED_ROLES,
  solve,
  writeMotion,
  type Body,
} from '@hollow-stride/core';
import { makeDemo, type DemoFile } from './index';

describe('the demo production', () => {
  let files: Map<string, DemoFile>;
  const bodies = new Map<string, Body>();

  beforeAll(async () => {
    files = new Map((await makeDemo()).map((file) => [file.name, file]));
    for (const { name, bytes } of files.values()) bodies.set(name, prepareBody(await readMotionFile(bytes, name)));
  });

  it('is the same each time', async () => {
    for (const file of await makeDemo()) expect(file.bytes).withContext(file.name).toEqual(files.get(file.name)!.bytes);
  });

  it('is labelled whole, stands on the floor and is read in its own unit', () => {
    for (const [name, body] of bodies) {
      for (const role of REQUIRED_ROLES) expect(body.roles.has(role)).withContext(`${name} ${role}`).toBeTrue();
      expect(body.isRestClean).withContext(name).toBeTrue();
      expect(body.unit.unit)
        .withContext(name)
        .toBe(name.endsWith('.bvh') ? 'cm' : 'm');
      expect(body.warnings).withContext(name).toEqual([]);
    }
    expect(bodies.get('heron.glb')!.roles.has('ground')).toBeTrue();
    expect(bodies.get('heron.glb')!.prefix).toBe('heron:');
    expect(bodies.get('heron.glb')!.legLength / bodies.get('quay-walk.bvh')!.legLength).toBeGreaterThan(1.4);
  });

  it('walks like a walk: heels strike first, balls leave last, and feet take turns', () => {
    const { contacts } = solve(
      makePairing(bodies.get('quay-walk.bvh')!, bodies.get('ferryman.glb')!),
      clipOf(bodies.get('quay-walk.bvh')!),
      DEFAULT_SOLVE,
    );
    for (const side of ['left', 'right']) {
      const heels = contacts.plants.filter((p) => p.side === side && p.part === 'heel');
      const balls = contacts.plants.filter((p) => p.side === side && p.part === 'ball');
      expect(heels.length).toBeGreaterThanOrEqual(6);
      expect(balls.length).toBe(heels.length);
      heels.slice(1, -1).forEach((heel, i) => {
        const ball = balls[i + 1];
        expect(heel.first).withContext(`${side} ${i}`).toBeLessThan(ball.first);
        expect(heel.last).withContext(`${side} ${i}`).toBeLessThanOrEqual(ball.last);
        expect(heel.last).withContext(`${side} ${i}`).toBeGreaterThan(ball.first);
      });
    }
  });

  for (const take of ['quay-walk.bvh', 'slow-bow.bvh']) {
    for (const character of ['ferryman.glb', 'heron.glb']) {
      it(`carries ${take} to ${character} and writes files that others open`, async () => {
        const performer = bodies.get(take)!;
        const target = bodies.get(character)!;
        const pairing = makePairing(performer, target);
        const transfer = solve(pairing, clipOf(performer), DEFAULT_SOLVE);
        const figures = measure(transfer);
        const plain = measure(solve(pairing, clipOf(performer), { ...DEFAULT_SOLVE, plain: true }));
        expect(plain.slide.worst).toBeGreaterThan(20);
        expect(figures.slide.worst).toBeLessThan(1);
        expect(figures.sink.worst).toBeLessThan(2);
        expect(figures.pop.ratio).toBeLessThan(1.5);
        expect(figures.flips.count).toBe(0);
        expect(figures.likeness.arms).toBeLessThan(3);
        pairing.match.residuals
          .filter(({ role }) => !role.includes('clavicle'))
          .forEach(({ role, after }) => expect(after).withContext(role).toBeLessThan(0.5));

        const glb = writeMotion(target.file, target.basis, transfer.clip, 'glb');
        const { issues } = await validateBytes(glb, { maxIssues: 5 });
        expect(issues.messages.filter((m) => m.severity === 0)).toEqual([]);
        expect(issues.numErrors).toBe(0);

        const bvh = await readMotionFile(writeMotion(target.file, target.basis, transfer.clip, 'bvh'), 'out.bvh');
        const a = new ClipReader(target.skeleton, transfer.clip);
        const b = new ClipReader(bvh.skeleton, bvh.clips[0]);
        let worst = 0;
        for (let f = 0; f < transfer.clip.frames; f += 11) {
          const [p, q] = [a.at(f).positions, b.at(f).positions];
          bvh.skeleton.names.forEach((name, j) => {
            const k = target.skeleton.names.indexOf(name);
            for (let c = 0; c < 3; c++) worst = Math.max(worst, Math.abs(p[k * 3 + c] - q[j * 3 + c]));
          });
        }
        expect(worst).toBeLessThan(1e-4);
      });
    }
  }
});
