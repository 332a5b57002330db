import { validateBytes } from 'gltf-validator';
import {
  clipOf,
  ClipReader,
  DEFAULT_RECIPE,
  factsOf,
  findContacts,
  findSamplingFaults,
  prepareRig,
  readMotionFile,
  REQUIRED_ROLES,
  runJob,
  writeMotion,
  type FigureId,
  type MotionFile,
  type Rig,
} from '@hollow-stride/core';
import { depotMotions, makeDemo, type DemoFile } from './index';
import { production } from './testing/production';

/** Known faults; docs/judged.md holds all pairs. */
const KNOWN: Record<string, readonly string[]> = {};

describe('the demo production', () => {
  let files: Map<string, DemoFile>;
  const bodies = new Map<string, Rig & { file: MotionFile }>();

  beforeAll(async () => {
    files = new Map((await production()).map((file) => [file.name, file]));
    for (const { name, bytes } of files.values()) {
      const file = await readMotionFile(bytes, name);
      bodies.set(name, { ...prepareRig(file), file });
    }
  });

  it('is the same each time', async () => {
    for (const { name, bytes } of await makeDemo())
      expect(Buffer.compare(bytes, files.get(name)!.bytes))
        .withContext(name)
        .toBe(0);
  });

  it('is labelled whole, stands on the floor and is read in its own unit', () => {
    for (const [name, body] of bodies) {
      for (const role of REQUIRED_ROLES) expect(body.roles.has(role)).withContext(`${name} ${role}`).toBeTrue();
      expect(body.isRestClean).withContext(name).toBeTrue();
      expect(body.unit.unit)
        .withContext(name)
        .toBe(name.endsWith('.bvh') || name === 'tide-king.glb' ? 'cm' : 'm');
      expect(body.warnings).withContext(name).toEqual([]);
    }
    expect(bodies.get('heron.glb')!.roles.has('ground')).toBeTrue();
    expect(bodies.get('heron.glb')!.prefix).toBe('heron:');
    expect(bodies.get('heron.glb')!.legLength / bodies.get('quay-walk.bvh')!.legLength).toBeGreaterThan(1.4);
  });

  it('has every fault of a capture that it says it has, and the application finds each', () => {
    const found = (name: string): string[] => {
      const body = bodies.get(name)!;
      return findSamplingFaults(body.skeleton, clipOf(body.file, body), body.roles, body.legLength).map(
        ({ kind, from, to }) => `${kind} ${from}-${to}`,
      );
    };
    expect(found('quay-walk.bvh')).toEqual(['rest 0-29', 'gap 591-593']);
    expect(found('gangplank-run.bvh')).toEqual(['rest 0-23', 'spike 214-214']);
    expect(found('limp-home.bvh')).toEqual(['rest 0-17', 'gap 629-632']);
    expect(found('crate-lift.bvh')).toEqual(['rest 0-11', 'spike 312-312']);
    expect(found('turn-on-the-spot.bvh').some((fault) => fault.startsWith('drift'))).toBeTrue();
    const floor = (name: string): number => factsOf(bodies.get(name)!.file).body!.floor!;
    expect(floor('slow-bow.bvh') - floor('lantern-reach.bvh')).toBeCloseTo(0.02, 2);
    expect(floor('limp-home.bvh') - floor('lantern-reach.bvh')).toBeCloseTo(-0.02, 2);
  });

  it('shows bodies of every kind: hock legs, a tail, twist joints, six spine joints, a child', () => {
    const roles = (name: string) => [...bodies.get(name)!.roles.keys()];
    expect(roles('tide-king.glb')).toContain('left.hock');
    expect([bodies.get('tide-king.glb')!.up, bodies.get('tide-king.glb')!.prefix]).toEqual(['+Z', 'tideking:']);
    expect(roles('bellkeeper.glb')).toEqual(jasmine.arrayContaining(['spine.6', 'neck.2', 'left.upperArm.twist.2', 'right.little.3']));
    expect(roles('lantern-bearer.glb').some((role) => bodies.get('lantern-bearer.glb')!.roles.get(role) === undefined)).toBeFalse();
    const lantern = bodies.get('lantern-bearer.glb')!;
    expect([...lantern.roles.values()]).not.toContain(lantern.skeleton.names.indexOf('LanternProp'));
    expect(bodies.get('apprentice.glb')!.legLength).toBeLessThan(0.5);
  });

  it('walks like a walk: heels strike first, balls leave last, and feet take turns', () => {
    const walker = bodies.get('quay-walk.bvh')!;
    const { plants } = findContacts(walker, clipOf(walker.file, walker));
    for (const side of ['left', 'right']) {
      const heels = plants.filter((p) => p.side === side && p.part === 'heel');
      const balls = plants.filter((p) => p.side === side && p.part === 'ball');
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

  for (const take of ['quay-walk.bvh', 'slow-bow.bvh', 'gangplank-run.bvh']) {
    for (const character of ['ferryman.glb', 'heron.glb', 'tide-king.glb', 'bellkeeper.glb']) {
      it(`carries ${take} to ${character} and writes files that others open`, async () => {
        const target = bodies.get(character)!;
        const job = { take: bodies.get(take)!.file, clip: 0, character: target.file, recipe: DEFAULT_RECIPE };
        const { transfer, report } = runJob(job);
        const of = (id: string, { figures } = report.verdict) => figures.find((figure) => figure.id === id)!;
        const known = report.verdict.figures.filter(({ mark }) => mark === 'fault').map(({ id }) => id);
        expect(known).toEqual((KNOWN[`${take} ${character}`] ?? []) as typeof known);
        expect(of('held.feet').value).toBeGreaterThan(88);
        expect(of('slide').value).toBeLessThan(of('slide', report.plain).value);
        transfer.pairing.match.residuals
          .filter(({ role }) => !role.includes('clavicle'))
          .forEach(({ role, after }) => expect(after).withContext(role).toBeLessThan(0.5));

        const glb = writeMotion(target.file, target.basis, transfer.clip, 'glb');
        const { issues } = await validateBytes(glb, { maxIssues: 5 });
        expect(issues.messages.filter((m) => m.severity === 0)).toEqual([]);
        expect(issues.numErrors).toBe(0);

        const bvh = await readMotionFile(writeMotion(target.file, target.basis, transfer.clip, 'bvh'), 'out.bvh');
        const back = prepareRig(bvh);
        const a = new ClipReader(target.skeleton, transfer.clip);
        const b = new ClipReader(back.skeleton, clipOf(bvh, back));
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

  it('has feet held on every body through walks that roll off, and on steps and rungs, where plain copying slides', async () => {
    const depot = new Map(depotMotions().map((motion) => [motion.id, motion]));
    const fetched = async (id: string): Promise<MotionFile> => {
      const { name, bytes } = await depot.get(id)!.file({ travel: 'travelling', fps: 30, body: 'motion' });
      return readMotionFile(bytes, name);
    };
    const takes = [await fetched('walk-brisk'), await fetched('steps-up'), bodies.get('bell-ringers-climb.bvh')!.file];
    for (const take of takes) {
      for (const character of ['tide-king.glb', 'ferryman.glb']) {
        const { report } = runJob({ take, clip: 0, character: bodies.get(character)!.file, recipe: DEFAULT_RECIPE });
        const value = (id: FigureId, { figures } = report.verdict): number => figures.find((figure) => figure.id === id)!.value;
        const pair = `${take.name} ${character}`;
        expect(value('held.feet')).withContext(`held ${pair}`).toBeGreaterThan(98.5);
        expect(value('slide')).withContext(`slide ${pair}`).toBeLessThan(7);
        expect(value('float')).withContext(`float ${pair}`).toBeLessThan(1);
        expect(value('held.feet', report.plain!)).withContext(`plain ${pair}`).toBeLessThan(97);
      }
    }
  });
});
