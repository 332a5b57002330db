import * as fc from 'fast-check';
import { limbSegments, prepareRig, type Rig } from '../rig';
import { DEFAULT_PAIRING } from '../recipe';
import { makePairing } from '.';
import { makeFile, performerOf, randomShape, scaled, walk } from '../testing';
import { ClipReader } from '../clip';
import { fromAxisAngle, mul, rotate, unrotate } from '../math/quat';
import { angleBetween } from '../math/vec';
import { solve } from '../solve';
import { compareBodies } from './likeness';
import { makeLinks } from './links';

const performer = prepareRig(
  makeFile(
    randomShape(51, { clavicles: true, spine: 2, neck: 1 }),
    {},
    walk(randomShape(51, { clavicles: true, spine: 2, neck: 1 }), { frames: 20 }),
  ),
);
const seeds = fc.integer({ min: 1, max: 1e6 });

function other(seed: number, options = {}): Rig {
  return prepareRig(makeFile(randomShape(seed, { spread: [0.6, 1.6], ...options }), { axes: seed, rest: { seed, degrees: 35 } }));
}

describe('comparing bodies', () => {
  it('knows the same body in another rest, axes and size, and no other', () => {
    const shape = randomShape(60, { clavicles: true });
    const a = prepareRig(makeFile(shape));
    expect(compareBodies(a, prepareRig(makeFile(shape, { axes: 2, rest: { seed: 9, degrees: 40 } }))).same).toBeTrue();
    const bigger = compareBodies(a, prepareRig(makeFile(scaled(shape, 1.3))));
    expect([bigger.same, Math.round(bigger.ratio * 1000)]).toEqual([true, 1300]);
    expect(compareBodies(a, prepareRig(makeFile(randomShape(61, { clavicles: true })))).same).toBeFalse();
  });
});

describe('matching rest poses', () => {
  it('brings every limb segment within 0.01° of the performer’s direction', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const { match } = makePairing(performer, other(seed));
        for (const { role, after } of match.residuals.filter((r) => !r.role.includes('clavicle'))) {
          expect(after).withContext(`${role}, seed ${seed}`).toBeLessThan(0.01);
        }
      }),
      { numRuns: 20, seed: 2 },
    );
  });

  it('keeps the trunk’s own shape between unlike bodies, and the clavicles unless told otherwise', () => {
    const character = prepareRig(makeFile(randomShape(70, { clavicles: true, spine: 4, neck: 1, spread: [0.6, 1.6] }), { axes: 7 }));
    const { match } = makePairing(performer, character);
    expect(match.method).toBe('own trunk');
    const way = (body: Rig, positions: Float64Array, a: string, b: string): Float64Array =>
      Float64Array.from([0, 1, 2].map((c) => positions[body.roles.get(b)! * 3 + c] - positions[body.roles.get(a)! * 3 + c]));
    for (const [a, b] of [
      ['spine.1', 'spine.2'],
      ['hips', 'spine.1'],
      ['neck.1', 'head'],
    ]) {
      expect(
        angleBetween(way(character, character.restPose.positions, a, b), 0, way(character, match.pose.positions, a, b), 0),
      ).toBeLessThan(1e-6);
    }
    const kept = match.residuals.find((r) => r.role === 'left.clavicle')!;
    const matched = makePairing(performer, character, { ...DEFAULT_PAIRING, clavicles: 'match' }).match.residuals.find(
      (r) => r.role === 'left.clavicle',
    )!;
    expect(kept.after).toBeGreaterThan(1);
    expect(matched.after).toBeLessThan(0.01);
  });

  it('keeps feet flat and turns them in heading only', () => {
    const character = other(71);
    const { match } = makePairing(performer, character);
    for (const foot of character.feet) {
      const theirs = performer.feet.find((f) => f.side === foot.side)!;
      const toes = foot.toes >= 0 ? foot.toes : foot.foot;
      const x = match.pose.positions[toes * 3] - match.pose.positions[foot.foot * 3];
      const z = match.pose.positions[toes * 3 + 2] - match.pose.positions[foot.foot * 3 + 2];
      const n = Math.hypot(x, z);
      if (foot.toes >= 0) {
        expect(x / n).toBeCloseTo(theirs.heading[0], 4);
        expect(z / n).toBeCloseTo(theirs.heading[2], 4);
        const rise = (p: Float64Array): number => p[toes * 3 + 1] - p[foot.foot * 3 + 1];
        expect(rise(match.pose.positions)).toBeCloseTo(rise(character.restPose.positions), 6);
      }
    }
  });

  it('lists the segments that both have', () => {
    const roles = limbSegments(performer).map((s) => s.role);
    expect(roles).toContain('left.upperArm');
    expect(roles).toContain('right.lowerLeg');
    expect(makePairing(performer, other(72, { clavicles: false })).match.residuals.some((r) => r.role.includes('clavicle'))).toBeFalse();
  });
});

describe('scale', () => {
  it('follows hip heights and leg lengths, and can be overruled', () => {
    const character = other(73);
    const { scale } = makePairing(performer, character);
    expect(scale.lift).toBeCloseTo((character.hipHeight + character.sole.depth) / (performer.hipHeight + performer.sole.depth), 1);
    expect(scale.reason).toContain('legs');
    expect(makePairing(performer, character, { ...DEFAULT_PAIRING, stride: 'marks' }).scale.stride).toBe(1);
    const set = makePairing(performer, character, { ...DEFAULT_PAIRING, stride: 1.7, lift: 0.9 }).scale;
    expect([set.stride, set.lift]).toEqual([1.7, 0.9]);
  });

  it('never scales by a guess: a sole that is not known comes from the other body', () => {
    const shape = randomShape(74, { clavicles: true });
    // Rooted at zero, as BVH often is: nothing shows where the floor is.
    const rootless = { ...shape, joints: shape.joints.map((j) => (j.parent < 0 ? { ...j, offset: [0, 0, 0] as const } : j)) };
    const character = prepareRig(makeFile(rootless));
    expect(character.sole.known).toBe('no');
    const { scale } = makePairing(performer, character);
    expect(scale.lift).toBeCloseTo(character.hipHeight / performer.hipHeight, 2);
  });
});

describe('links', () => {
  it('drive like by like, and every spine joint by its place along the spine', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 6 }), fc.integer({ min: 1, max: 6 }), (from, to) => {
        const p = prepareRig(makeFile(randomShape(80, { spine: from, neck: 1, clavicles: true })));
        const c = prepareRig(makeFile(randomShape(81, { spine: to, neck: 2, clavicles: true })));
        const links = makeLinks(p, c);
        const of = (role: string) => links.find((l) => l.joint === c.roles.get(role))!;
        expect(of('left.hand').a).toBe(p.roles.get('left.hand')!);
        // The chain's end turns exactly as the performer's.
        const end = of(`spine.${to}`);
        expect(end.t === 0 ? end.a : -1).toBe(p.roles.get(`spine.${from}`)!);
        expect(of('head').a).toBe(p.roles.get('head')!);
        let last = -1;
        for (let i = 1; i <= to; i++) {
          const { a, b, t } = of(`spine.${i}`);
          const place = a === b ? a : a + (b - a) * t;
          expect(place).toBeGreaterThan(last);
          last = place;
        }
      }),
      { numRuns: 36, seed: 1 },
    );
  });

  it('leave joints without a partner to their rest', () => {
    const c = prepareRig(makeFile(randomShape(82, { fingers: 3, clavicles: true })));
    const linked = new Set(makeLinks(performer, c).map((l) => l.joint));
    expect(linked.has(c.roles.get('left.index.1')!)).toBeFalse();
  });
});

describe('fingers', () => {
  /** How far a tip is from the palm's middle with all fingers of a rig's clip closed, over how far it is at rest. */
  it('close as a whole fist, those that the performer does not have too, whatever its rest and its joints are', () => {
    for (const [mine, theirs] of [
      [5, 3],
      [4, 2],
      [5, 5],
    ]) {
      const shape = randomShape(90 + mine, { clavicles: true, fingers: theirs });
      const { rig, clip } = performerOf(shape, walk(shape, { frames: 2 }));
      const character = prepareRig(
        makeFile(randomShape(95 + mine, { clavicles: true, fingers: mine }), { axes: mine, rest: { seed: 3, degrees: 20 } }),
      );
      const count = rig.skeleton.names.length;
      const across = new Float64Array(3);
      const q = new Float64Array(4);
      for (const [role, joint] of rig.roles) {
        const side = role.split('.')[0];
        if (!/(index|middle|ring|little)/.test(role)) continue;
        // Fingers of a level arm close about the way ahead, downwards.
        const parent = rig.skeleton.parents[joint];
        unrotate(across, 0, rig.restPose.rotations, parent * 4, rig.forward, 0);
        fromAxisAngle(q, 0, across[0], across[1], across[2], ((side === 'left' ? -1 : 1) * 100 * Math.PI) / 180);
        const o = (count + joint) * 4;
        mul(clip.rotations, o, q, 0, clip.rotations, joint * 4);
      }
      const { clip: solved } = solve(makePairing(rig, character), clip);
      const openness = (body: Rig, motion: typeof clip, role: string): number => {
        const joint = body.roles.get(role)!;
        const hand = body.hands.find((one) => role.startsWith(one.side))!;
        const away = [0, 1].map((frame) => {
          const { positions, rotations } = new ClipReader(body.skeleton, motion).at(frame);
          const palm = new Float64Array(3);
          const tip = new Float64Array(3);
          rotate(palm, 0, rotations, hand.hand * 4, hand.palm, 0);
          rotate(tip, 0, rotations, joint * 4, body.skeleton.tips, joint * 3);
          return Math.hypot(...[0, 1, 2].map((c) => positions[joint * 3 + c] + tip[c] - positions[hand.hand * 3 + c] - palm[c]));
        });
        return away[1] / away[0];
      };
      const closed = openness(rig, clip, 'left.index.2');
      expect(closed).toBeLessThan(0.75);
      for (const finger of ['index', 'middle', 'ring', 'little'].slice(0, mine - 1)) {
        for (const side of ['left', 'right']) {
          expect(openness(character, solved, `${side}.${finger}.2`))
            .withContext(`${side} ${finger} of ${mine} from ${theirs}`)
            .toBeLessThan(closed + 0.25);
        }
      }
    }
  });
});

describe('a pairing', () => {
  it('cautions where bodies are of very unlike size', () => {
    const { warnings } = makePairing(performer, other(84), { ...DEFAULT_PAIRING, lift: 5 });
    expect(warnings.map((w) => w.code)).toContain('match/scale');
  });
});
