import * as fc from 'fast-check';
import { ClipReader } from '../clip';
import { angleBetween as turnBetween } from '../math/quat';
import { angleBetween } from '../math/vec';
import { DEG } from '../math/trig';
import { DEFAULT_SKELETON, type SkeletonChoices, type Turns } from '../recipe';
import { makeFile, randomShape, walk } from '../testing';
import { applyTurns, clipOf, copyPose, keepPose, mirrorTurn, prepareRig, press, turnsBetween, type Rig } from '.';

const shape = randomShape(61, { clavicles: true, spine: 3, neck: 1, fingers: 3 });
const seeds = fc.integer({ min: 1, max: 1e6 });
const with_ = (choices: Partial<SkeletonChoices>): SkeletonChoices => ({ ...DEFAULT_SKELETON, ...choices });
const way = (body: Rig, from: string, to: string): Float64Array => {
  const [a, b] = [body.roles.get(from)! * 3, body.roles.get(to)! * 3];
  const p = body.restPose.positions;
  return Float64Array.of(p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]);
};
const off = (a: Float64Array, b: Float64Array): number => angleBetween(a, 0, b, 0) / DEG;

describe('what a person decides about a skeleton', () => {
  const file = makeFile(shape, { metres: 0.01, up: '+Z', axes: 3 }, walk(shape, { seed: 2, frames: 40 }));

  it('holds in place of unit, up axis and facing, with a word that it was set', () => {
    const guessed = prepareRig(file);
    const inch = prepareRig(file, 0, with_({ unit: 0.0254 }));
    expect([inch.unit.unit, inch.unit.reason]).toEqual(['inch', 'set by hand']);
    expect(inch.legLength / guessed.legLength).toBeCloseTo(2.54, 5);
    const lying = prepareRig(file, 0, with_({ up: '+Y' }));
    expect([lying.up, lying.upReason]).toEqual(['+Y', 'set by hand']);
    const turned = prepareRig(file, 0, with_({ facing: 90 }));
    expect([turned.facing / DEG, turned.left[0], turned.left[2]].map((x) => Math.round(x * 1e6) / 1e6 + 0)).toEqual([90, 0, -1]);
  });

  it('gives the rest pose of any frame of a take to every file of the skeleton', () => {
    const clip = file.clips[0];
    const frame = 17;
    const kept = keepPose(file.skeleton, 'frame 18', clip.rotations, frame * file.skeleton.names.length * 4);
    const other = prepareRig(makeFile(shape, { metres: 0.01, up: '+Z', axes: 3 }), 0, with_({ rest: kept, up: '+Z', unit: 0.01 }));
    const performer = prepareRig(file);
    const pose = new ClipReader(performer.skeleton, clipOf(file, performer)).at(frame);
    expect([other.rest.source, other.rest.reason]).toEqual(['kept', 'the rest pose "frame 18"']);
    for (let j = 0; j < file.skeleton.names.length; j++) {
      expect(turnBetween(other.restPose.rotations, j * 4, pose.rotations, j * 4) / DEG).toBeLessThan(0.05);
    }
  });
});

describe('turns by hand', () => {
  const turnsOf = (seed: number): Turns => {
    const angle = (k: number): number => ((seed * (k + 3)) % 97) - 48;
    return {
      'left.upperArm': [angle(1), angle(2), angle(3)],
      'left.lowerArm': [angle(4), angle(5), angle(6)],
      'spine.2': [angle(7), 0, angle(8)],
    };
  };

  it('are found again from the pose that they make, with any axes, up axis and heading', () => {
    fc.assert(
      fc.property(seeds, fc.constantFrom('+Y', '+Z', '-X'), (seed, up) => {
        const body = prepareRig(makeFile(shape, { axes: seed, up }));
        const turns = turnsOf(seed);
        const pose = copyPose(body.restPose);
        applyTurns(pose, body.skeleton, body.roles, turns, body);
        const found = turnsBetween(body.restPose, pose, body.skeleton, body.roles, body);
        expect(Object.keys(found).sort()).toEqual(
          Object.keys(turns)
            .filter((r) => turns[r].some((d) => Math.abs(d) > 1e-4))
            .sort(),
        );
        for (const [role, turn] of Object.entries(found))
          turn.forEach((d, c) => expect(d).withContext(role).toBeCloseTo(turns[role][c], 6));
      }),
      { numRuns: 15, seed: 5 },
    );
  });

  it('mean the same for every file of a body, and move the mirrored limb to the mirrored place', () => {
    const plain = prepareRig(makeFile(shape), 0, with_({ turns: { 'left.upperArm': [20, -30, 10] } }));
    const other = prepareRig(makeFile(shape, { axes: 9, up: '+Z', metres: 0.01 }), 0, with_({ turns: { 'left.upperArm': [20, -30, 10] } }));
    expect(off(way(plain, 'left.upperArm', 'left.hand'), way(other, 'left.upperArm', 'left.hand'))).toBeLessThan(0.001);
    const [role, turn] = mirrorTurn('left.upperArm', [20, -30, 10]);
    const both = prepareRig(makeFile(shape), 0, with_({ turns: { 'left.upperArm': [20, -30, 10], [role]: turn } }));
    const l = way(both, 'left.upperArm', 'left.hand');
    const r = way(both, 'right.upperArm', 'right.hand');
    [-1, 1, 1].forEach((s, c) => expect(r[c]).toBeCloseTo(s * l[c], 6));
  });
});

describe('single presses', () => {
  it('do what they say from any rest pose, and leave the rest of the body alone', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const file = makeFile(shape, { axes: seed, rest: { seed, degrees: 25, whole: true }, pointedFeet: 20 });
        const before = prepareRig(file);
        const after = (which: Parameters<typeof press>[1]): Rig => prepareRig(file, 0, with_({ turns: press(before, which) }));
        const level = after('level-arms');
        for (const [side, s] of [
          ['left', 1],
          ['right', -1],
        ] as const) {
          const out = before.left.map((x) => x * s);
          expect(off(way(level, `${side}.upperArm`, `${side}.lowerArm`), out)).toBeLessThan(0.01);
          expect(off(way(level, `${side}.lowerArm`, `${side}.hand`), out)).toBeLessThan(0.01);
          expect(off(way(level, `${side}.upperLeg`, `${side}.foot`), way(before, `${side}.upperLeg`, `${side}.foot`))).toBeLessThan(1e-6);
          const straight = after('straight-legs');
          expect(off(way(straight, `${side}.upperLeg`, `${side}.foot`), Float64Array.of(0, -1, 0))).toBeLessThan(0.01);
          const [foot, toes] = [`${side}.foot`, `${side}.toes`];
          expect(off(way(straight, foot, toes), way(before, foot, toes))).toBeLessThan(1e-4);
          const flat = after('flat-feet');
          const d = way(flat, foot, toes);
          expect(Math.asin(d[1] / Math.hypot(...d)) / DEG).toBeCloseTo(-28, 3);
        }
      }),
      { numRuns: 10, seed: 11 },
    );
  });

  it('can be pressed again without doing more', () => {
    const file = makeFile(shape, { axes: 4, rest: { seed: 3, degrees: 30 } });
    const once = prepareRig(file, 0, with_({ turns: press(prepareRig(file), 'level-arms') }));
    const twice = press(once, 'level-arms');
    for (const [role, turn] of Object.entries(press(prepareRig(file), 'level-arms'))) {
      turn.forEach((d, c) => expect(twice[role][c]).toBeCloseTo(d, 3));
    }
    expect(once.isRestClean).toBeTrue();
    expect(once.rest.reason).toContain('turned by hand');
  });

  it('set bent fingers on the line of their first bone', () => {
    const finger = randomShape(5, { fingers: 3, ends: true });
    const joints = finger.joints.map((j) =>
      j.role === 'left.index.end' ? { ...j, role: 'left.index.3', offset: [0.01, -0.02, 0] as const } : j,
    );
    const file = makeFile({ ...finger, joints }, { names: (role) => role.replace('left.', 'L_').replace('right.', 'R_').replace('.', '') });
    const body = prepareRig(file);
    if (!body.roles.has('left.index.3')) return fail('the test finger has no third joint');
    expect(off(way(body, 'left.index.2', 'left.index.3'), way(body, 'left.index.1', 'left.index.2'))).toBeGreaterThan(30);
    const straight = prepareRig(file, 0, with_({ turns: press(body, 'straight-fingers') }));
    expect(off(way(straight, 'left.index.2', 'left.index.3'), way(straight, 'left.index.1', 'left.index.2'))).toBeLessThan(0.01);
  });
});
