import type { Clip } from '../clip';
import { cos, sin } from '../math/trig';
import { fromAxisAngle, mul } from '../math/quat';
import { random } from '../math/random';
import { makePairing } from '../match';
import { prepareRig } from '../rig';
import { DEFAULT_SOLVE, solve } from '../solve';
import { makeFile, mirrored, performerOf, randomShape, walk } from '../testing';
import type { Verdict } from './figure';
import { judge } from './judge';
import type { FigureId } from './limits';

/**
 * A good transfer is spoilt by hand, one fault at a time, and the judge must find each at its place; what it says of the
 * untouched one is the measure of its false alarms.
 */
describe('the judge', () => {
  const shape = randomShape(61, { spine: 3, neck: 1, clavicles: true, fingers: 3 });
  const motion = walk(shape, { seed: 61, frames: 240 });
  const performer = performerOf(shape, motion);
  const character = prepareRig(makeFile(randomShape(62, { spine: 2, neck: 1, clavicles: true, fingers: 3 }), { axes: 62 }));
  const pairing = makePairing(performer.rig, character);
  const { clip } = solve(pairing, performer.clip, DEFAULT_SOLVE);
  const joints = character.skeleton.names.length;
  const at = (role: string): number => character.roles.get(role)!;

  const verdictOf = (result: Clip): Verdict =>
    judge({
      performer: performer.rig,
      take: performer.clip,
      character,
      result,
      skin: undefined,
      scale: pairing.scale,
      raised: 0,
      inPlace: false,
    });
  const copy = (): Clip => ({
    ...clip,
    rotations: clip.rotations.slice(),
    moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.slice() })),
  });
  /** Turns one joint about its own first axis in some frames. */
  const turn = (spoilt: Clip, role: string, frame: number, radians: number): void => {
    const q = new Float64Array(4);
    fromAxisAngle(q, 0, 1, 0, 0, radians);
    const o = (frame * joints + at(role)) * 4;
    mul(q, 0, Float64Array.from(spoilt.rotations.subarray(o, o + 4)), 0, q, 0);
    spoilt.rotations.set(q, o);
  };
  const move = (spoilt: Clip, frame: number, x: number, y: number, z: number): void => {
    // Hips' channels stand in the frame of what is above them; these bodies have nothing above.
    const way = Float64Array.of(x, y, z);
    for (let c = 0; c < 3; c++) spoilt.moves[0].values[frame * 3 + c] += way[c];
  };
  const figure = (verdict: Verdict, id: FigureId) => verdict.figures.find((f) => f.id === id)!;
  const faults = (verdict: Verdict): string[] => verdict.figures.filter(({ mark }) => mark === 'fault').map(({ id }) => id);
  const expectCaught = (spoilt: Clip, id: FigureId, from: number, to: number): void => {
    const caught = figure(verdictOf(spoilt), id);
    expect(caught.mark).withContext(`${id}: ${caught.words}`).toBe('fault');
    expect(caught.frame).withContext(id).toBeGreaterThanOrEqual(from);
    expect(caught.frame).withContext(id).toBeLessThanOrEqual(to);
  };

  it('finds nothing wrong with a good transfer, and says how much it looked at', () => {
    const verdict = verdictOf(clip);
    // The hips of this clean walker hardly shake: what they take from the feet is a caution beside it.
    expect(
      verdict.figures
        .filter(({ id, mark }) => mark === 'fault' || (mark === 'caution' && id !== 'hips'))
        .map(({ id, words }) => `${id}: ${words}`),
    ).toEqual([]);
    const feet = figure(verdict, 'held.feet');
    expect(feet.words).toMatch(/^held \d+\.\d of \d+\.\d s$/);
    expect(parseFloat(feet.looked)).toBeGreaterThan(4);
  });

  it('gives no tick where nothing rested', () => {
    const still = performerOf(shape, { ...motion, hips: motion.hips.map((v, i) => (i % 3 === 2 ? v + (i / 3) * 0.05 : v)) });
    const verdict = judge({
      performer: still.rig,
      take: still.clip,
      character,
      result: solve(makePairing(still.rig, character), still.clip, DEFAULT_SOLVE).clip,
      skin: undefined,
      scale: pairing.scale,
      raised: 0,
      inPlace: false,
    });
    expect([figure(verdict, 'held.feet').mark, figure(verdict, 'slide').mark]).toEqual(['unseen', 'unseen']);
  });

  it('catches feet that slide', () => {
    const spoilt = copy();
    for (let f = 0; f < clip.frames; f++) move(spoilt, f, 0.06 * sin(f / 25), 0, 0.06 * cos(f / 31));
    const verdict = verdictOf(spoilt);
    expect(faults(verdict)).toEqual(['held.feet', 'slide']);
    expect(figure(verdict, 'held.feet').words).toContain('not held, the worst the');
  });

  it('catches a body that sinks for a moment, and one that floats', () => {
    const sunk = copy();
    for (let f = 100; f < 110; f++) move(sunk, f, 0, -0.08, 0);
    expectCaught(sunk, 'sink', 100, 109);
    const raised = copy();
    for (let f = 0; f < clip.frames; f++) move(raised, f, 0, 0.05, 0);
    expectCaught(raised, 'float', 0, clip.frames - 1);
  });

  it('catches a knee that shakes, and lays it at the knees', () => {
    const spoilt = copy();
    const rng = random(5);
    for (let f = 60; f < 90; f++) turn(spoilt, 'left.lowerLeg', f, 0.03 * rng.normal());
    expectCaught(spoilt, 'knees', 58, 92);
    expect(figure(verdictOf(spoilt), 'elbows').mark).toBe('good');
  });

  it('catches one frame in which a foot stands elsewhere, which no mean tells of', () => {
    const spoilt = copy();
    turn(spoilt, 'left.upperLeg', 100, 0.1);
    expectCaught(spoilt, 'jumps', 99, 101);
    expect(figure(verdictOf(spoilt), 'jumps').words).toContain('left');
    expect(figure(verdictOf(spoilt), 'knees').mark).toBe('good');
    // A way without a corner is none, however far it leads.
    const eased = copy();
    for (let f = 80; f <= 120; f++) turn(eased, 'left.upperLeg', f, 0.1 * sin((Math.PI * (f - 80)) / 40) ** 2);
    expect(figure(verdictOf(eased), 'jumps').mark).toBe('good');
  });

  it('catches a trunk torn from its legs', () => {
    const spoilt = { ...copy() };
    const values = new Float32Array(clip.frames * 3);
    const chest = at('spine.2');
    for (let f = 0; f < clip.frames; f++) {
      for (let c = 0; c < 3; c++) values[f * 3 + c] = character.skeleton.restT[chest * 3 + c] + (f >= 150 ? 0.3 : 0);
    }
    expectCaught({ ...spoilt, moves: [...spoilt.moves, { joint: chest, values }] }, 'parting', 150, clip.frames - 1);
  });

  it('catches a wrist that flips', () => {
    const spoilt = copy();
    turn(spoilt, 'right.hand', 130, 2.5);
    expectCaught(spoilt, 'flips', 129, 131);
  });

  it('catches an arm that comes three frames late', () => {
    const spoilt = copy();
    for (const role of ['left.upperArm', 'left.lowerArm']) {
      for (let f = clip.frames - 1; f >= 3; f--) {
        const [to, from] = [(f * joints + at(role)) * 4, ((f - 3) * joints + at(role)) * 4];
        spoilt.rotations.copyWithin(to, from, from + 4);
      }
    }
    const late = figure(verdictOf(spoilt), 'lag');
    // The trunk goes on in time beneath the arm, so that the best fit may be a frame short.
    expect(late.mark).toBe('fault');
    expect(late.value).toBeGreaterThanOrEqual(2);
    expect(late.words).toContain('left arm');
  });

  it('catches a hand that is frozen', () => {
    const spoilt = copy();
    const o = at('right.hand') * 4;
    for (let f = 0; f < clip.frames; f++) spoilt.rotations.set(clip.rotations.subarray(o, o + 4), f * joints * 4 + o);
    const frozen = figure(verdictOf(spoilt), 'frozen');
    expect(frozen.mark).toBe('fault');
    expect(frozen.words).toContain('right.hand');
  });

  it('catches left and right exchanged', () => {
    const other = performerOf(shape, mirrored(shape, motion));
    const { clip: result } = solve(makePairing(other.rig, character), other.clip, DEFAULT_SOLVE);
    expect(figure(verdictOf(result), 'mirrored').mark).toBe('fault');
  });

  it('says of each rest how much of it was lost', () => {
    const { rests } = verdictOf(clip);
    expect(rests.filter(({ kind }) => kind === 'feet').length).toBeGreaterThan(8);
    for (const { first, last, lost } of rests) {
      expect(first).toBeLessThan(last);
      expect(lost).toBeLessThanOrEqual((last - first + 1) * clip.frameTime + 1e-9);
    }
  });
});
