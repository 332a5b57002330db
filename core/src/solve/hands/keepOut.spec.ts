import { findContacts } from '../../contact';
import { gapTo, prepareRig } from '../../rig';
import { makePairing } from '../../match';
import { ballSkin, figureOf, judged, makeFile, performerOf, plainName, randomShape, reaching, walk, type Reach } from '../../testing';
import { DEFAULT_SOLVE, solve, type SolveSettings } from '..';
import { traceLimbs } from '../limbTrack';
import { planPose } from '../plan';
import { posePerformance } from '../pose';
import { placeRoot } from '../root';
import { steadyHips } from '../steady';
import { roomOf } from './keepOut';
import { bodyRooms } from './rooms';

const FRAMES = 180;
const smooth = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t));

/** One hand goes to the face and stays before it; on a body with a large head it would be in it. */
function toFace(seed: number, radius: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
  const stand = walk(shape, { seed, frames: FRAMES, pace: 0, noise: 3e-4, crouch: 0.05 });
  const face: Reach = (f, shoulder, arm) => {
    const there = smooth((f - 20) / 50) * (1 - smooth((f - 130) / 40));
    const hanging = [shoulder[0], shoulder[1] - 0.9 * arm, shoulder[2] + 0.2 * arm];
    const at = [0.02, shoulder[1] + 0.22, shoulder[2] + 0.09];
    return hanging.map((x, c) => x + (at[c] - x) * there) as unknown as [number, number, number];
  };
  const { rig, clip } = performerOf(shape, reaching(shape, stand, { left: face }));
  const file = makeFile(randomShape(seed + 30, { clavicles: true, spine: 3, neck: 1, spread: [0.9, 1.1] }), { axes: seed });
  const skin = ballSkin(file, { [plainName('head')]: radius, [plainName('spine.3')]: 0.12 });
  const character = prepareRig({ ...file, skin });
  const pairing = makePairing(rig, character);
  return { skin, pairing, held: solve(pairing, clip), plain: solve(pairing, clip, { ...DEFAULT_SOLVE, plain: true }) };
}

describe('hands and the body’s own room', () => {
  it('is known from the mesh, and how far a point is out of it', () => {
    const { pairing } = toFace(1, 0.13);
    const { character } = pairing;
    const head = character.volumes.find(({ role }) => role === 'head')!;
    head.half.forEach((half) => expect(half).toBeCloseTo(0.13, 1));
    const out = new Float64Array(3);
    const P = character.restPose.positions.slice(head.joint * 3, head.joint * 3 + 3);
    const gap = gapTo(head, character.restPose, Float64Array.of(P[0], P[1], P[2] + 0.3), 0, out);
    expect(gap).toBeCloseTo(0.3 - head.half[2], 2);
    [0, 0, 1].forEach((x, c) => expect(out[c]).toBeCloseTo(x, 2));
    expect(gapTo(head, character.restPose, P, 0, out)).toBeLessThan(-0.1);
  });

  it('stay apart, where the plain transfer puts a hand into the head; nothing shakes or flips for it', () => {
    let caught = 0;
    for (const seed of [1, 2, 3, 4, 5]) {
      const { skin, held, plain } = toFace(seed, 0.2);
      const before = figureOf(plain, 'inside', judged(plain, skin));
      if (before > 60) caught++;
      const verdict = judged(held, skin);
      expect(figureOf(held, 'inside', verdict))
        .withContext(`${seed}, ${before} before`)
        .toBeLessThan(Math.max(20, before / 3));
      expect(figureOf(held, 'flips', verdict))
        .withContext(`${seed}`)
        .toBe(0);
      expect(figureOf(held, 'elbows', verdict))
        .withContext(`${seed}`)
        .toBeLessThan(1.5);
    }
    expect(caught).withContext('faults that the judge sees without it').toBeGreaterThan(2);
  });

  it('are let be where a person wants it, and hands follow what they touch as far as is asked', () => {
    const { skin, pairing, held } = toFace(2, 0.2);
    const of = (settings: Partial<SolveSettings>) => {
      const transfer = solve(pairing, held.take, { ...DEFAULT_SOLVE, ...settings });
      return figureOf(transfer, 'inside', judged(transfer, skin));
    };
    expect(of({ keepOut: false })).toBeGreaterThan(of({}) + 20);
    const free = solve(pairing, held.take, { ...DEFAULT_SOLVE, keepOut: false, hands: 0 });
    const plain = solve(pairing, held.take, { ...DEFAULT_SOLVE, plain: true });
    const arm = pairing.character.roles.get('left.lowerArm')! * 4;
    const joints = pairing.character.skeleton.parents.length * 4;
    for (let f = 0; f < FRAMES; f += 10)
      expect(free.clip.rotations[f * joints + arm]).toBeCloseTo(plain.clip.rotations[f * joints + arm], 5);
  });

  it('change nothing for hands that keep away from it', () => {
    const { pairing, held } = toFace(6, 0.04);
    const free = solve(pairing, held.take, { ...DEFAULT_SOLVE, keepOut: false });
    expect(held.clip.rotations.every((x, i) => x === free.clip.rotations[i])).toBeTrue();
  });

  it('keep out of thighs of which nothing but their bones is known', () => {
    const sums = [0, 0];
    for (const seed of [1, 2, 3, 4, 5, 6, 7, 8]) {
      const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
      const stand = walk(shape, { seed, frames: 90, pace: 0, noise: 3e-4, crouch: 0.05 });
      // Past the thigh, from behind to ahead.
      const beside: Reach = (f, shoulder, arm) => [shoulder[0] + 0.06, shoulder[1] - 0.9 * arm, shoulder[2] - 0.2 + (0.5 * f) / 90];
      const { rig, clip } = performerOf(shape, reaching(shape, stand, { left: beside }));
      const own = randomShape(seed + 40, { clavicles: true, spine: 2, neck: 1, spread: [0.95, 1.05] });
      const joints = own.joints.map((joint) => {
        const [x, y, z] = joint.offset;
        if (/upperLeg/.test(joint.role)) return { ...joint, offset: [x * 2.9, y, z] as [number, number, number] };
        const longer = /lowerArm|hand/.test(joint.role) ? 1.2 : 1;
        return { ...joint, offset: [x * longer, y * longer, z * longer] as [number, number, number] };
      });
      const character = prepareRig(makeFile({ ...own, joints }, { axes: seed }));
      const pairing = makePairing(rig, character);
      const [free, kept] = [{ keepOut: false }, {}].map((settings) => {
        const transfer = solve(pairing, clip, { ...DEFAULT_SOLVE, ...settings });
        return figureOf(transfer, 'crossing', judged(transfer));
      });
      expect(kept)
        .withContext(`${seed}, ${free} without`)
        .toBeLessThan(free + 1);
      sums[0] += free;
      sums[1] += kept;
    }
    // The judge's bodies are thicker than what is certain of a lean one.
    expect(sums[0]).withContext('hands that would be in a thigh').toBeGreaterThan(400);
    expect(sums[1]).toBeLessThan(0.93 * sums[0]);
  });

  it('tell of a fore arm across a thigh too, and how far its hand goes for it', () => {
    const shape = randomShape(3, { clavicles: true, spine: 2, neck: 1 });
    const { rig, clip } = performerOf(shape, walk(shape, { seed: 3, frames: 10, pace: 0 }));
    const pairing = makePairing(rig, prepareRig(makeFile(randomShape(43, { clavicles: true, spine: 2, neck: 1 }))));
    const plan = planPose(pairing);
    const posed = posePerformance(pairing, plan, clip, steadyHips(pairing, clip));
    const root = placeRoot(pairing, plan, posed);
    const { frameTime } = clip;
    const given = {
      pairing,
      plan,
      root,
      rotations: posed.rotations,
      contacts: findContacts(rig, clip),
      props: [],
      take: clip,
      frameTime,
      floor: 0,
    };
    const limbs = traceLimbs(pairing, plan, posed, root, plan.limbs);
    const arms = limbs.filter(({ plan: { kind } }) => kind === 'arm');
    const [thigh] = limbs.filter(({ plan: { kind } }) => kind === 'leg');
    const [arm] = arms;
    // Wrist ahead of the thigh, elbow behind it, and the hand straight on: neither is in it.
    const middle = [0, 1, 2].map((c) => (thigh.data[thigh.at.top + c] + thigh.data[thigh.at.mid + c]) / 2);
    const long = Math.hypot(...[0, 1, 2].map((c) => arm.data[arm.at.end + c] - arm.data[arm.at.mid + c]));
    [...middle.slice(0, 2), middle[2] + 0.4 * long].forEach((x, c) => (arm.data[arm.at.end + c] = x));
    [...middle.slice(0, 2), middle[2] - 0.6 * long].forEach((x, c) => (arm.data[arm.at.mid + c] = x));
    const shifts = arms.map(() => new Float64Array(clip.frames * 3));
    const room = roomOf(given, bodyRooms(given, arms)!, arms, new Uint8Array(clip.frames));
    const deepest = (): { depth: number; way: number[] } => {
      let found = { depth: -Infinity, way: [0, 0, 0] };
      room(shifts, Uint8Array.of(1, ...new Uint8Array(clip.frames - 1)), ({ hand, depth }, way) => {
        if (hand === 0 && depth > found.depth) found = { depth, way: [...way] };
      });
      return found;
    };
    const { depth, way } = deepest();
    expect(depth).toBeGreaterThan(0.03);
    way.forEach((x, c) => (shifts[0][c] = depth * x));
    expect(deepest().depth).toBeLessThan(0.1 * depth);
    // Where both are in it, both are told of: their ways out are not the same.
    shifts[0].fill(0);
    middle.forEach((x, c) => (arm.data[arm.at.end + c] = x));
    [middle[0] + 0.1 * long, middle[1] + long, middle[2]].forEach((x, c) => (arm.data[arm.at.mid + c] = x));
    const told: boolean[] = [];
    room(shifts, Uint8Array.of(1, ...new Uint8Array(clip.frames - 1)), ({ hand, depth, isForeArm }) => {
      if (hand === 0 && depth > 0) told.push(isForeArm);
    });
    expect(told).toEqual(jasmine.arrayWithExactContents([true, false]));
  });
});
