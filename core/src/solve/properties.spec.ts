import * as fc from 'fast-check';
import { clipOf, prepareBody, type Body } from '../body';
import { measure } from '../check';
import { mirrorRole } from '../label';
import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { DEFAULT_PAIRING } from '../recipe';
import { angle, invMul } from '../math/quat';
import { makeFile, mirrored, randomShape, scaled, walk, type Shape, type Style } from '../testing';
import { DEFAULT_SOLVE } from './settings';
import { solve, type Transfer } from './solve';

const RUNS = { numRuns: 16, seed: 20 };
const seeds = fc.integer({ min: 1, max: 1_000_000 });

function transfer(performer: Body, character: Body, plain: boolean): Transfer {
  return solve(makePairing(performer, character), clipOf(performer), { ...DEFAULT_SOLVE, plain });
}

function performerOf(shape: Shape, seed: number): Body {
  return prepareBody(makeFile(shape, {}, walk(shape, { seed })));
}

/** Greatest distance between performer and character joints of the same place in the joint list, metres. */
function worstDistance({ pairing, take, clip }: Transfer, factor = 1): number {
  const p = new ClipReader(pairing.performer.skeleton, take);
  const c = new ClipReader(pairing.character.skeleton, clip);
  let worst = 0;
  for (let f = 0; f < clip.frames; f++) {
    const a = p.at(f).positions;
    const b = c.at(f).positions;
    for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(a[i] * factor - b[i]));
  }
  return worst;
}

describe('property 1: a take onto its own skeleton', () => {
  for (const plain of [true, false]) {
    it(`keeps positions within 0.1 mm and rotations within 0.01° (${plain ? 'plain' : 'pinned'})`, () => {
      fc.assert(
        fc.property(seeds, (seed) => {
          const body = performerOf(randomShape(seed), seed);
          const result = transfer(body, body, plain);
          expect(worstDistance(result)).toBeLessThan(1e-4);
          let turn = 0;
          const q = new Float64Array(4);
          for (let i = 0; i < result.clip.rotations.length; i += 4) {
            invMul(q, 0, result.clip.rotations, i, result.take.rotations, i);
            turn = Math.max(turn, angle(q, 0));
          }
          expect((turn * 180) / Math.PI).toBeLessThan(0.01);
        }),
        RUNS,
      );
    });
  }
});

describe('property 2: onto the same body stated otherwise', () => {
  const styles = fc.record({
    axes: seeds,
    metres: fc.constantFrom(1, 0.01, 0.001, 0.0254),
    up: fc.constantFrom('+Y' as const, '+Z' as const, '-Y' as const, '+X' as const),
    degrees: fc.integer({ min: 0, max: 45 }),
    whole: fc.boolean(),
  });
  for (const plain of [true, false]) {
    it(`keeps positions within 1 mm (${plain ? 'plain' : 'pinned'})`, () => {
      fc.assert(
        fc.property(seeds, styles, (seed, { axes, metres, up, degrees, whole }) => {
          const shape = randomShape(seed);
          const style: Style = {
            axes,
            metres,
            up,
            rest: { seed, degrees: whole ? degrees / 2 : degrees, whole },
            names: (role) => `b_${role.replace('left.', 'l_').replace('right.', 'r_').replace('.', '_')}`,
          };
          const character = prepareBody(makeFile(shape, style));
          const result = transfer(performerOf(shape, seed), character, plain);
          expect(result.pairing.same.same).toBeTrue();
          expect(worstDistance(result)).toBeLessThan(1e-3);
        }),
        RUNS,
      );
    });
  }
});

describe('property 3: onto the same body at another size', () => {
  for (const plain of [true, false]) {
    it(`gives the scaled positions within 1 mm (${plain ? 'plain' : 'pinned'})`, () => {
      fc.assert(
        fc.property(seeds, fc.double({ min: 0.4, max: 2.5, noNaN: true }), (seed, factor) => {
          const shape = randomShape(seed);
          const character = prepareBody(makeFile(scaled(shape, factor), { axes: seed }));
          const result = transfer(performerOf(shape, seed), character, plain);
          // A body of unusual size may be read in another unit; what counts is its size beside the performer's.
          const read = result.pairing.scale.lift;
          expect(worstDistance(result, read)).toBeLessThan(1e-3);
        }),
        RUNS,
      );
    });
  }
});

describe('property 4: onto other proportions', () => {
  it('holds plants, stays above the floor, neither flips nor pops, and keeps bone lengths', () => {
    fc.assert(
      fc.property(seeds, seeds, (seed, other) => {
        const shape = randomShape(seed);
        const performer = performerOf(shape, seed);
        const character = prepareBody(makeFile(randomShape(other, { spread: [0.5, 2] }), { axes: other }));
        const result = transfer(performer, character, false);
        const figures = measure(result);
        const label = `seeds ${seed}, ${other}`;
        expect(figures.plants.length).withContext(label).toBeGreaterThan(4);
        expect(figures.slide.worst).withContext(label).toBeLessThan(1);
        expect(figures.sink.worst).withContext(label).toBeLessThan(2);
        expect(Math.abs(figures.float)).withContext(label).toBeLessThan(1);
        expect(figures.flips.count).withContext(label).toBe(0);
        expect(figures.pop.ratio).withContext(label).toBeLessThan(1.5);
        expect(figures.likeness.arms).withContext(label).toBeLessThan(3);
        expect(result.clip.rotations.every(Number.isFinite)).withContext(label).toBeTrue();
        expect(result.clip.moves.every(({ values }) => values.every(Number.isFinite)))
          .withContext(label)
          .toBeTrue();
        // Only the root translates: every other joint keeps its rest translation by construction of the clip.
        expect(result.clip.moves.map(({ joint }) => joint))
          .withContext(label)
          .toEqual([0]);
      }),
      { numRuns: 40, seed: 7 },
    );
  });
});

describe('property 5: the same input gives the same bits', () => {
  it('in any engine', () => {
    const shape = randomShape(5);
    const performer = performerOf(shape, 5);
    const character = prepareBody(makeFile(randomShape(9, { spread: [0.6, 1.6] }), { axes: 9 }));
    const { clip } = transfer(performer, character, false);
    const again = transfer(performer, character, false).clip;
    expect(hash(again.rotations)).toBe(hash(clip.rotations));
    // The value was read off Node.js; the browser's run of this file holds it to the same bits.
    expect([hash(clip.rotations), hash(clip.moves[0].values)]).toEqual(EXPECTED_BITS);
  });
});

describe('property 6: a take in the mirror', () => {
  it('gives the mirrored result', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const shape = randomShape(seed);
        const target = randomShape(seed + 3, { spread: [0.6, 1.6] });
        const character = prepareBody(makeFile(target));
        const motion = walk(shape, { seed });
        const here = transfer(prepareBody(makeFile(shape, {}, motion)), character, false);
        const there = transfer(prepareBody(makeFile(shape, {}, mirrored(shape, motion))), character, false);
        const a = new ClipReader(character.skeleton, here.clip);
        const b = new ClipReader(character.skeleton, there.clip);
        const partner = target.joints.map(({ role }) => target.joints.findIndex((joint) => joint.role === mirrorRole(role)));
        for (let f = 0; f < here.clip.frames; f += 9) {
          const p = a.at(f).positions;
          const q = b.at(f).positions;
          partner.forEach((other, j) => {
            expect(q[j * 3])
              .withContext(`${target.joints[j].role}, frame ${f}, seed ${seed}`)
              .toBeCloseTo(-p[other * 3], 3);
            expect(q[j * 3 + 1]).toBeCloseTo(p[other * 3 + 1], 3);
            expect(q[j * 3 + 2]).toBeCloseTo(p[other * 3 + 2], 3);
          });
        }
      }),
      { numRuns: 6, seed: 11 },
    );
  });
});

describe('property 8: a setting changed and changed back', () => {
  it('gives the first result, bit for bit', () => {
    const performer = performerOf(randomShape(13, { clavicles: true }), 13);
    const character = prepareBody(makeFile(randomShape(14, { clavicles: true }), { axes: 2 }));
    const result = (settings: Partial<typeof DEFAULT_PAIRING>): string => {
      const { clip } = solve(makePairing(performer, character, { ...DEFAULT_PAIRING, ...settings }), clipOf(performer));
      return hash(clip.rotations) + hash(clip.moves[0].values);
    };
    const first = result({});
    for (const change of [{ stride: 'marks' as const }, { lift: 1.1 }, { clavicles: 'match' as const }]) {
      expect(result(change)).not.toBe(first);
      expect(result({})).toBe(first);
    }
  });
});

describe('property 7: a take shifted and turned on the floor', () => {
  it('gives the shifted, turned result', () => {
    fc.assert(
      fc.property(seeds, fc.integer({ min: -170, max: 170 }), (seed, heading) => {
        const shape = randomShape(seed);
        const character = prepareBody(makeFile(randomShape(seed + 1), { axes: 3 }));
        const at: [number, number] = [1.3, -2.1];
        const here = transfer(performerOf(shape, seed), character, false);
        const there = transfer(prepareBody(makeFile(shape, {}, walk(shape, { seed, heading, at }))), character, false);
        const a = new ClipReader(character.skeleton, here.clip);
        const b = new ClipReader(character.skeleton, there.clip);
        const { stride } = here.pairing.scale;
        const r = (heading * Math.PI) / 180;
        for (let f = 0; f < here.clip.frames; f += 7) {
          const p = a.at(f).positions;
          const q = b.at(f).positions;
          for (let i = 0; i < p.length; i += 3) {
            expect(q[i]).toBeCloseTo(p[i] * Math.cos(r) + p[i + 2] * Math.sin(r) + at[0] * stride, 3);
            expect(q[i + 1]).toBeCloseTo(p[i + 1], 3);
            expect(q[i + 2]).toBeCloseTo(-p[i] * Math.sin(r) + p[i + 2] * Math.cos(r) + at[1] * stride, 3);
          }
        }
      }),
      { numRuns: 4, seed: 3 },
    );
  });
});

const EXPECTED_BITS = ['70bae7f7', '1cbd62f1'];

/** FNV-1a over the bytes of numbers. */
function hash(values: Float32Array): string {
  const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
  let h = 0x811c9dc5;
  for (const byte of bytes) h = Math.imul(h ^ byte, 0x01000193) >>> 0;
  return h.toString(16);
}
