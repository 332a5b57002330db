import { type Clip } from '../clip';
import { quat } from '../math';
import { random } from '../math/random';
import { makeLayer, LAYER_ENDS, type Layer } from '../recipe';
import { movedOn, turnedOn, turnFromRest } from './drag';
import { frameOf, placeIn } from './reach';
import { mend } from './mend';
import { FRAMES, timeOf, scenes, key, always, turns, reach, filters, same, isPlanted, lowestFoot, away } from './scenes.spec';

describe('layers', () => {
  it('that do nothing change no bit', () => {
    for (const { clip, lay } of scenes) {
      const idle: Partial<Layer>[] = [{ strength: 0 }, { on: false }, { mask: { from: 900, to: 901, fade: 0.5 } }];
      for (const layer of [turns('head', always([20, 30, 10])), reach('left.hand', always([5, 5, 5])), ...filters()]) {
        for (const more of idle)
          expect(same(lay({ ...layer, ...more }), clip))
            .withContext(`${layer.name} ${JSON.stringify(more)}`)
            .toBeTrue();
      }
      expect(same(lay(turns('head', [])), clip)).toBeTrue();
    }
  });

  it('change nothing outside their time', () => {
    for (const scene of scenes) {
      const mask = { from: 1.5, to: 2, fade: 0.2 };
      for (const layer of [turns('spine.2', always([25, 0, 0])), reach('hips', always([0, -6, 0])), ...filters().slice(0, 4)]) {
        const after = scene.lay({ ...layer, mask });
        for (const role of ['hips', 'head', 'left.foot', 'right.hand'])
          expect(away(scene, scene.clip, after, role, (f) => timeOf(f) < 1.29 || timeOf(f) > 2.21)).toBe(0);
      }
    }
  });

  it('alone are laid on without the others', () => {
    const [{ lay }] = scenes;
    const [nod, lean] = [turns('head', always([20, 0, 0])), turns('spine.1', always([10, 0, 0]))];
    expect(same(lay(nod, { ...lean, alone: true }), lay(lean))).toBeTrue();
    expect(same(lay(nod, { ...lean, alone: true, on: false }), lay(nod))).toBeTrue();
  });

  it('turn a joint about the axes of the body, whatever its own are', () => {
    for (const { rig, clip, read, lay } of scenes) {
      const after = lay(turns('head', always([0, 40, 0])));
      const joint = rig.roles.get('head')!;
      const [a, b, d] = [new Float64Array(4), new Float64Array(4), new Float64Array(7)];
      for (let f = 0; f < FRAMES; f += 17) {
        // The head's turn from rest is what it was, after 40° to its left about the body's own vertical.
        quat.mulInv(a, 0, read(clip).at(f).rotations, joint * 4, rig.restPose.rotations, joint * 4);
        quat.mulInv(b, 0, read(after).at(f).rotations, joint * 4, rig.restPose.rotations, joint * 4);
        quat.invMul(d, 0, a, 0, b, 0);
        quat.log(d, 4, d, 0);
        expect(d[4]).toBeCloseTo(0, 4);
        expect(d[5]).toBeCloseTo((40 * Math.PI) / 180, 4);
        expect(d[6]).toBeCloseTo(0, 4);
      }
    }
  });

  it('that replace a turn leave the joint so, at any frame', () => {
    for (const { rig, lay } of scenes) {
      const does: Layer['does'] = { kind: 'turns', way: 'replace', tracks: [{ role: 'left.lowerArm', keys: always([0, 0, 0]) }] };
      const joint = rig.roles.get('left.lowerArm')!;
      const { rotations } = lay(makeLayer({ name: 'straight', does }));
      const count = rig.skeleton.parents.length;
      const first = rotations.slice(joint * 4, joint * 4 + 4);
      for (let f = 0; f < FRAMES; f++) {
        const o = (f * count + joint) * 4;
        expect(quat.angleBetween(first, 0, rotations, o)).toBeLessThan(1e-3);
      }
    }
  });

  it('bring limb ends to where they are keyed, and leave them as they are turned', () => {
    const rng = random(5);
    for (const scene of scenes) {
      const { rig, clip, read, lay } = scene;
      for (const end of LAYER_ENDS) {
        // A little towards the middle of the body: within any limb's reach.
        const value: [number, number, number] =
          end === 'head' ? [2, 0, 3] : end.endsWith('foot') ? [rng.range(-2, 2), 4, 3] : [end.startsWith('left') ? -4 : 4, 1, 0];
        const after = lay(reach(end, always(value), { asPosed: true }));
        const joint = rig.roles.get(end)!;
        const way = Float64Array.from({ length: 3 }, (_, c) => (value[0] * rig.left[c] + value[2] * rig.forward[c]) / 100);
        way[1] += value[1] / 100;
        for (let f = 0; f < FRAMES; f += 23) {
          const [was, is] = [read(clip).at(f), read(after).at(f)];
          for (let c = 0; c < 3; c++)
            expect(is.positions[joint * 3 + c] - was.positions[joint * 3 + c])
              .withContext(`${end}, frame ${f}`)
              .toBeCloseTo(way[c], end === 'head' ? 2 : 3);
          if (end !== 'hips') expect(quat.angleBetween(was.rotations, joint * 4, is.rotations, joint * 4)).toBeLessThan(5e-3);
        }
      }
    }
  });

  it('keep planted feet where they are while the body above them goes elsewhere', () => {
    for (const scene of scenes) {
      const { lay, clip } = scene;
      const moved: Layer[] = [
        reach('hips', [key(0, [0, 0, 0]), key(1, [3, -5, 2]), key(2.5, [-3, -2, 0]), key(3.5, [0, 0, 0])]),
        turns('hips', [key(0.5, [0, 0, 0]), key(2, [6, 12, 0]), key(3, [0, 0, 0])]),
        makeLayer({ name: 'more', does: { kind: 'amount', factor: 1.3, parts: ['way'] } }),
      ];
      for (const layer of moved) {
        const after = lay(layer);
        expect(away(scene, clip, after, 'head'))
          .withContext(layer.name)
          .toBeGreaterThan(0.005);
        for (const side of ['left', 'right']) {
          const held = isPlanted(scene, side);
          expect(away(scene, clip, after, `${side}.foot`, held))
            .withContext(`${layer.name} ${side}`)
            .toBeLessThan(0.002);
          expect(away(scene, clip, lay({ ...layer, asPosed: true }), `${side}.foot`, held))
            .withContext(layer.name)
            .toBeGreaterThan(0.005);
        }
      }
    }
  });

  it('keep hands where they lie on the body and on each other while both go elsewhere', () => {
    for (const { rig, clip: hanging, contacts, read } of scenes) {
      // Straight arms could not follow: these are bent first.
      const elbows = ['left', 'right'].map((side) =>
        turns(`${side}.lowerArm`, always([0, side === 'left' ? -50 : 50, 0]), { asPosed: true }),
      );
      const clip = mend({ rig, clip: hanging, contacts, timeOf }, elbows);
      const touches = [
        { side: 'left' as const, on: 'body' as const, part: 'left.upperLeg', first: 60, last: 120 },
        { side: 'left' as const, on: 'hand' as const, first: 150, last: 200 },
      ];
      const touching = { ...contacts, hands: { ...contacts.hands!, touches } };
      const lay = (given: typeof contacts, ...layers: Layer[]): Clip => mend({ rig, clip, contacts: given, timeOf }, layers);
      const chest = turns(`spine.${rig.roles.has('spine.3') ? 3 : 1}`, always([4, 8, 0]));
      const lifted = reach('left.hand', always([0, 4, 2]));
      // Where an end lies in the frame of what it is on, by how far it is from where it lay.
      const off = (after: Clip, end: string, on: string, f: number): number => {
        const [e, o] = [end, on].map((role) => rig.roles.get(role)!);
        const local = (of: Clip): number[] => {
          const { positions, rotations } = read(of).at(f);
          const v = Float64Array.from({ length: 3 }, (_, c) => positions[e * 3 + c] - positions[o * 3 + c]);
          quat.unrotate(v, 0, rotations, o * 4, v, 0);
          return [...v];
        };
        const [a, b] = [local(clip), local(after)];
        return Math.hypot(...a.map((x, c) => x - b[c]));
      };
      for (const f of [65, 90, 115]) {
        expect(off(lay(touching, chest), 'left.hand', 'left.upperLeg', f)).toBeLessThan(0.006);
        expect(off(lay({ ...contacts, hands: undefined }, chest), 'left.hand', 'left.upperLeg', f)).toBeGreaterThan(0.02);
      }
      // The right hand goes with the left one, which the layer moves.
      for (const f of [155, 175, 195]) expect(off(lay(touching, lifted), 'right.hand', 'left.hand', f)).toBeLessThan(0.006);
    }
  });

  it('leave limb ends where they are that are held, and the trunk leans where an arm is too short', () => {
    const held = ['left.hand', 'left.foot', 'right.foot'] as const;
    for (const scene of scenes) {
      const { clip } = scene;
      const down = scene.lay(reach('hips', always([6, -9, 4]), { held: [...held] }));
      for (const end of held)
        expect(away(scene, clip, down, end))
          .withContext(end)
          .toBeLessThan(0.002);
      expect(away(scene, clip, down, 'hips')).toBeGreaterThan(0.1);
      // Two hands in both of which an arm is too short pull at one trunk.
      const both = scene.lay(reach('hips', always([6, -9, 4]), { held: ['left.hand', 'right.hand'] }));
      for (const end of ['left.hand', 'right.hand'])
        expect(away(scene, clip, both, end))
          .withContext(end)
          .toBeLessThan(0.025);
      // Without being held they go along.
      expect(away(scene, clip, scene.lay(reach('hips', always([6, -9, 4]))), 'left.hand')).toBeGreaterThan(0.1);
      // A foot that is held though the layer lets go of all that rests.
      const posed = scene.lay(reach('hips', always([6, -9, 4]), { held: ['right.foot'], asPosed: true }));
      expect(away(scene, clip, posed, 'right.foot')).toBeLessThan(0.002);
      expect(away(scene, clip, posed, 'left.foot')).toBeGreaterThan(0.05);
    }
  });

  it('never take a foot into the floor that was over it', () => {
    for (const { rig, clip, contacts } of scenes) {
      const floor = lowestFoot(rig, clip);
      const lower = reach('right.foot', always([0, -12, 0]));
      expect(lowestFoot(rig, mend({ rig, clip, contacts, timeOf }, [lower]))).toBeLessThan(floor - 0.01);
      expect(lowestFoot(rig, mend({ rig, clip, contacts, timeOf, floor }, [lower]))).toBeGreaterThan(floor - 0.001);
      // Unless it stands as it was posed; and what takes none into the floor changes nothing more.
      expect(lowestFoot(rig, mend({ rig, clip, contacts, timeOf, floor }, [{ ...lower, asPosed: true }]))).toBeLessThan(floor - 0.01);
      const higher = reach('hips', always([0, 2, 0]));
      const free = mend({ rig, clip, contacts, timeOf }, [higher]);
      expect(mend({ rig, clip, contacts, timeOf, floor }, [higher]).rotations).toEqual(free.rotations);
    }
  });

  it('let go of a foot that they move themselves', () => {
    for (const scene of scenes) {
      const after = scene.lay(reach('left.foot', always([0, 5, 0])));
      expect(away(scene, scene.clip, after, 'left.foot', isPlanted(scene, 'left'))).toBeCloseTo(0.05, 3);
      expect(away(scene, scene.clip, after, 'right.foot')).toBe(0);
    }
  });

  it('go from turning to reaching without a jump where the pose is taken up', () => {
    const { rig, read, lay, clip } = scenes[0];
    const swing = turns('left.upperArm', always([0, 0, 25]));
    const turned = read(lay(swing)).at(100);
    const joint = rig.roles.get('left.hand')!;
    for (const frame of ['world', 'hips', 'chest'] as const) {
      const place = placeIn(rig, turned, joint, frameOf(rig, frame));
      const does: Layer['does'] = {
        kind: 'reach',
        way: 'replace',
        trunk: 0,
        tracks: [{ end: 'left.hand', frame, keys: [key(timeOf(100), place)] }],
      };
      const after = read(lay(swing, makeLayer({ name: 'reach', does }))).at(100);
      for (let c = 0; c < 3; c++) expect(after.positions[joint * 3 + c]).toBeCloseTo(turned.positions[joint * 3 + c], 4);
    }
    expect(clip.frames).toBe(FRAMES);
  });
});

describe('what is dragged', () => {
  it('goes by the turn and the way of the drag', () => {
    const by = Float64Array.of(0.1, -0.05, 0.08);
    const q = new Float64Array(4);
    quat.exp(q, 0, by[0], by[1], by[2]);
    for (const { rig, read, lay } of scenes) {
      const amount: [number, number, number] = [10, -20, 15];
      const joint = rig.roles.get('head')!;
      const before = read(lay(turns('head', always(amount)))).at(60);
      const after = read(lay(turns('head', always(turnedOn(rig, before, joint, amount, by))))).at(60);
      quat.mul(q, 0, q, 0, before.rotations, joint * 4);
      expect(quat.angleBetween(q, 0, after.rotations, joint * 4)).toBeLessThan(5e-3);
      quat.exp(q, 0, by[0], by[1], by[2]);
      const hand = rig.roles.get('left.hand')!;
      const frame = frameOf(rig, 'chest');
      const pull: [number, number, number] = [-3, 2, 4];
      const reached = (value: [number, number, number]) =>
        read(
          lay(makeLayer({ name: 'hand', does: { kind: 'reach', tracks: [{ end: 'left.hand', frame: 'chest', keys: always(value) }] } })),
        ).at(60);
      const [was, is] = [reached(pull), reached(movedOn(rig, reached(pull), frame, pull, Float64Array.of(-0.01, 0.01, 0.01)))];
      [-0.01, 0.01, 0.01].forEach((way, c) => expect(is.positions[hand * 3 + c] - was.positions[hand * 3 + c]).toBeCloseTo(way, 3));
    }
  });

  it('is taken up as it stands', () => {
    for (const { rig, clip, read, lay } of scenes) {
      for (const role of ['left.upperArm', 'spine.1', 'right.foot']) {
        const joint = rig.roles.get(role)!;
        const pose = read(clip).at(90);
        const does: Layer['does'] = {
          kind: 'turns',
          way: 'replace',
          tracks: [{ role, keys: always(turnFromRest(rig, rig.skeleton, pose, joint)) }],
        };
        const after = read(lay(makeLayer({ name: role, does, asPosed: true }))).at(90);
        expect(quat.angleBetween(pose.rotations, joint * 4, after.rotations, joint * 4))
          .withContext(role)
          .toBeLessThan(5e-3);
      }
    }
  });
});
