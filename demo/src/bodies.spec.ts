import {
  DEFAULT_RECIPE,
  judgeTransfer,
  ClipReader,
  readMotionFile,
  runJob,
  type FigureId,
  type MotionFile,
  type Recipe,
  type Verdict,
} from '@hollow-stride/core';
import { makeFile, randomShape } from '@hollow-stride/core/testing/index';
import { depotMotions } from './depot';
import { production } from './testing/production';

const valueOf = (verdict: Verdict, id: FigureId): number => verdict.figures.find((figure) => figure.id === id)!.value;

describe('bodies of the demo', () => {
  let puppets: MotionFile[];
  const takes = new Map<string, MotionFile>();
  beforeAll(async () => {
    const files = (await production()).filter(({ name }) => name.endsWith('.glb'));
    puppets = await Promise.all(files.map(({ name, bytes }) => readMotionFile(bytes, name)));
    for (const motion of depotMotions().filter(({ id }) => ['sit-down', 'lie-down', 'catch-breath', 'kneel', 'crawl'].includes(id))) {
      const { name, bytes } = await motion.file({ travel: 'travelling', fps: 30, body: 'motion' });
      takes.set(motion.id, await readMotionFile(bytes, name));
    }
  });
  const run = (take: string, character: MotionFile, solve: Partial<Recipe['solve']> = {}) =>
    runJob({ take: takes.get(take)!, clip: 0, character, recipe: { ...DEFAULT_RECIPE, solve: { ...DEFAULT_RECIPE.solve, ...solve } } });

  it('sit and lie on the floor with their own skin, where most sink into it in a plain transfer', () => {
    for (const take of ['sit-down', 'lie-down']) {
      const plain: number[] = [];
      for (const character of puppets) {
        const { report } = run(take, character);
        const sunk = valueOf(report.verdict, 'sink');
        plain.push(valueOf(report.plain!, 'sink'));
        // The Tide-King's broad fluke and shanks are what is left.
        expect(sunk)
          .withContext(`${take} ${character.name}`)
          .toBeLessThan(character.name === 'tide-king.glb' ? 45 : 8);
        expect(valueOf(report.verdict, 'held.feet')).withContext(`${take} ${character.name} feet`).toBeGreaterThan(97);
        expect(valueOf(report.verdict, 'flips')).toBe(0);
      }
      expect(plain.filter((by) => by > 20).length)
        .withContext(`${take} plain: ${plain.map((by) => by.toFixed(0)).join(', ')}`)
        .toBeGreaterThan(plain.length / 2);
    }
  });

  it('put hands on their own thighs, wherever those are', () => {
    for (const character of puppets) {
      const [held, free] = [run('catch-breath', character), run('catch-breath', character, { hands: 0, keepOut: false })];
      const [near, far] = [held, free].map(({ report }) => valueOf(report.verdict, 'touch'));
      expect(near).withContext(character.name).toBeLessThan(110);
      expect(near).withContext(`${character.name}, held over free`).toBeLessThan(Math.max(90, far));
    }
    // The purpose of the figure: a hand taken off the thigh is seen.
    const heron = puppets.find(({ name }) => name === 'heron.glb')!;
    const { transfer } = run('catch-breath', heron);
    const { roles, skeleton } = transfer.pairing.character;
    const rotations = transfer.clip.rotations.slice();
    const count = skeleton.parents.length;
    for (let f = 0; f < transfer.clip.frames; f++) {
      const o = (f * count + roles.get('left.lowerArm')!) * 4;
      rotations.set([0, 0, 0, 1], o);
    }
    const broken = judgeTransfer(
      {
        job: { take: takes.get('catch-breath')!, clip: 0, character: heron, recipe: DEFAULT_RECIPE },
        character: transfer.pairing.character,
      },
      {
        ...transfer,
        clip: { ...transfer.clip, rotations },
      },
    );
    expect(valueOf(broken, 'touch')).toBeGreaterThan(
      valueOf(
        judgeTransfer(
          {
            job: { take: takes.get('catch-breath')!, clip: 0, character: heron, recipe: DEFAULT_RECIPE },
            character: transfer.pairing.character,
          },
          transfer,
        ),
        'touch',
      ) + 60,
    );
  });

  it('let a tail lie on the floor, and swing when it is to, its bones as long as ever', () => {
    const king = puppets.find(({ name }) => name === 'tide-king.glb')!;
    const tails = [0, 1].map((loose) => {
      const { transfer } = run('lie-down', king, { tails: loose });
      const { skeleton } = transfer.pairing.character;
      const tail = [...skeleton.names.keys()].filter((j) => skeleton.names[j].includes('tail_'));
      const reader = new ClipReader(skeleton, transfer.clip);
      return Array.from({ length: transfer.clip.frames }, (_, f) => {
        const { positions } = reader.at(f);
        return tail.map((j) => [...positions.slice(j * 3, j * 3 + 3)]);
      });
    });
    for (const frames of tails) {
      for (const joints of frames) {
        for (const [, y] of joints.slice(1)) expect(y).toBeGreaterThan(-0.01);
        joints.slice(1).forEach((place, i) => {
          const length = Math.hypot(...place.map((v, c) => v - joints[i][c]));
          expect(length).toBeCloseTo(Math.hypot(...frames[0][i + 1].map((v, c) => v - frames[0][i][c])), 4);
        });
      }
    }
    const end = (frames: number[][][], f: number): number[] => frames[f][5];
    const apart = tails[0].map((_, f) => Math.hypot(...end(tails[0], f).map((v, c) => v - end(tails[1], f)[c])));
    expect(apart[0]).toBeLessThan(1e-3);
    expect(Math.max(...apart)).toBeGreaterThan(0.05);
    const again = run('lie-down', king, { tails: 1 }).transfer.clip.rotations;
    expect(again).toEqual(run('lie-down', king, { tails: 1 }).transfer.clip.rotations);
  });

  it('fold a leg with a hock as a whole: the way from hip to ankle as the performer’s, and as far in proportion', () => {
    const king = puppets.find(({ name }) => name === 'tide-king.glb')!;
    const { transfer } = run('sit-down', king, { plain: true });
    const { performer, character, match } = transfer.pairing;
    const way = (rig: typeof performer, p: Float64Array): number[] =>
      [0, 1, 2].map((c) => p[rig.roles.get('left.foot')! * 3 + c] - p[rig.roles.get('left.upperLeg')! * 3 + c]);
    const rest = Math.hypot(...way(character, match.pose.positions)) / Math.hypot(...way(performer, performer.restPose.positions));
    const [theirs, mine] = [new ClipReader(performer.skeleton, transfer.take), new ClipReader(character.skeleton, transfer.clip)];
    for (let f = 0; f < transfer.clip.frames; f += 7) {
      const [a, b] = [way(performer, theirs.at(f).positions), way(character, mine.at(f).positions)];
      const [la, lb] = [Math.hypot(...a), Math.hypot(...b)];
      const cosine = a.reduce((sum, v, c) => sum + v * b[c], 0) / (la * lb);
      expect(cosine).withContext(`frame ${f}`).toBeGreaterThan(0.9995);
      // Where the performer folds up a hock folds less far: it has two bones that turn together.
      expect(lb).toBeGreaterThan(0.97 * rest * la);
      if (la > 0.75 * Math.hypot(...way(performer, performer.restPose.positions))) expect(lb / la).toBeCloseTo(rest, 2);
    }
  });

  it('get off and onto a knee without a leg that is thrown aside, on shins twice as long as thighs', () => {
    for (const seed of [1, 2]) {
      const shape = randomShape(seed, { spine: 2, clavicles: true });
      const joints = shape.joints.map((joint) => {
        const factor = joint.role.endsWith('lowerLeg') ? 0.65 : joint.role.endsWith('foot') ? 1.35 : 1;
        return { ...joint, offset: joint.offset.map((v) => v * factor) as unknown as typeof joint.offset };
      });
      const long: MotionFile = makeFile({ ...shape, joints });
      for (const take of ['kneel', 'crawl']) {
        const { verdict } = run(take, long).report;
        expect(valueOf(verdict, 'jumps')).withContext(`${take} ${seed}`).toBeLessThan(70);
        expect(valueOf(verdict, 'flips')).withContext(`${take} ${seed}`).toBe(0);
      }
    }
  });
});
