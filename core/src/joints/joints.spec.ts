import { type Clip } from '../clip';
import { random } from '../math/random';
import { DEFAULT_CARRY } from '../recipe';
import { jointKeys } from '../skeleton';
import { randomMachine, runMachine, stateMachine, type Machine } from '../testing';
import { leastCost } from './assignment';
import { carryJoints } from './carry';
import { heldTo, layInto } from './into';
import { applyRule } from './names';
import { pairJoints } from './pairs';
import { apart, by, carry, degreesBetween, judged, pairsOf, read, SEEDS, twinOf, withOneMore } from './scenes.spec';

describe('joints paired one by one', () => {
  it('are found by their names, whatever prefix, case, signs, order, axes and size', () => {
    for (const seed of SEEDS) {
      const machine = randomMachine(seed);
      const [a, b] = [stateMachine(machine), twinOf(machine, seed)];
      const map = pairJoints(a, b, by({}));
      expect([...pairsOf(map)].every(([target, source]) => target === source)).toBeTrue();
      expect(map.pairs.length).toBe(machine.joints.length);
      expect(map.size).toBeCloseTo(0.4, 6);
      expect(Math.cos(map.heading - ((seed % 4) * Math.PI) / 2)).toBeCloseTo(1, 6);
    }
  });

  it('are found by the shape of their trees where names say nothing, and a joint more stays over', () => {
    for (const seed of SEEDS) {
      const machine = randomMachine(seed);
      const a = stateMachine(machine);
      const b = stateMachine(withOneMore(machine, 4), { names: (_, j) => `n${(j * 7) % 31}`, axes: seed, size: 3 });
      const map = pairJoints(a, b, by({ by: 'shape' }));
      const right = map.pairs.filter(
        ({ target, sources }) => b.skeleton.names[target] === `n${(placed(sources[0].joint) * 7) % 31}`,
      ).length;
      expect(right).toBeGreaterThanOrEqual(machine.joints.length - 2);
      expect(map.leftOver.character.length).toBe(1);
    }
    function placed(joint: number): number {
      return joint >= 4 ? joint + 1 : joint;
    }
  });

  it('go by a typed rule, by order and by hand, and say what is left over and what clashes', () => {
    const machine = randomMachine(3, 6);
    const a = stateMachine(machine, { names: (name) => `crane_${name}_v2` });
    const b = stateMachine(machine, { names: (_, j) => ['basis', 'pole', 'arm', 'claw', 'Claw_', 'line'][j] });
    const rules = [
      { from: '*mast*', to: 'pole' },
      { from: '*jib_v2', to: 'arm' },
    ];
    const map = pairJoints(a, b, by({ rules, pairs: { basis: [{ joint: 'gantry_v2', weight: 1 }], line: [], nowhere: [] } }));
    const named = new Map(
      map.pairs.map(({ target, sources, why }) => [b.skeleton.names[target], `${a.skeleton.names[sources[0].joint]} ${why}`]),
    );
    expect(named.get('pole')).toBe('crane_mast_v2 name');
    expect(named.get('arm')).toBe('crane_jib_v2 name');
    expect(named.get('basis')).toBe('crane_gantry_v2 hand');
    expect(named.has('line')).toBeFalse();
    expect(map.unknown).toEqual(['nowhere']);
    expect(map.ruled.map((joints) => joints.map((j) => a.skeleton.names[j]))).toEqual([['crane_mast_v2'], ['crane_jib_v2']]);
    expect(map.clashes).toEqual([{ of: 'character', joints: [3, 4] }]);
    expect(map.leftOver.character).toContain(5);
    const ordered = pairJoints(a, b, by({ by: 'order', branch: 'arm' }));
    expect(ordered.pairs.every(({ target }) => ordered.taking[target] === 1)).toBeTrue();
  });

  it('reads rules as names with stars, and long ones in no time', () => {
    expect(applyRule({ from: 'L_*', to: '*_left' }, 'l_Arm')).toBe('Arm_left');
    expect(applyRule({ from: '*_*_v2', to: '* of *' }, 'jib_tip_v2')).toBe('jib of tip');
    expect(applyRule({ from: 'jib', to: 'boom' }, 'jibs')).toBeUndefined();
    expect(applyRule({ from: '*a'.repeat(80), to: 'x' }, 'a'.repeat(150) + 'b')).toBeUndefined();
    expect(applyRule({ from: 'aba*ba', to: 'x' }, 'aba')).toBeUndefined();
  });

  it('come to the least cost in all', () => {
    const rng = random(9);
    for (let round = 0; round < 60; round++) {
      const [rows, columns] = [rng.integer(1, 4), rng.integer(4, 6)];
      const costs = Float64Array.from({ length: rows * columns }, () => rng.integer(-5, 9));
      const found = leastCost(costs, rows, columns);
      const sum = (pick: readonly number[]): number => pick.reduce((s, column, row) => s + costs[row * columns + column], 0);
      const best = (row: number, used: readonly number[]): number =>
        row === rows
          ? sum(used)
          : Math.min(...[...Array(columns).keys()].filter((c) => !used.includes(c)).map((c) => best(row + 1, [...used, c])));
      expect(sum([...found])).toBe(best(0, []));
      expect(new Set(found).size).toBe(rows);
    }
  });
});

describe('motion carried joint by joint', () => {
  it('stands in the world where the performer’s does, whatever the axes, size and heading', () => {
    for (const seed of SEEDS) {
      const machine = randomMachine(seed);
      const [a, b] = [stateMachine(machine, { axes: seed + 40 }), twinOf(machine, seed)];
      const take = runMachine(a, seed);
      const map = pairJoints(a, b, by({}));
      const result = carryJoints(a, b, map, by({}), take);
      expect(apart(a, take, b, result, map)).toBeLessThan(1e-4);
      for (const { id, value, mark } of judged(a, take, b, result, map, by({})))
        expect([id, mark, value < 0.2]).toEqual(id === 'joints.sizes' ? [id, 'unseen', false] : [id, 'good', true]);
    }
  });

  it('is the first again within 0.01° after the way to a twin with a joint more and back', () => {
    for (const seed of SEEDS) {
      const machine = randomMachine(seed);
      const a = stateMachine(machine, { axes: seed + 20 });
      const b = stateMachine(withOneMore(machine, 5), { names: (name) => `Kleiner.${name}`, axes: seed, size: 0.3, heading: Math.PI / 2 });
      const take = runMachine(a, seed);
      const there = carryJoints(a, b, pairJoints(a, b, by({})), by({}), take);
      const back = pairJoints(b, a, by({}));
      expect(back.leftOver.character).toEqual([]);
      const again = carryJoints(b, a, back, by({}), there);
      const [p, q] = [read(a, take), read(a, again)];
      let [turn, way] = [0, 0];
      for (let f = 0; f < take.frames; f++) {
        const [x, y] = [p.at(f), q.at(f)];
        for (let j = 0; j < machine.joints.length; j++) {
          turn = Math.max(turn, degreesBetween(x.rotations, y.rotations, j));
          for (let c = 0; c < 3; c++) way = Math.max(way, Math.abs(x.positions[j * 3 + c] - y.positions[j * 3 + c]));
        }
      }
      expect(turn).toBeLessThan(0.01);
      expect(way).toBeLessThan(1e-3);
    }
  });

  it('is the same values where it is recorded over between rigs of one kind', () => {
    const machine = randomMachine(4);
    const a = stateMachine(machine, { axes: 7 });
    const b = stateMachine(machine, { axes: 7, names: (name) => `b_${name}` });
    const take = runMachine(a, 2);
    const settings = by(carry({ turns: 'recorded', places: 'recorded', axes: 'parent' }));
    const result = carryJoints(a, b, pairJoints(a, b, settings), settings, take);
    let worst = 0;
    for (let i = 0; i < take.rotations.length; i++) worst = Math.max(worst, Math.abs(take.rotations[i] - result.rotations[i]));
    expect(worst).toBeLessThan(1e-6);
  });

  it('points where the performer’s joints point where that is recorded over, whatever the rests', () => {
    const machine = randomMachine(5, 5);
    const chain: Machine = { joints: machine.joints.map((joint, j) => ({ ...joint, parent: j - 1 })) };
    const a = stateMachine(chain, { axes: 1 });
    // The same joints, but posed otherwise at rest.
    const bent: Machine = { joints: chain.joints.map(({ at: [x, y, z], ...joint }, j) => ({ ...joint, at: [x + j * j * 0.3, y, z - j] })) };
    const b = stateMachine(bent, { axes: 2 });
    const settings = by({ ...carry({ turns: 'recorded' }), heading: 0 });
    const take = runMachine(a, 8);
    const map = pairJoints(a, b, settings);
    const result = carryJoints(a, b, map, settings, { ...take, moves: [] });
    const [p, q] = [read(a, { ...take, moves: [] }), read(b, result)];
    let least = 1;
    for (let f = 0; f < take.frames; f++) {
      const [x, y] = [p.at(f).positions, q.at(f).positions];
      for (let j = 0; j + 1 < chain.joints.length; j++) {
        const way = (of: Float64Array): number[] => [0, 1, 2].map((c) => of[(j + 1) * 3 + c] - of[j * 3 + c]);
        const [u, v] = [way(x), way(y)];
        least = Math.min(least, u.reduce((s, w, i) => s + w * v[i], 0) / Math.hypot(...u) / Math.hypot(...v));
      }
    }
    expect(least).toBeGreaterThan(1 - 1e-6);
  });

  it('takes a change so many times, past whole turns, and mixes several', () => {
    const machine: Machine = {
      joints: [
        { name: 'slew', parent: -1, at: [0, 0, 0] },
        { name: 'jib', parent: 0, at: [0, 2, 0] },
      ],
    };
    const a = stateMachine(machine);
    const b = stateMachine(machine, { axes: 3 });
    const frames = 100;
    const rotations = new Float32Array(frames * 8);
    for (let f = 0; f < frames; f++) {
      // 500° about the vertical in all.
      const half = (f / (frames - 1)) * 250 * (Math.PI / 180);
      rotations.set([0, Math.sin(half), 0, Math.cos(half), 0, 0, 0, 1], f * 8);
    }
    const take: Clip = { name: 'slew', frameTime: 0.1, frames, rotations, moves: [] };
    const settings = by({
      own: { slew: { ...DEFAULT_CARRY, turnsTimes: 0.5 } },
      pairs: {
        jib: [
          { joint: 'slew', weight: 0.25 },
          { joint: 'jib', weight: 1 },
        ],
      },
    });
    const map = pairJoints(a, b, settings);
    const result = carryJoints(a, b, map, settings, take);
    const turnAt = (f: number, joint: number): number => degreesBetween(read(b, result).at(f).rotations, b.restPose.rotations, joint);
    expect(turnAt(frames - 1, 0)).toBeCloseTo(360 - 250, 2);
    expect(turnAt(49, 0)).toBeCloseTo((49 / 99) * 250, 2);
    const figures = judged(a, take, b, result, map, settings);
    expect(figures[0].mark).toBe('good');
  });

  it('leaves what is not taken at rest, and only a branch moves', () => {
    const machine = randomMachine(6);
    const [a, b] = [stateMachine(machine), stateMachine(machine, { axes: 9 })];
    const settings = by({ branch: jointKeys(b.skeleton)[3], ...carry({ places: 'none' }) });
    const map = pairJoints(a, b, settings);
    const result = carryJoints(a, b, map, settings, runMachine(a, 1));
    expect(result.moves).toEqual([]);
    const moved = b.skeleton.names.map((_, j) => {
      const row = result.rotations.subarray(j * 4, j * 4 + 4);
      return Math.abs(row.reduce((dot, v, c) => dot + v * result.rotations[(40 * machine.joints.length + j) * 4 + c], 0)) < 1 - 1e-6;
    });
    expect(moved).toEqual([...map.taking].map((one) => one === 1));
  });

  it('is seen by its judge where one channel is off, late, still or moved', () => {
    const machine = randomMachine(2);
    const [a, b] = [stateMachine(machine, { axes: 3 }), twinOf(machine, 5)];
    const take = runMachine(a, 4);
    const map = pairJoints(a, b, by({}));
    const good = carryJoints(a, b, map, by({}), take);
    const count = machine.joints.length;
    const spoiled = (change: (rotations: Float32Array) => void): Clip => {
      const rotations = good.rotations.slice();
      change(rotations);
      return { ...good, rotations };
    };
    const [turns] = judged(
      a,
      take,
      b,
      spoiled((r) => r.copyWithin((30 * count + 4) * 4, 4 * 4, 5 * 4)),
      map,
      by({}),
    );
    expect([turns.mark, turns.frame]).toEqual(['fault', 30]);
    expect(turns.words).toContain(b.skeleton.names[4]);
    const late = spoiled((r) => r.copyWithin(count * 4, 0, r.length - count * 4));
    expect(judged(a, take, b, late, map, by({}))[0].mark).toBe('fault');
    const sunk: Clip = {
      ...good,
      moves: good.moves.map(({ joint, values }) => ({ joint, values: values.map((v, i) => (i === 31 ? v + 0.02 : v)) })),
    };
    expect(judged(a, take, b, sunk, map, by({}))[1].mark).toBe('fault');
    const fewer = by({ pairs: { HOOK: [], MAST: [] } });
    const left = pairJoints(a, b, fewer);
    const figures = judged(a, take, b, carryJoints(a, b, left, fewer, take), left, fewer);
    const over = figures.find(({ id }) => id === 'joints.left')!;
    expect([over.mark, over.words.includes('mast')]).toEqual(['caution', true]);
  });
});

describe('a motion laid into another', () => {
  const machine = randomMachine(7);
  const b = stateMachine(machine, { axes: 1 });
  const base = runMachine(b, 30, 90, 30);
  const laid = runMachine(b, 31, 30, 30);
  const all = new Uint8Array(machine.joints.length).fill(1);
  const into = (change: object) => ({ clip: 1, way: 'replace' as const, at: 1, ease: 0, weight: 1, ...change });
  const row = (clip: Clip, f: number): number[] => [
    ...clip.rotations.subarray(f * machine.joints.length * 4, (f + 1) * machine.joints.length * 4),
  ];
  const same = (x: readonly number[], y: readonly number[]): boolean => x.every((v, i) => Math.abs(Math.abs(v) - Math.abs(y[i])) < 1e-6);

  it('is put in between: what follows moves on, and what is not taken stands still', () => {
    const { clip, first } = layInto(b.skeleton, base, laid, into({ way: 'insert' }), all);
    expect([clip.frames, first]).toEqual([120, 30]);
    expect(same(row(clip, 29), row(base, 29))).toBeTrue();
    expect(same(row(clip, 30), row(laid, 0))).toBeTrue();
    expect(same(row(clip, 60), row(base, 30))).toBeTrue();
    expect(same(row(clip, 119), row(base, 89))).toBeTrue();
    const part = all.map((_, j) => (j > 5 ? 1 : 0));
    const held = layInto(b.skeleton, base, laid, into({ way: 'insert' }), part).clip;
    expect(same(row(held, 45).slice(0, 24), row(base, 29).slice(0, 24))).toBeTrue();
  });

  it('takes the place of what is there, or is mixed with it and eased in and out', () => {
    const { clip } = layInto(b.skeleton, base, laid, into({}), all);
    expect(clip.frames).toBe(90);
    expect(same(row(clip, 59), row(laid, 29))).toBeTrue();
    expect(same(row(clip, 60), row(base, 60))).toBeTrue();
    const merged = layInto(b.skeleton, base, laid, into({ way: 'merge', weight: 0 }), all).clip;
    for (let f = 0; f < 90; f++) expect(same(row(merged, f), row(base, f))).toBeTrue();
    const eased = layInto(b.skeleton, base, laid, into({ way: 'merge', ease: 0.3 }), all).clip;
    expect(same(row(eased, 45), row(laid, 15))).toBeTrue();
    expect(same(row(eased, 30), row(laid, 0))).toBeFalse();
    expect(same(row(eased, 29), row(base, 29))).toBeTrue();
  });

  it('has the take held beside it, frame for frame', () => {
    const held = heldTo(laid, 30, 120);
    expect(same(row(held, 10), row(laid, 0))).toBeTrue();
    expect(same(row(held, 40), row(laid, 10))).toBeTrue();
    expect(same(row(held, 119), row(laid, 29))).toBeTrue();
  });
});
