import { clipOf, prepareBody } from '../body';
import { measure } from '../check';
import { asFault, describeFault, FaultError } from '../errors';
import { makePairing } from '../match';
import { DEFAULT_SOLVE, solve } from '../solve';
import { makeFile, randomShape, walk } from '../testing';
import { factsOf } from './facts';
import { reportOf } from './report';

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
  const performer = prepareBody(makeFile(shape, { name: 'walk.bvh' }, walk(shape, { frames: 60 })));
  const character = prepareBody(makeFile(randomShape(15), { name: 'body.bvh' }));
  const transfer = solve(makePairing(performer, character), clipOf(performer));
  const plain = solve(makePairing(performer, character), clipOf(performer), { ...DEFAULT_SOLVE, plain: true });

  it('is plain data that holds decisions and figures', () => {
    const report = reportOf(transfer, measure(transfer), measure(plain), { solve: 10, plainPass: 2 });
    expect(JSON.parse(JSON.stringify(report)).figures.slide).toEqual(report.figures.slide);
    expect([report.take.file, report.character.file, report.take.frames]).toEqual(['walk.bvh', 'body.bvh', 60]);
    expect(report.cost?.jointFramesPerSecond).toBeCloseTo(60 * character.skeleton.names.length * 100, 3);
    expect(report.cost?.overPlainPass).toBe(5);
    expect(report.stages).toContain('Feet');
    expect(reportOf(plain, measure(plain), undefined, undefined).stages).not.toContain('Feet');
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
