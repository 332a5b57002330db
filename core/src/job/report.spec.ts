import { asFault, describeFault, FaultError } from '../errors';
import type { MotionFile } from '../formats';
import { DEFAULT_RECIPE, DEFAULT_SKELETON } from '../recipe';
import { makeFile, onFourLegs, randomShape, walk } from '../testing';
import { labelFile } from '../rig';
import { factsOf } from './facts';
import { runJob, solvePlain, type Job } from './job';
import { cautionsOfLabels } from './labels';
import { reportOf, type Report } from './report';

const shape = randomShape(14, { clavicles: true, spine: 2 });

describe('facts of a file', () => {
  it('say what is in it, each guess with its reason', () => {
    const facts = factsOf(
      makeFile(shape, { metres: 0.01, up: '+Z', names: (role) => `bell:${role}` }, walk(shape, { frames: 90, fps: 30 })),
    );
    expect(facts.clips).toEqual([{ name: 'walk', frames: 90, fps: 30, seconds: 2.967, faults: [], faceChannels: 0 }]);
    expect([facts.prefix, facts.body?.unit.unit, facts.body?.up.axis]).toEqual(['bell:', 'cm', '+Z']);
    expect(facts.labels?.roles['left.hand']).toBe('bell:left.hand');
    expect(facts.body!.footTrace.length).toBeGreaterThan(50);
    expect(Math.max(...facts.body!.footTrace)).toBeGreaterThan(0.03);
    expect(Math.abs(facts.body!.floor!)).toBeLessThan(0.05);
    expect(facts.labels!.drawing.length % 4).toBe(0);
  });

  it('say that labels are doubtful where little speaks for them, and that a body looks four-legged', () => {
    const codes = (file: MotionFile, choices = DEFAULT_SKELETON): string[] =>
      factsOf(file, 0, choices)
        .warnings.map(({ code }) => code)
        .filter((code) => code.startsWith('label/'));
    const shape = randomShape(6, { clavicles: true, spine: 3, neck: 1 });
    expect(codes(makeFile(shape, {}, walk(shape, { frames: 30 })))).toEqual([]);
    const file = makeFile(shape);
    const labels = labelFile(file, 0);
    const unsure = { ...labels, confidence: new Map([...labels.roles.keys()].map((role) => [role, 0.52])) };
    const [doubt] = cautionsOfLabels(file, unsure, 0);
    expect([doubt.code, doubt.message]).toEqual(['label/uncertain', jasmine.stringContaining('52 %')]);
    const turned = makeFile(onFourLegs(shape));
    const byHand = Object.fromEntries(onFourLegs(shape).joints.map(({ role }, j) => [role, turned.skeleton.names[j]]));
    expect(codes(turned, { ...DEFAULT_SKELETON, labels: byHand })).toContain('label/four-legs');
  });

  it('stay usable where the body is not', () => {
    const facts = factsOf(makeFile({ joints: shape.joints.slice(0, 4), tips: new Map() }));
    expect(facts.body).toBeUndefined();
    expect(facts.labels!.missing).toContain('left.foot');
    expect(facts.warnings.map((w) => w.code)).toContain('label/missing');
  });
});

describe('a report', () => {
  const job: Job = {
    take: makeFile(shape, { name: 'walk.bvh' }, walk(shape, { frames: 60 })),
    clip: 0,
    character: makeFile(randomShape(15), { name: 'body.bvh' }),
    recipe: DEFAULT_RECIPE,
  };
  const { ready, report, transfer } = runJob(job);
  const plain = solvePlain(ready);

  it('is plain data that holds decisions, figures, and how much was looked at', () => {
    const back = JSON.parse(JSON.stringify(report)) as Report;
    expect(back.verdict.figures.find(({ id }) => id === 'slide')).toEqual(report.verdict.figures.find(({ id }) => id === 'slide'));
    expect([report.take.file, report.character.file, report.take.frames]).toEqual(['walk.bvh', 'body.bvh', 60]);
    expect(report.verdict.figures.every(({ looked, words }) => looked !== '' && words !== '')).toBeTrue();
    expect(report.stages).toContain('Feet');
    const timed = reportOf(transfer, report.verdict, report.plain, [], { solve: 10, plainPass: 2 });
    expect(timed.cost?.jointFramesPerSecond).toBeCloseTo(60 * transfer.pairing.character.skeleton.names.length * 100, 3);
    expect(timed.cost?.overPlainPass).toBe(5);
    expect(reportOf(plain, report.plain!, undefined, [], undefined).stages).not.toContain('Feet');
  });

  it('says every figure over its limit as a caution', () => {
    const over = report.plain!.figures.filter(({ mark }) => mark === 'fault' || mark === 'caution');
    const { cautions } = reportOf(plain, report.plain!, undefined, [], undefined);
    expect(over.length).toBeGreaterThan(0);
    expect(cautions.length).toBe(over.length);
    over.forEach(({ name }, i) => expect(cautions[i].message.startsWith(name)).withContext(name).toBeTrue());
  });
});

describe('a fault', () => {
  it('says what and where in one line', () => {
    expect(describeFault({ code: 'bvh/number', message: 'no number', where: { file: 'a.bvh', line: 3, joint: 'knee', frame: 7 } })).toBe(
      'a.bvh, line 3, joint knee, frame 7: no number',
    );
    expect(describeFault({ code: 'option', message: 'no', where: {} })).toBe('no');
  });

  it('is made of anything thrown, and keeps its own file', () => {
    const own = new FaultError({ code: 'option', message: 'x', where: { file: 'b' } });
    expect(asFault(own, 'a').where.file).toBe('b');
    expect(asFault(new Error('y'), 'a')).toEqual(jasmine.objectContaining({ message: 'y', where: { file: 'a' } }));
    expect(asFault('z').message).toBe('z');
  });
});
