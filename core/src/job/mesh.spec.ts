import * as fc from 'fast-check';
import { FaultError } from '../errors';
import { landmarksFile, standUp, withLandmarks } from '../fit';
import { readSurface } from '../formats';
import { random } from '../math/random';
import { DEFAULT_FIT, parseLandmarks, type FitChoices } from '../recipe';
import { UP_AXES } from '../skeleton';
import { clayBody, clayObj, clayShape, type ClayBody } from '../testing';
import { bindMesh, layMesh, openMesh, type BoundMesh, type LaidMesh } from './mesh';
import { Memory } from './memory';

/** Points twice as far apart as usual: the shape is the same, the work an eighth. */
const COARSE = 0.024;
const LARGER = 1.25;
const bodies = new Map<number, ClayBody>();
const clay = (seed: number): ClayBody => bodies.get(seed) ?? bodies.set(seed, clayBody(clayShape(seed), COARSE)).get(seed)!;
const laid = async (bytes: Uint8Array, choices: FitChoices = DEFAULT_FIT): Promise<LaidMesh> =>
  layMesh(await openMesh(bytes, 'clay.obj'), choices);
const choose = (some: Partial<FitChoices>): FitChoices => ({ ...DEFAULT_FIT, ...some });

/** Farthest that a joint of the left side or the middle is from where the clay has it, share of the height. */
function worst({ landmarks }: LaidMesh, { joints, height }: ClayBody, skip: readonly string[] = []): { share: number; name: string } {
  let found = { share: 0, name: '' };
  for (const [name, place] of Object.entries(joints)) {
    // The skull's joint is no landmark, and the chin is soft in clay.
    if (name === 'head' || skip.includes(name)) continue;
    const at = landmarks[name] ?? landmarks[`left.${name}`];
    const share = Math.hypot(...place.map((v, c) => v - at[c])) / height;
    if (share > found.share) found = { share, name };
  }
  return found;
}

describe('fitting a skeleton to a mesh', () => {
  it('finds the landmarks of bodies of any proportions in one closed surface', async () => {
    for (const seed of [2, 5, 8, 13]) {
      const { share, name } = worst(await laid(clayObj(clay(seed))), clay(seed));
      expect(share).withContext(`seed ${seed}, ${name}`).toBeLessThan(0.03);
    }
  });

  it('tells how a mesh stands whatever its unit, its up axis and where it faces', async () => {
    const body = clay(3);
    const ways = [
      {
        place: ([x, y, z]: readonly [number, number, number]) => [x * 100, -z * 100, y * 100] as const,
        stand: { metres: 0.01, up: '+Z', quarter: 0 },
      },
      { place: ([x, y, z]: readonly [number, number, number]) => [-x, y, -z] as const, stand: { metres: 1, up: '+Y', quarter: 2 } },
      {
        place: ([x, y, z]: readonly [number, number, number]) => [z * 1000, y * 1000, -x * 1000] as const,
        stand: { metres: 0.001, up: '+Y', quarter: 3 },
      },
      {
        place: ([x, y, z]: readonly [number, number, number]) => [-x / 0.0254, -y / 0.0254, z / 0.0254] as const,
        stand: { metres: 0.0254, up: '-Y', quarter: 0 },
      },
    ];
    for (const { place, stand } of ways) {
      const mesh = await openMesh(clayObj(body, place), 'clay.obj');
      expect(mesh.guessed.stand as object).toEqual(stand);
      expect(worst(layMesh(mesh, DEFAULT_FIT), body).share)
        .withContext(JSON.stringify(stand))
        .toBeLessThan(0.03);
    }
  });

  it('keeps left on the left, and outsides outside, however a mesh is stood up', async () => {
    const { surface } = await openMesh(clayObj(clay(3)), 'clay.obj');
    for (const up of UP_AXES) {
      for (const quarter of [0, 1, 2, 3] as const) {
        const { toBody: m, shells, low, height } = standUp(surface, { metres: 2, up, quarter });
        const determinant = m[0] * (m[5] * m[10] - m[9] * m[6]) - m[4] * (m[1] * m[10] - m[9] * m[2]) + m[8] * (m[1] * m[6] - m[5] * m[2]);
        expect(determinant).withContext(`${up} ${quarter}`).toBeCloseTo(8, 6);
        expect([...shells.facing]).toEqual([1]);
        expect(low[1]).toBe(0);
        // The axis that was said to point up does.
        const axis = 'XYZ'.indexOf(up[1]);
        expect(m[axis * 4 + 1]).toBeCloseTo(up[0] === '+' ? 2 : -2, 9);
        expect(height).toBeGreaterThan(0);
      }
    }
  });

  it('is not misled by holes, by a thing in one hand, by what floats free', async () => {
    const body = clay(2);
    const r = random(7);
    const kept: number[] = [];
    // A torn patch in the back, and one triangle of twenty anywhere.
    const isTorn = (i: number): boolean => {
      const [x, y, z] = [0, 1, 2].map((c) => body.positions[body.triangles[i] * 3 + c]);
      return (Math.hypot(x - 0.05, y - body.joints['neck'][1] + 0.2) < 0.05 && z < 0) || r.next() < 0.05;
    };
    for (let i = 0; i < body.triangles.length; i += 3) if (!isTorn(i)) kept.push(...body.triangles.slice(i, i + 3));
    const things: number[] = [];
    const faces: number[] = [];
    const tip = body.joints['fingertip'];
    box(things, faces, [tip[0], tip[1] - 0.3, tip[2]], [0.05, 0.25, 0.05], body.positions.length / 3);
    box(things, faces, [0, body.height + 0.03, 0], [0.02, 0.01, 0.02], body.positions.length / 3);
    const torn = { positions: Float32Array.from([...body.positions, ...things]), triangles: Uint32Array.from([...kept, ...faces]) };
    const mesh = await openMesh(clayObj(torn), 'torn.obj');
    expect(mesh.facts.rims).toBeGreaterThan(100);
    expect(mesh.facts.shells).toBeGreaterThan(2);
    expect(worst(layMesh(mesh, DEFAULT_FIT), body).share).toBeLessThan(0.035);
  });

  it('looks at each side by itself where they are not alike', async () => {
    // One arm level, the other well down.
    const [level, down] = [clayBody({ ...clayShape(4), droop: 5 }, COARSE), clayBody({ ...clayShape(4), droop: 50 }, COARSE)];
    const positions = [...level.positions, ...down.positions];
    const triangles: number[] = [];
    for (const [body, first, side] of [
      [level, 0, 1],
      [down, level.positions.length / 3, -1],
    ] as const) {
      for (let i = 0; i < body.triangles.length; i += 3) {
        const x = [0, 1, 2].reduce((sum, k) => sum + body.positions[body.triangles[i + k] * 3], 0);
        if (x * side >= 0) for (let k = 0; k < 3; k++) triangles.push(body.triangles[i + k] + first);
      }
    }
    const mesh = await openMesh(clayObj({ positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }), 'half.obj');
    const { landmarks } = layMesh(mesh, choose({ mirrored: false }));
    const wrist = (side: string): readonly number[] => landmarks[`${side}.wrist`];
    expect(Math.hypot(...level.joints['wrist'].map((v, c) => v - wrist('left')[c]))).toBeLessThan(0.06);
    const [x, y, z] = down.joints['wrist'];
    expect(Math.hypot(...[-x, y, z].map((v, c) => v - wrist('right')[c]))).toBeLessThan(0.06);
  });

  describe('a bound body', () => {
    let mesh: LaidMesh;
    let bound: BoundMesh;
    const memory = new Memory();
    beforeAll(async () => {
      mesh = layMesh(await openMesh(clayObj(clay(1)), 'clay.obj'), DEFAULT_FIT, memory);
      bound = await bindMesh(mesh, DEFAULT_FIT, 'Clay', memory);
    }, 60_000);

    it('is a character: all of it labelled, upright, in metres, where the mesh was', () => {
      const { rig, file } = bound;
      expect(rig.labels.missing).toEqual([]);
      expect(rig.roles.size).toBe(rig.skeleton.names.length);
      expect(rig.unit.metres).toBe(1);
      expect(rig.up).toBe('+Y');
      expect(Math.abs(rig.facing)).toBeLessThan(0.02);
      const skin = file.skin!;
      let off = 0;
      for (let i = 0; i < skin.positions.length; i++) off = Math.max(off, Math.abs(skin.positions[i] - mesh.body.positions[i]));
      expect(off).toBeLessThan(1e-5);
    });

    it('moves each point by four joints at most, whose weights are all of it, alike on both sides', () => {
      const { weights, names } = bound;
      const counts = weights.values.length / 4;
      for (let i = 0; i < counts; i++) {
        let sum = 0;
        for (let k = 0; k < 4; k++) sum += weights.values[i * 4 + k];
        if (!(Math.abs(sum - 1) < 1e-5)) fail(`point ${i} has ${sum}`);
      }
      const sided = (side: string): number => {
        let sum = 0;
        for (let i = 0; i < weights.values.length; i++) if (names[weights.joints[i]].startsWith(side)) sum += weights.values[i];
        return sum;
      };
      expect(sided('left') / sided('right')).toBeCloseTo(1, 1);
      expect(bound.doubts.filter(({ kind }) => kind === 'far')).toEqual([]);
      expect(bound.pull).toBeLessThan(0.03);
    });

    it('bends at the joint, and nowhere else: a point half way along a limb is that limb’s', () => {
      const { weights, names } = bound;
      const { positions } = mesh.body;
      for (const [limb, from, to] of [
        ['leftUpperArm', 'left.shoulder', 'left.elbow'],
        ['leftLowerArm', 'left.elbow', 'left.wrist'],
        ['rightLowerLeg', 'right.knee', 'right.ankle'],
      ] as const) {
        const [a, b] = [mesh.landmarks[from], mesh.landmarks[to]];
        const middle = a.map((v, c) => (v + b[c]) / 2);
        let [mine, all] = [0, 0];
        for (let i = 0; i < positions.length / 3; i++) {
          if (Math.hypot(...middle.map((v, c) => v - positions[i * 3 + c])) > 0.08) continue;
          for (let k = 0; k < 4; k++) {
            all += weights.values[i * 4 + k];
            if (names[weights.joints[i * 4 + k]] === limb) mine += weights.values[i * 4 + k];
          }
        }
        expect(all).toBeGreaterThan(5);
        expect(mine / all)
          .withContext(limb)
          .toBeGreaterThan(0.85);
      }
    });

    it('is evened out by the brush, on both sides or on one', async () => {
      const elbow = mesh.landmarks['left.elbow'];
      const at: [number, number, number] = [...elbow];
      const strokes = [{ at, radius: 0.12, strength: 1 }];
      const rough = (b: BoundMesh, side: 'left' | 'right'): number => steps(mesh, b, mesh.landmarks[`${side}.elbow`]);
      const both = await bindMesh(mesh, choose({ strokes }), 'Clay', memory);
      for (const side of ['left', 'right'] as const) expect(rough(both, side)).toBeLessThan(0.9 * rough(bound, side));
      const one = await bindMesh(mesh, choose({ strokes, mirrored: false }), 'Clay', memory);
      expect(rough(one, 'left')).toBeCloseTo(rough(both, 'left'), 6);
      expect(rough(one, 'right')).toBe(rough(bound, 'right'));
    });

    it('can be bound anew to the skeleton that it has, and fitted anew', async () => {
      const again = await openMesh(bound.glb, 'clay.glb');
      expect(again.facts.joints).toBe(bound.names.length);
      const kept = choose({ skeleton: 'keep' });
      const rebound = await bindMesh(layMesh(again, kept), kept, 'Clay');
      expect([...rebound.names].sort()).toEqual([...bound.names].sort());
      let off = 0;
      const [a, b] = [rebound.file.skin!.positions, bound.file.skin!.positions];
      for (let i = 0; i < b.length; i++) off = Math.max(off, Math.abs(a[i] - b[i]));
      expect(off).toBeLessThan(1e-5);
      expect(rebound.pull).toBeLessThan(0.04);
      expect(worst(layMesh(again, DEFAULT_FIT), clay(1)).share).toBeLessThan(0.03);
    });

    it('has the detail that was asked for', async () => {
      for (const [detail, joints] of [
        [{ fingers: 0, spine: 1, neck: 1, twists: false }, 20],
        [{ fingers: 3, spine: 5, neck: 2, twists: true }, 47],
      ] as const) {
        const choices = choose({ detail });
        const { rig } = await bindMesh(layMesh(mesh.mesh, choices, memory), choices, 'Clay', memory);
        expect(rig.skeleton.names.length).toBe(joints);
        expect(rig.labels.missing).toEqual([]);
        expect([...rig.skeleton.names.keys()].filter((j) => ![...rig.roles.values()].includes(j))).toEqual([]);
      }
    });

    it('ends when it is told to', async () => {
      const stop = new Error('enough');
      const ended = bindMesh(mesh, DEFAULT_FIT, 'Clay', new Memory(), (share) => {
        if (share > 0.3) throw stop;
      });
      await expectAsync(ended).toBeRejectedWith(stop);
    });
  });

  it('takes landmarks by hand over those that were found, for both sides or for one', async () => {
    const at: [number, number, number] = [0.5, 1.2, 0.1];
    const mesh = await openMesh(clayObj(clay(1)), 'clay.obj');
    const both = layMesh(mesh, choose({ landmarks: { 'left.elbow': at } }));
    expect(both.landmarks['left.elbow']).toEqual(at);
    expect(both.landmarks['right.elbow']).toEqual([2 * both.found.middle - 0.5, 1.2, 0.1]);
    const one = layMesh(mesh, choose({ landmarks: { 'left.elbow': at }, mirrored: false }));
    expect(one.landmarks['right.elbow']).toEqual(one.found.landmarks['right.elbow']);
    const { skeleton, places } = both.fitted;
    expect([...places.slice(skeleton.names.indexOf('leftLowerArm') * 3, skeleton.names.indexOf('leftLowerArm') * 3 + 3)]).toEqual(at);
  });

  it('keeps landmarks as a file, which fits a larger body of the same kind', async () => {
    const body = clay(5);
    const first = await laid(clayObj(body));
    const file = parseLandmarks(JSON.stringify(landmarksFile(first, DEFAULT_FIT)));
    const larger = layMesh(
      await openMesh(
        clayObj(body, ([x, y, z]) => [LARGER * x, LARGER * y, LARGER * z]),
        'large.obj',
      ),
      DEFAULT_FIT,
    );
    const laidBy = layMesh(larger.mesh, withLandmarks(DEFAULT_FIT, larger, file));
    for (const [name, place] of Object.entries(first.landmarks)) {
      const other = laidBy.landmarks[name];
      expect(Math.hypot(...place.map((v, c) => LARGER * v - other[c])))
        .withContext(name)
        .toBeLessThan(0.01 * larger.body.height);
    }
    expect(() =>
      parseLandmarks('{"format":"hollow-stride/landmarks","version":1,"height":1,"landmarks":{"left.nose":[0,0,0]}}', 'l.json'),
    ).toThrowMatching(
      (error) => error instanceof FaultError && error.fault.code === 'fit/landmarks' && error.fault.where.file === 'l.json',
    );
  });

  it('lays hocks where a person asks for them', async () => {
    const choices = choose({ hocks: true });
    const { fitted, landmarks } = await laid(clayObj(clay(1)), choices);
    expect(fitted.skeleton.names).toContain('leftHock');
    expect(landmarks['left.hock'][2]).toBeLessThan(landmarks['left.knee'][2]);
  });

  it('refuses what is no mesh, with the line, and never breaks', async () => {
    const fault = async (text: string): Promise<object> => {
      try {
        await readSurface(new TextEncoder().encode(text), 'm.obj');
      } catch (error) {
        return error instanceof FaultError ? { code: error.fault.code, line: error.fault.where.line } : { error };
      }
      return {};
    };
    expect(await fault('v 0 0 0\nv 1 0\n')).toEqual({ code: 'obj/syntax', line: 2 });
    expect(await fault('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 4\n')).toEqual({ code: 'obj/syntax', line: 4 });
    expect(await fault('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2\n')).toEqual({ code: 'obj/syntax', line: 4 });
    expect(await fault('v 0 0 0\n')).toEqual({ code: 'mesh/none', line: undefined });
    expect(await fault('v 1e99 0 0\n')).toEqual({ code: 'obj/syntax', line: 1 });
    const word = fc.constantFrom(
      'v',
      'vt',
      'vn',
      'f',
      'o',
      'g',
      'usemtl',
      '#',
      '1',
      '-1',
      '2/2',
      '3//1',
      '1/1/1',
      '0',
      'x',
      '1e9',
      '\n',
      '\n',
      ' ',
    );
    await fc.assert(
      fc.asyncProperty(fc.array(word, { maxLength: 60 }), async (words) => {
        const result = (await fault(`v 0 0 0\n${words.join(' ')}`)) as { error?: unknown };
        return result.error === undefined;
      }),
      { numRuns: 1500, seed: 11 },
    );
  });

  it('reads faces of many corners, numbers from the end, groups and materials', async () => {
    const text = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\ng front\nusemtl cloth\nf -4 -3 -2 -1\ng back\nvn 0 0 -1\nf 4//1 3//1 2//1 1//1\n';
    const { triangles, parts, positions } = await readSurface(new TextEncoder().encode(text), 'm.obj');
    expect(triangles.length).toBe(12);
    expect(parts.map(({ name, count }) => [name, count])).toEqual([
      ['front', 4],
      ['back', 4],
    ]);
    expect([...positions.slice(0, 12)]).toEqual([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]);
  });
});

/** A box of twelve triangles. */
function box(points: number[], faces: number[], at: readonly number[], half: readonly number[], first: number): void {
  const base = first + points.length / 3;
  for (let corner = 0; corner < 8; corner++) for (let c = 0; c < 3; c++) points.push(at[c] + ((corner >> c) & 1 ? half[c] : -half[c]));
  for (const [a, b, c, d] of [
    [0, 4, 6, 2],
    [1, 3, 7, 5],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 2, 3, 1],
    [4, 5, 7, 6],
  ]) {
    faces.push(base + a, base + b, base + c, base + a, base + c, base + d);
  }
}

/** How much weights differ along edges near a place. */
function steps({ body }: LaidMesh, { weights, names }: BoundMesh, at: readonly number[]): number {
  const dense = (i: number): Float64Array => {
    const out = new Float64Array(names.length);
    for (let k = 0; k < 4; k++) out[weights.joints[i * 4 + k]] += weights.values[i * 4 + k];
    return out;
  };
  let sum = 0;
  for (let t = 0; t < body.triangles.length; t += 3) {
    const [i, j] = [body.triangles[t], body.triangles[t + 1]];
    if (Math.hypot(...at.map((v, c) => v - body.positions[i * 3 + c])) > 0.08) continue;
    const [a, b] = [dense(i), dense(j)];
    for (let k = 0; k < names.length; k++) sum += (a[k] - b[k]) * (a[k] - b[k]);
  }
  return sum;
}
