import { prepareRig } from '../rig';
import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { DEFAULT_PAIRING } from '../recipe';
import { angle, fromAxisAngle, invMul, mul, rotate, twistAngle } from '../math/quat';
import { makeFile, makeGlb, performerOf, randomShape, walk } from '../testing';
import { readGlb } from '../formats';
import { makeLimbTrack } from './limbTrack';
import { planPose } from './plan';
import { DEFAULT_SOLVE, type SolveSettings } from './settings';
import { solve, SolveMemory } from './solve';
import { STAGES, type StageId } from './stages';
import type { Parts } from './parts';
import { planStances } from './stances';
import { shareTwist } from './twist';
import { relieveRoots, relieveWrists } from './wrists';

describe('stage feet', () => {
  it('stands heel and ball a foot’s length apart along one heading, where they displace the foot least', () => {
    const body = prepareRig(makeFile(randomShape(33, { clavicles: true })));
    const foot = body.feet[0];
    const [plan] = planPose(makePairing(body, body)).limbs;
    const leg = makeLimbTrack(plan, 40);
    const { data, at, stride } = leg;
    for (let f = 0; f < 40; f++) {
      data.set(body.restPose.positions.slice(foot.foot * 3, foot.foot * 3 + 3), f * stride + at.end);
      data[f * stride + at.end] += 0.001 * f;
      data.set(body.restPose.rotations.slice(foot.foot * 4, foot.foot * 4 + 4), f * stride + at.endQ);
    }
    const { anchors, flats } = planStances(
      {
        plants: [
          { side: foot.side, part: 'heel', first: 0, last: 24 },
          { side: foot.side, part: 'ball', first: 5, last: 39 },
        ],
      },
      leg,
      foot,
      { floor: 0, scale: { lift: 1, stride: 1 }, isOwn: false },
    );
    expect(flats).toEqual([jasmine.objectContaining({ first: 5, last: 24 })]);
    const [heel, ball] = anchors;
    const span = Math.hypot(...foot.ball.map((x, c) => x - foot.heel[c]));
    expect(Math.hypot(ball.x - heel.x, ball.z - heel.z)).toBeCloseTo(span, 9);
    // Least squares: displacements over all held frames add up to nothing.
    let sum = 0;
    for (const anchor of anchors) {
      for (let f = anchor.first; f <= anchor.last; f++) {
        const p = new Float64Array(3);
        rotate(p, 0, data, f * stride + at.endQ, anchor.part === 'heel' ? foot.heel : foot.ball, 0);
        sum += p[0] + data[f * stride + at.end] - anchor.x;
      }
    }
    expect(sum).toBeCloseTo(0, 9);
  });

  it('keeps a heel up that the performer has up, on the floor with its ball, and lays the foot that stands most nearly flat', () => {
    const body = prepareRig(makeFile(randomShape(35, { clavicles: true })));
    const foot = body.feet[0];
    const [plan] = planPose(makePairing(body, body)).limbs;
    const leg = makeLimbTrack(plan, 80);
    const { data, at, stride } = leg;
    const [rest, pitch] = [body.restPose.rotations.slice(foot.foot * 4, foot.foot * 4 + 4), new Float64Array(4)];
    for (let f = 0; f < 80; f++) {
      // What the skeleton shows of a flat foot is 2° off; in the second stance the heel is another 12° up.
      fromAxisAngle(pitch, 0, 1, 0, 0, (f < 40 ? 2 : 14) * (Math.PI / 180));
      mul(data, f * stride + at.endQ, pitch, 0, rest, 0);
    }
    const stance = (first: number, last: number) => (['heel', 'ball'] as const).map((part) => ({ side: foot.side, part, first, last }));
    const { anchors, flats } = planStances({ plants: [...stance(5, 30), ...stance(45, 70)] }, leg, foot, {
      floor: 0,
      scale: { lift: 1, stride: 1 },
      isOwn: false,
    });
    const [flat, up] = flats.map(({ y }) => (Math.asin(-y) * 180) / Math.PI);
    expect(flat).toBeCloseTo(0, 6);
    expect(up).toBeGreaterThan(11);
    expect(up).toBeLessThan(12.1);
    for (const { part, first, y } of anchors) {
      if (part === 'ball' || first < 40) expect(y).withContext(`${part} from ${first}`).toBeCloseTo(0, 9);
      else expect(y).withContext(`${part} from ${first}`).toBeGreaterThan(0.02);
    }
  });
});

describe('a solve', () => {
  const shape = randomShape(90, { clavicles: true, spine: 3 });
  const { rig: performer, clip } = performerOf(shape, walk(shape, { seed: 90, frames: 200 }));
  const character = prepareRig(makeFile(randomShape(91, { clavicles: true, ground: true, spread: [0.7, 1.4] }), { axes: 1 }));
  const pairing = makePairing(performer, character);
  const order = STAGES.map(({ id }) => id);

  /** The stages that a solve runs. */
  const ran = (settings: SolveSettings, memory?: SolveMemory, by = pairing): StageId[] => {
    const seen: StageId[] = [];
    solve(by, clip, settings, { memory, onStage: (stage) => seen.push(stage) });
    return seen;
  };

  it('goes through the stages in order; a plain one leaves out what holds feet', () => {
    expect(ran(DEFAULT_SOLVE)).toEqual(order);
    expect(ran({ ...DEFAULT_SOLVE, plain: true })).toEqual(STAGES.filter(({ plain }) => !plain).map(({ id }) => id));
  });

  it('needs only what comes before', () => {
    STAGES.forEach(({ id, needs }, i) => {
      for (const need of needs)
        expect(['pairing', 'take', 'below', 'above', 'rise', 'steer', 'steps', 'past', ...order.slice(0, i)])
          .withContext(`${id} needs ${need}`)
          .toContain(need);
    });
  });

  it('reads only what it says that it needs, and changes nothing of it', () => {
    /** The same object, of which only some entries can be read. */
    const only = <T extends object>(whole: T, names: readonly PropertyKey[], id: string): T =>
      new Proxy(whole, {
        get: (of, name) => {
          if (!names.includes(name)) throw new Error(`${id} reads ${String(name)}`);
          return Reflect.get(of, name);
        },
      });
    for (const plain of [false, true]) {
      const settings = { ...DEFAULT_SOLVE, tails: 1, balance: 0.5, plain };
      const parts: Record<string, unknown> = { pairing, take: clip, below: [], above: [] };
      for (const { id, needs, settings: names, run, plain: instead } of STAGES) {
        const before = JSON.stringify(needs.map((need) => parts[need]));
        const given = only(parts, needs, id) as unknown as Parts;
        parts[id] = plain && instead ? instead(given) : run(given, only(settings, names, id));
        // What several stages are given must be as it was for all of them.
        expect(JSON.stringify(needs.map((need) => parts[need])) === before)
          .withContext(`${id} changes what it is given`)
          .toBe(true);
      }
    }
  });

  it('runs only what follows from a change, with the same bits as a solve from nothing', () => {
    const memory = new SolveMemory();
    const solved = (settings: SolveSettings, by = pairing) => solve(by, clip, settings, { memory }).clip;
    solved(DEFAULT_SOLVE);
    expect(ran(DEFAULT_SOLVE, memory)).toEqual([]);
    for (const [change, stages] of [
      [{ inPlace: true }, ['finish']],
      [{ floor: 'zero' as const }, ['finish']],
      [{ softReach: 0.95 }, ['feet', 'pelvis', 'legs', 'props', 'lean', 'arms', 'twist', 'tails', 'finish']],
      [{ tails: 1 }, ['tails', 'finish']],
      [{ balance: 1 }, ['balance', 'body', 'limbs', 'feet', 'pelvis', 'legs', 'props', 'lean', 'arms', 'twist', 'tails', 'finish']],
      [{ clavicleHelp: 1 }, ['lean', 'arms', 'twist', 'tails', 'finish']],
    ] as const) {
      const settings = { ...DEFAULT_SOLVE, ...change };
      expect(ran(settings, memory))
        .withContext(JSON.stringify(change))
        .toEqual([...stages]);
      const fresh = solve(pairing, clip, settings).clip;
      expect(solved(settings).rotations).toEqual(fresh.rotations);
      expect(solved(settings).moves).toEqual(fresh.moves);
      solved(DEFAULT_SOLVE);
    }
    const turned = makePairing(performer, character, { ...DEFAULT_PAIRING, turns: { 'left.upperArm': [0, 0, 9] } });
    expect(ran(DEFAULT_SOLVE, memory, turned)).toEqual(order);
  });

  it('moves hips only where the file gives hips channels of their own', () => {
    expect(solve(pairing, clip).clip.moves.map((m) => m.joint)).toEqual([0]);
  });

  it('takes a ground joint along under the hips in a GLB skeleton', async () => {
    const file = await readGlb(
      await makeGlb(makeFile(randomShape(91, { clavicles: true, ground: true, spread: [0.7, 1.4] }), { axes: 1 }).skeleton),
      'g.glb',
    );
    const body = prepareRig(file);
    const ground = body.roles.get('ground')!;
    const result = solve(makePairing(performer, body), clip);
    expect(result.clip.moves.map((m) => m.joint)).toEqual([ground, body.roles.get('hips')!]);
    const reader = new ClipReader(body.skeleton, result.clip);
    for (let f = 0; f < 200; f += 20) {
      const p = reader.at(f).positions;
      const mid = (p[body.roles.get('left.upperLeg')! * 3 + 2] + p[body.roles.get('right.upperLeg')! * 3 + 2]) / 2;
      // The hips' tremor, tenths of a millimetre, is theirs alone.
      expect(p[ground * 3 + 2]).toBeCloseTo(mid, 3);
      expect(p[ground * 3 + 1]).toBeCloseTo(0, 6);
    }
  });

  it('gives the same floor at zero, and no travel when asked', () => {
    const raised = { ...clip, moves: clip.moves.map((m) => ({ ...m, values: m.values.map((x, i) => (i % 3 === 1 ? x + 0.4 : x)) })) };
    const kept = solve(pairing, raised);
    const zero = solve(pairing, raised, { ...DEFAULT_SOLVE, floor: 'zero' });
    expect(kept.floor).toBeGreaterThan(0.3);
    expect(zero.floor).toBe(0);
    const at = (c: typeof clip, f: number): Float64Array => new ClipReader(character.skeleton, c).at(f).positions;
    const foot = character.roles.get('left.foot')!;
    expect(at(kept.clip, 50)[foot * 3 + 1] - at(zero.clip, 50)[foot * 3 + 1]).toBeCloseTo(kept.floor, 4);
    const inPlace = solve(pairing, clip, { ...DEFAULT_SOLVE, inPlace: true }).clip;
    const hips = character.roles.get('hips')!;
    expect(Math.abs(at(inPlace, 199)[hips * 3 + 2] - at(inPlace, 0)[hips * 3 + 2])).toBeLessThan(1e-4);
    expect(Math.abs(at(kept.clip, 199)[hips * 3 + 2] - at(kept.clip, 0)[hips * 3 + 2])).toBeGreaterThan(0.5);
  });

  it('keeps every number finite where a take is one frame, or stands on one spot', () => {
    for (const frames of [1, 2, 3]) {
      const result = solve(pairing, {
        ...clip,
        frames,
        rotations: clip.rotations.slice(0, frames * shape.joints.length * 4),
        moves: clip.moves.map((m) => ({ ...m, values: m.values.slice(0, frames * 3) })),
      });
      expect(result.clip.frames).toBe(frames);
      expect(result.clip.rotations.every(Number.isFinite)).toBeTrue();
    }
  });
});

describe('stage twist', () => {
  it('passes a wrung hand’s turn on to a fore arm without twist joints, and moves nothing', () => {
    const shape = randomShape(96, { clavicles: true });
    const { rig: performer, clip: take } = performerOf(shape, walk(shape, { frames: 30 }));
    const character = prepareRig(makeFile(randomShape(97, { clavicles: true })));
    const pairing = makePairing(performer, character);
    const { clip } = solve(pairing, take);
    const [hand, fore] = ['right.hand', 'right.lowerArm'].map((role) => character.roles.get(role)!);
    const count = character.skeleton.names.length;
    const bone = character.skeleton.restT.slice(hand * 3, hand * 3 + 3);
    const length = Math.hypot(...bone);
    const wring = new Float64Array(4);
    // Step by step to beyond half a turn: what is wrung is told by the way there.
    for (let f = 0; f < 30; f++) {
      const half = (f * 7 * Math.PI) / 360;
      wring.set([...bone].map((x) => (x / length) * Math.sin(half)));
      wring[3] = Math.cos(half);
      mul(clip.rotations, (f * count + hand) * 4, wring, 0, clip.rotations, (f * count + hand) * 4);
    }
    const poses = (c: typeof clip, f: number) => {
      const pose = new ClipReader(character.skeleton, c).at(f);
      return { hand: pose.positions.slice(hand * 3, hand * 3 + 3), turn: pose.rotations.slice(hand * 4, hand * 4 + 4) };
    };
    const before = Array.from({ length: 30 }, (_, f) => poses(clip, f));
    const untouched = clip.rotations.slice(0, count * 4);
    relieveWrists(pairing, take, clip.rotations);
    expect(clip.rotations.slice(0, count * 4)).toEqual(untouched);
    for (let f = 0; f < 30; f++) {
      const after = poses(clip, f);
      after.hand.forEach((x, c) => expect(x).toBeCloseTo(before[f].hand[c], 5));
      invMul(wring, 0, before[f].turn, 0, after.turn, 0);
      expect(angle(wring, 0)).toBeLessThan(1e-4);
      const own = twistAngle(clip.rotations, (f * count + hand) * 4, bone[0] / length, bone[1] / length, bone[2] / length);
      expect(Math.abs(own)).toBeLessThan(Math.PI / 2 + 0.35);
    }
    const last = (29 * count + fore) * 4;
    expect(Math.abs(twistAngle(clip.rotations, last, bone[0] / length, bone[1] / length, bone[2] / length))).toBeGreaterThan(0.8);
  });

  it('passes an upper arm wrung about itself on to the elbow, and moves nothing that one sees', () => {
    for (const [part, next] of [
      ['upperArm', 'lowerArm'],
      ['upperLeg', 'lowerLeg'],
    ]) {
      const shape = randomShape(98, { clavicles: true });
      const { rig: performer, clip: take } = performerOf(shape, walk(shape, { frames: 30 }));
      const character = prepareRig(makeFile(randomShape(99, { clavicles: true })));
      const pairing = makePairing(performer, character);
      const { clip } = solve(pairing, take);
      const [upper, lower] = [part, next].map((name) => character.roles.get(`left.${name}`)!);
      const count = character.skeleton.names.length;
      const bone = character.skeleton.restT.slice(lower * 3, lower * 3 + 3);
      const length = Math.hypot(...bone);
      const wring = new Float64Array(4);
      for (let f = 0; f < 30; f++) {
        const half = (f * 6 * Math.PI) / 360;
        wring.set([...bone].map((x) => (x / length) * Math.sin(half)));
        wring[3] = Math.cos(half);
        mul(clip.rotations, (f * count + upper) * 4, clip.rotations, (f * count + upper) * 4, wring, 0);
      }
      const turnsOf = (f: number): Float64Array[] => {
        const { rotations } = new ClipReader(character.skeleton, clip).at(f);
        return [upper, lower].map((joint) => rotations.slice(joint * 4, joint * 4 + 4));
      };
      const before = Array.from({ length: 30 }, (_, f) => turnsOf(f));
      relieveRoots(pairing, take, clip.rotations);
      for (let f = 0; f < 30; f++) {
        const after = turnsOf(f);
        invMul(wring, 0, before[f][1], 0, after[1], 0);
        expect(angle(wring, 0)).withContext(`${next} ${f}`).toBeLessThan(1e-4);
        // The bone itself turns about its own line only, and not at all while it is in its limits.
        invMul(wring, 0, before[f][0], 0, after[0], 0);
        const own = twistAngle(wring, 0, bone[0] / length, bone[1] / length, bone[2] / length);
        expect(Math.abs(angle(wring, 0) - Math.abs(own))).toBeLessThan(1e-4);
        if (f < 8) expect(angle(wring, 0)).toBeLessThan(1e-6);
        if (f === 29) expect(Math.abs(own)).withContext(part).toBeGreaterThan(0.8);
      }
    }
  });

  it('spreads a hand’s turn along the fore arm, and takes an upper arm’s turn back towards the shoulder', () => {
    const shape = randomShape(95, { clavicles: true });
    const joints = [...shape.joints];
    const add = (role: string, on: string, share: number, towards: string): void => {
      const parent = joints.findIndex((j) => j.role === on);
      const [x, y, z] = joints.find((j) => j.role === towards)!.offset;
      joints.push({ role, parent, offset: [x * share, y * share, z * share] });
    };
    add('left.lowerArm.twist.1', 'left.lowerArm', 0.5, 'left.hand');
    add('left.upperArm.twist.1', 'left.upperArm', 0.25, 'left.lowerArm');
    const names = (role: string): string =>
      role.includes('twist')
        ? `${role.split('.')[1]}Twist_L`
        : role.replace('left.', '').replace('right.', '') + (role.startsWith('left') ? '_L' : role.startsWith('right') ? '_R' : '');
    const body = prepareRig(makeFile({ joints, tips: shape.tips }, { names }));
    const [fore, upper] = ['left.lowerArm.twist.1', 'left.upperArm.twist.1'].map((role) => body.roles.get(role)!);
    expect([fore, upper].every((j) => j !== undefined)).toBeTrue();
    const count = joints.length;
    const rotations = new Float32Array(count * 4);
    rotations.set(body.skeleton.restR);
    const turn = (role: string, angle: number): void => {
      const j = body.roles.get(role)!;
      rotations.set([Math.sin(angle / 2), 0, 0, Math.cos(angle / 2)], j * 4);
    };
    turn('left.hand', 0.8);
    turn('left.upperArm', 0.6);
    shareTwist(body, body.skeleton.restR, new Uint8Array(count), rotations);
    expect(twistAngle(rotations, fore * 4, 1, 0, 0)).toBeCloseTo(0.4, 2);
    expect(twistAngle(rotations, upper * 4, 1, 0, 0)).toBeCloseTo(-0.45, 2);
    expect(twistAngle(rotations, body.roles.get('left.hand')! * 4, 1, 0, 0)).toBeCloseTo(0.8, 5);
  });
});
