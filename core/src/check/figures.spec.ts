import { clipOf, prepareBody } from '../body';
import { ClipReader, type Clip } from '../clip';
import { makePairing } from '../match';
import { fromAxisAngle, mul } from '../math/quat';
import { DEFAULT_SOLVE, solve, type Transfer } from '../solve';
import { makeFile, randomShape, walk } from '../testing';
import { measure } from './figures';

/** Figures must see what is put in on purpose. */
describe('the figures', () => {
  const shape = randomShape(41, { clavicles: true, spine: 2 });
  const performer = prepareBody(makeFile(shape, {}, walk(shape, { seed: 41, frames: 180 })));
  const character = prepareBody(makeFile(randomShape(42, { clavicles: true }), {}));
  const clean = solve(makePairing(performer, character), clipOf(performer), DEFAULT_SOLVE);

  /** The transfer with its motion changed. */
  function spoiled(change: (clip: Clip) => void): Transfer {
    const clip: Clip = {
      ...clean.clip,
      rotations: clean.clip.rotations.slice(),
      moves: clean.clip.moves.map((m) => ({ ...m, values: m.values.slice() })),
    };
    change(clip);
    return { ...clean, clip };
  }

  const joint = (role: string): number => character.roles.get(role)!;
  const joints = character.skeleton.names.length;

  function turn(clip: Clip, frame: number, role: string, degrees: number): void {
    const q = new Float64Array(4);
    fromAxisAngle(q, 0, 1, 0, 0, (degrees * Math.PI) / 180);
    const o = (frame * joints + joint(role)) * 4;
    mul(clip.rotations, o, clip.rotations, o, q, 0);
  }

  it('find nothing wrong with a clean transfer', () => {
    const f = measure(clean);
    expect([f.flips.count, f.reach.worstMiss < 0.01, f.slide.worst < 1, f.sink.worst < 2]).toEqual([0, true, true, true]);
    expect(f.plants.length).toBe(clean.contacts.plants.length);
    expect(f.performerSlide).toBeLessThan(2);
  });

  it('measure a slide as long as it is', () => {
    // The body drifts a tenth of a millimetre to the side in each frame.
    const f = measure(
      spoiled((clip) => {
        for (let k = 0; k < clip.frames; k++) clip.moves[0].values[k * 3] += k * 1e-4;
      }),
    );
    const longest = clean.contacts.plants.reduce((a, b) => (b.last - b.first > a.last - a.first ? b : a));
    expect(f.slide.worst).toBeCloseTo((longest.last - longest.first) * 0.1, 1);
    expect(f.slide.perSecond).toBeGreaterThan(4);
    expect(f.slide.worstFrame).toBe(longest.first);
  });

  it('measure sink and float', () => {
    const down = measure(spoiled((clip) => clip.moves[0].values.forEach((v, i) => i % 3 === 1 && (clip.moves[0].values[i] = v - 0.03))));
    expect(down.sink.worst).toBeCloseTo(30, 0);
    expect(down.float).toBeCloseTo(-30, 0);
    const up = measure(spoiled((clip) => clip.moves[0].values.forEach((v, i) => i % 3 === 1 && (clip.moves[0].values[i] = v + 0.02))));
    expect(up.sink.worst).toBeLessThan(1);
    expect(up.float).toBeCloseTo(20, 0);
  });

  it('count flips and say where the first is', () => {
    const f = measure(spoiled((clip) => turn(clip, 70, 'left.lowerArm', 140)));
    expect(f.flips.count).toBeGreaterThanOrEqual(2);
    expect(f.flips.first).toEqual({ joint: character.skeleton.names[joint('left.lowerArm')], frame: 70 });
  });

  it('feel a pop at the knee, at its frame', () => {
    const f = measure(
      spoiled((clip) => {
        for (let k = 88; k <= 92; k++) turn(clip, k, 'right.lowerLeg', k % 2 === 0 ? 25 : -5);
      }),
    );
    expect(f.pop.knees).toBeGreaterThan(3);
    expect(Math.abs(f.pop.frame - 90)).toBeLessThanOrEqual(3);
  });

  it('measure likeness as the angle that a limb is off', () => {
    const f = measure(
      spoiled((clip) => {
        for (let k = 0; k < clip.frames; k++) turn(clip, k, 'left.lowerArm', 0.001);
      }),
    );
    const reference = measure(clean).likeness.arms;
    expect(f.likeness.arms).toBeCloseTo(reference, 2);
    const off = measure(
      spoiled((clip) => {
        const q = new Float64Array(4);
        fromAxisAngle(q, 0, 0, 0, 1, (20 * Math.PI) / 180);
        for (let k = 0; k < clip.frames; k++) {
          const o = (k * joints + joint('left.lowerArm')) * 4;
          mul(clip.rotations, o, clip.rotations, o, q, 0);
        }
      }),
    );
    // One of four arm segments is 20° off.
    expect(off.likeness.arms).toBeCloseTo(5 + reference, 0);
  });

  it('name the joint that is wrung most', () => {
    const f = measure(spoiled((clip) => turn(clip, 33, 'right.hand', 150)));
    expect(f.twist.joint).toBe(character.skeleton.names[joint('right.hand')]);
    expect([f.twist.frame, f.twist.over]).toEqual([33, 1]);
    expect(f.twist.worst).toBeGreaterThan(120);
  });

  it('belong to the motion that they are about', () => {
    const reader = new ClipReader(character.skeleton, clean.clip);
    expect(measure(clean).frames).toBe(reader.clip.frames);
  });
});
