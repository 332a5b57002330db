import { asFault, describeFault, FaultError } from '../errors';
import { DEFAULT_RECIPE } from '../recipe';
import { makeFile, randomShape, walk } from '../testing';
import { factsOf } from './facts';
import { runJob, type Job } from './job';
import { reportOf, type Report } from './report';

const shape = randomShape(14, { clavicles: true, spine: 2 });

describe('facts of a file', () => {
  it('say what is in it, each guess with its reason', () => {
    const facts = factsOf(
      makeFile(shape, { metres: 0.01, up: '+Z', names: (role) => `bell:${role}` }, walk(shape, { frames: 90, fps: 30 })),
    );
    expect(facts.clips).toEqual([{ name: 'walk', frames: 90, fps: 30, seconds: 2.967, faults: [] }]);
    expect([facts.prefix, facts.body?.unit.unit, facts.body?.up.axis]).toEqual(['bell:', 'cm', '+Z']);
    expect(facts.labels?.roles['left.hand']).toBe('bell:left.hand');
    expect(facts.body!.footTrace.length).toBeGreaterThan(50);
    expect(Math.max(...facts.body!.footTrace)).toBeGreaterThan(0.03);
    expect(Math.abs(facts.body!.floor!)).toBeLessThan(0.05);
    expect(facts.labels!.drawing.length % 4).toBe(0);
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
  const { report, transfer, plain } = runJob(job);

  it('is plain data that holds decisions, figures, and how much was looked at', () => {
    const back = JSON.parse(JSON.stringify(report)) as Report;
    expect(back.verdict.figures.find(({ id }) => id === 'slide')).toEqual(report.verdict.figures.find(({ id }) => id === 'slide'));
    expect([report.take.file, report.character.file, report.take.frames]).toEqual(['walk.bvh', 'body.bvh', 60]);
    expect(report.verdict.figures.every(({ looked, words }) => looked !== '' && words !== '')).toBeTrue();
    expect(report.stages).toContain('Feet');
    const timed = reportOf(transfer, report.verdict, report.plain, [], { solve: 10, plainPass: 2 });
    expect(timed.cost?.jointFramesPerSecond).toBeCloseTo(60 * transfer.pairing.character.skeleton.names.length * 100, 3);
    expect(timed.cost?.overPlainPass).toBe(5);
    expect(reportOf(plain!, report.plain!, undefined, [], undefined).stages).not.toContain('Feet');
  });

  it('says every figure over its limit as a caution', () => {
    const over = report.plain!.figures.filter(({ mark }) => mark === 'fault' || mark === 'caution');
    const { cautions } = reportOf(plain!, report.plain!, undefined, [], undefined);
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
