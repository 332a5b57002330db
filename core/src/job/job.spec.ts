import * as v from 'valibot';
import type { MotionFile } from '../formats';
import { ClipReader } from '../clip';
import { jointKeys } from '../skeleton';
import { quat } from '../math';
import { DEFAULT_RECIPE, makeLayer, parseRecipe, touchUpSchema, writeRecipe, type Recipe, type TakeChoices } from '../recipe';
import { labelFile, measureReference } from '../rig';
import { makeFile, performerOf, randomShape, walk } from '../testing';
import { deliver, JobMemory, prepare, runJob, solvePlain, solveReady, type Job, type Outcome } from './job';

const shape = randomShape(91, { spine: 3, neck: 1, clavicles: true });
const take = makeFile(shape, { name: 'watch.bvh', metres: 0.01 }, walk(shape, { seed: 91, frames: 300, fps: 120, roll: 20 }));
const character = makeFile(randomShape(92, { spine: 2, neck: 1, clavicles: true }), { name: 'body.bvh', axes: 92 });

/** A recipe that decides something of every part. */
const RECIPE: Recipe = {
  ...DEFAULT_RECIPE,
  name: 'night watch',
  character: { ...DEFAULT_RECIPE.character, turns: { 'left.upperArm': [0, 0, 12] } },
  take: {
    ...DEFAULT_RECIPE.take,
    from: 0.3,
    to: 2.1,
    clean: { ...DEFAULT_RECIPE.take.clean, gaps: true, spikes: true, cutoff: { ...DEFAULT_RECIPE.take.clean.cutoff, legs: 8 } },
    floor: { height: 0.02, heading: 15, place: [0, 0] },
    plants: [{ kind: 'remove', side: 'left', part: 'heel', from: 1.2, to: 1.3, height: null }],
    touches: [{ kind: 'add', on: 'rest', side: 'right', from: 0.5, to: 1 }],
  },
  touchUps: [
    v.parse(touchUpSchema, { kind: 'shoulders', value: 8 }),
    v.parse(touchUpSchema, {
      kind: 'knees',
      side: 'left',
      value: 0,
      keys: [
        { at: 0.4, value: 0 },
        { at: 1.2, value: 9 },
      ],
    }),
  ],
  layers: [
    makeLayer({
      name: 'nod',
      does: { kind: 'turns', tracks: [{ role: 'head', keys: [{ at: 1, value: [20, 0, 0] }] }] },
      mask: { from: 1, to: 1.4, fade: 0.2 },
    }),
    makeLayer({ name: 'calm', does: { kind: 'calm', parts: ['left.arm'] } }),
  ],
  pairing: { ...DEFAULT_RECIPE.pairing, stride: 0.8 },
  solve: { ...DEFAULT_RECIPE.solve, fps: 60, floor: 'zero' },
};

const job = (recipe: Recipe, file: MotionFile = take): Job => ({ take: file, clip: 0, character, recipe });
/** Compares without building a difference, which takes minutes on a file. */
const isSame = (a: ArrayLike<number>, b: ArrayLike<number>): boolean => a.length === b.length && Array.from(a).every((v, i) => v === b[i]);
const expectSame = (a: Outcome, b: Outcome): void => {
  expect(isSame(b.bytes, a.bytes)).toBeTrue();
  expect(b.report.verdict.figures).toEqual(a.report.verdict.figures);
};

describe('a job', () => {
  it('says what of its decisions the files cannot carry', () => {
    const said = (recipe: Partial<Recipe>): string[] =>
      prepare(job({ ...DEFAULT_RECIPE, ...recipe })).cautions.map(({ message }) => message);
    const solve = { ...DEFAULT_RECIPE.solve, stretch: 0.1 };
    expect(said({ solve }).some((text) => text.includes('keep their length'))).toBeTrue();
    const span = { kind: 'add' as const, from: 0.5, to: 1 };
    const touches = [{ ...span, on: 'body' as const, part: 'head', side: 'left' as const }];
    const rests = [{ ...span, part: 'seat' as const }];
    expect(said({ take: { ...DEFAULT_RECIPE.take, touches } }).filter((text) => text.includes('is not near its head there'))).toHaveSize(1);
    expect(said({ take: { ...DEFAULT_RECIPE.take, rests } }).filter((text) => text.includes('comes near the floor'))).toHaveSize(1);
    expect(said({}).filter((text) => /holds nothing|not held|keep their length/.test(text))).toEqual([]);
  });

  it('leads over frames that a recorder doubled, and brings them back as they are on the very body of the performer', () => {
    const [clip] = take.clips;
    const width = clip.rotations.length / clip.frames;
    const rotations = clip.rotations.slice();
    const values = clip.moves[0].values.slice();
    for (const f of [90, 140, 201]) {
      rotations.copyWithin(f * width, (f - 1) * width, f * width);
      values.copyWithin(f * 3, (f - 1) * 3, f * 3);
    }
    const doubled = { ...take, clips: [{ ...clip, rotations, moves: [{ ...clip.moves[0], values }] }] };
    const solved = (file: MotionFile, onto: MotionFile): Float32Array =>
      solveReady(prepare({ take: file, clip: 0, character: onto, recipe: DEFAULT_RECIPE })).take.rotations;
    /** How far frames of a take are from those of the clean one, as a share of the way that they go in a frame. */
    const off = (list: Float32Array, clean: Float32Array, f: number): number => {
      let [away, step] = [0, 0];
      for (let o = f * width; o < (f + 1) * width; o++) {
        away = Math.max(away, Math.abs(list[o] - clean[o]));
        step = Math.max(step, Math.abs(clean[o] - clean[o - width]));
      }
      return away / step;
    };
    const clean = solved(take, character);
    for (const f of [90, 140, 201]) {
      expect(off(solved(doubled, character), clean, f))
        .withContext(`${f}`)
        .toBeLessThan(0.3);
      expect(off(solved(doubled, take), clean, f))
        .withContext(`${f}, own body`)
        .toBeGreaterThan(0.9);
    }
  });

  it('changes nothing of the files that it is given, whatever is decided about them', () => {
    const decisions: Recipe[] = [
      RECIPE,
      DEFAULT_RECIPE,
      { ...DEFAULT_RECIPE, delivery: { ...DEFAULT_RECIPE.delivery, loop: 0.5, unit: 1 } },
      {
        ...DEFAULT_RECIPE,
        take: { ...DEFAULT_RECIPE.take, clean: { ...DEFAULT_RECIPE.take.clean, gaps: true, spikes: true, jumps: true } },
      },
      { ...DEFAULT_RECIPE, solve: { ...DEFAULT_RECIPE.solve, inPlace: true, floor: 'zero', plain: true } },
    ];
    const [clip] = take.clips;
    const before = [clip.rotations.slice(), clip.moves[0].values.slice(), character.skeleton.restR.slice()];
    for (const recipe of decisions) {
      runJob(job(recipe));
      const after = [clip.rotations, clip.moves[0].values, character.skeleton.restR];
      expect(after.every((list, i) => isSame(list, before[i]))).toBeTrue();
    }
  });

  it('gives the same bits from a recipe written and read again', () => {
    const recipe = parseRecipe(writeRecipe(RECIPE));
    expect(recipe).toEqual(RECIPE);
    expectSame(runJob(job(RECIPE)), runJob(job(recipe)));
  });

  it('gives the same bits step by step with a memory as in one go, for a trimmed, cleaned, resampled take', () => {
    const memory = new JobMemory();
    // As on a page where one thing is set after the other.
    for (const part of ['take', 'pairing', 'character', 'touchUps', 'layers', 'solve'] as const) {
      solveReady(prepare(job({ ...DEFAULT_RECIPE, [part]: RECIPE[part] }), memory), memory);
    }
    const ready = prepare(job(RECIPE), memory);
    const transfer = solveReady(ready, memory);
    const whole = runJob(job(RECIPE));
    expect(isSame(transfer.clip.rotations, whole.transfer.clip.rotations)).toBeTrue();
    expect(isSame(deliver(ready, transfer), whole.bytes)).toBeTrue();
    expect([transfer.clip.frames, transfer.clip.frameTime]).toEqual([109, 1 / 60]);
  });

  it('lays layers over the result in the take’s own time, whatever part of it is solved', () => {
    const nodding = (of: Partial<Recipe['take']>, fps: number | null, at: number): number => {
      const run = (layers: Recipe['layers']): Outcome =>
        runJob(job({ ...DEFAULT_RECIPE, layers, take: { ...DEFAULT_RECIPE.take, ...of }, solve: { ...DEFAULT_RECIPE.solve, fps } }));
      const [with_, without] = [run(RECIPE.layers.slice(0, 1)), run([])];
      const { clip, pairing } = with_.transfer;
      const frame = Math.round((at - (of.from ?? 0)) / clip.frameTime);
      const o = (frame * pairing.character.skeleton.parents.length + pairing.character.roles.get('head')!) * 4;
      return (quat.angleBetween(clip.rotations, o, without.transfer.clip.rotations, o) * 180) / Math.PI;
    };
    for (const from of [0, 0.5]) {
      for (const fps of [null, 30]) {
        expect(nodding({ from }, fps, 1.2))
          .withContext(`${from} ${fps}`)
          .toBeCloseTo(20, 1);
        expect(nodding({ from }, fps, 0.7))
          .withContext(`${from} ${fps}`)
          .toBeCloseTo(0, 1);
      }
    }
  });

  it('keeps edits of plants in the take’s own time: another frame rate edits the same plants', () => {
    const plants = (fps: number | null, edits: TakeChoices['plants']) =>
      prepare(job({ ...DEFAULT_RECIPE, take: { ...DEFAULT_RECIPE.take, plants: edits }, solve: { ...DEFAULT_RECIPE.solve, fps } })).contacts
        .plants;
    const all = plants(null, []);
    const heel = all.find(({ side, part }) => side === 'right' && part === 'heel')!;
    const [from, to] = [(heel.first + 4) / 120, (heel.last - 4) / 120];
    for (const fps of [null, 60, 30]) {
      const edited = plants(fps, [
        { kind: 'remove', side: 'right', part: 'heel', from, to, height: null },
        { kind: 'add', side: 'right', part: 'ball', from, to, height: null },
      ]);
      const during = edited.filter(({ side, first, last }) => side === 'right' && first / (fps ?? 120) < to && last / (fps ?? 120) > from);
      expect(during.map(({ part }) => part))
        .withContext(`${fps}`)
        .toEqual(['ball']);
    }
  });

  it('gives two takes of one performer one rest pose and one scale, measured on the take that is named', () => {
    const first = makeFile(shape, { name: 'first.bvh' }, walk(shape, { seed: 91, frames: 90 }));
    const second = makeFile(
      shape,
      { name: 'second.bvh', rest: { seed: 4, degrees: 20 } },
      walk(shape, { seed: 7, frames: 90, crouch: 0.1 }),
    );
    const reference = measureReference(first, labelFile(first, 0), 0, DEFAULT_RECIPE.performer);
    const [a, b] = [first, second].map((file) =>
      prepare(job({ ...DEFAULT_RECIPE, performer: { ...DEFAULT_RECIPE.performer, reference } }, file)),
    );
    expect(b.pairing.scale).toEqual(a.pairing.scale);
    b.performer.restPose.positions.forEach((v, i) => expect(v).toBeCloseTo(a.performer.restPose.positions[i], 6));
  });

  it('tells two joints of one name apart in saved labels', () => {
    const names = (role: string): string => (/Arm|hand|clavicle/.test(role) ? role.replace(/^(left|right)\./, '') : role);
    const file = makeFile(shape, { name: 'twice.bvh', names }, walk(shape, { seed: 91, frames: 90 }));
    const found = prepare(job(DEFAULT_RECIPE, file)).performer.roles;
    expect(found.get('left.hand')).not.toBe(found.get('right.hand'));
    const keys = jointKeys(file.skeleton);
    const labels = Object.fromEntries([...found].map(([role, joint]) => [role, keys[joint]]));
    expect(labels['right.hand']).not.toBe(labels['left.hand']);
    const recipe = parseRecipe(writeRecipe({ ...DEFAULT_RECIPE, performer: { ...DEFAULT_RECIPE.performer, labels } }));
    expect(prepare(job(recipe, file)).performer.roles).toEqual(found);
  });

  it('takes a turn made by hand to every joint below, linked or not, and into the file', () => {
    const plain = runJob(job(DEFAULT_RECIPE));
    const turned = runJob(
      job({
        ...DEFAULT_RECIPE,
        pairing: { ...DEFAULT_RECIPE.pairing, turns: { 'left.upperArm': [0, 0, 25] }, links: { 'left.hand': null } },
      }),
    );
    const [a, b] = [plain, turned].map(({ transfer }) => new ClipReader(transfer.pairing.character.skeleton, transfer.clip));
    const hand = plain.ready.character.roles.get('left.hand')! * 3;
    const [p, q] = [a.at(50).positions, b.at(50).positions];
    expect(Math.hypot(p[hand] - q[hand], p[hand + 1] - q[hand + 1], p[hand + 2] - q[hand + 2])).toBeGreaterThan(0.1);
    expect(isSame(turned.bytes, plain.bytes)).toBeFalse();
  });

  it('lets the hips come back after the last plant: they stay low for no longer than a step', () => {
    // Walks, then is carried up and up: nothing rests in the second half, on the floor or above it.
    const motion = walk(shape, { seed: 3, frames: 360, roll: 15, crouch: 0.02 });
    const hips = motion.hips.map((v, i) => (i % 3 === 1 ? v + 0.5 * Math.max(0, (i / 3 - 170) / 60) : v));
    const { file } = performerOf(shape, { ...motion, hips });
    const { ready, transfer } = runJob({ take: file, clip: 0, character, recipe: DEFAULT_RECIPE });
    const last = Math.max(...transfer.contacts.plants.map((plant) => plant.last));
    expect(last).toBeLessThan(230);
    const { skeleton, roles } = transfer.pairing.character;
    const [a, b] = [transfer, solvePlain(ready)].map(({ clip }) => new ClipReader(skeleton, clip));
    const at = roles.get('hips')! * 3;
    for (let f = last + 50; f < 360; f += 10) {
      for (let c = 0; c < 3; c++) expect(Math.abs(a.at(f).positions[at + c] - b.at(f).positions[at + c])).toBeLessThan(1e-3);
    }
  });

  it('does not pull the hips to the ground for marks out of reach, and says what it could not reach', () => {
    const small = makeFile(randomShape(93, { spine: 2, neck: 1, clavicles: true, spread: [0.5, 0.55] }), { name: 'small.bvh' });
    const recipe: Recipe = { ...DEFAULT_RECIPE, pairing: { ...DEFAULT_RECIPE.pairing, stride: 3 } };
    const { ready, transfer, report } = runJob({ take, clip: 0, character: small, recipe });
    const { skeleton, roles, legLength } = transfer.pairing.character;
    const [a, b] = [transfer, solvePlain(ready)].map(({ clip }) => new ClipReader(skeleton, clip));
    const at = roles.get('hips')! * 3 + 1;
    for (let f = 0; f < transfer.clip.frames; f += 5) {
      expect(b.at(f).positions[at] - a.at(f).positions[at])
        .withContext(`frame ${f}`)
        .toBeLessThan(0.27 * legLength);
    }
    expect(report.cautions.some(({ code }) => code === 'solve/reach')).toBe(transfer.misses.length > 0);
    expect(transfer.misses.length).toBeGreaterThan(0);
  });
});

describe('a take that plays backwards', () => {
  const backwards: Recipe = { ...RECIPE, take: { ...RECIPE.take, reversed: true } };
  const ahead = prepare(job(RECIPE));
  const back = prepare(job(backwards));

  it('has its edits, touch-ups and layers at the same moments of the recording', () => {
    const turned = ahead.take.frames - 1;
    const rested = ({ contacts }: typeof ahead, side: string): number[] =>
      contacts.hands!.touches.filter((one) => one.side === side).flatMap(({ first, last }) => [first, last]);
    expect(rested(back, 'right').sort((a, b) => a - b)).toEqual(
      rested(ahead, 'right')
        .map((f) => turned - f)
        .sort((a, b) => a - b),
    );
    expect(back.contacts.plants.every(({ first, last }) => first <= last)).toBeTrue();
    const heads = [ahead, back].map((ready) => {
      const { clip } = solveReady(ready);
      const reader = new ClipReader(ready.character.skeleton, clip);
      const head = ready.character.roles.get('head')! * 4;
      return Array.from({ length: clip.frames }, (_, f) => reader.at(f).rotations.slice(head, head + 4));
    });
    const off = new Float64Array(4);
    let worst = 0;
    heads[0].forEach((q, f) => {
      quat.invMul(off, 0, q, 0, heads[1][turned - f], 0);
      worst = Math.max(worst, quat.angle(off, 0));
    });
    // The nod is one of 20 degrees; the hips' own turns are the performer's either way.
    expect((worst * 180) / Math.PI).toBeLessThan(1);
  });

  it('is delivered without a fault that it does not have forwards', () => {
    const faults = (recipe: Recipe): string[] => {
      const { report } = runJob(job({ ...recipe, layers: [], touchUps: [] }));
      return report.verdict.figures.filter(({ mark }) => mark === 'fault').map(({ id }) => id);
    };
    expect(faults(backwards)).toEqual(faults(RECIPE));
  });

  it('is delivered as a loop where the take is one, and as the delivery says where that says so', () => {
    const gap = (recipe: Recipe): number | undefined => runJob(job(recipe)).output.loopGap;
    expect(gap(RECIPE)).toBeUndefined();
    const looped = { ...RECIPE, take: { ...RECIPE.take, loop: 0.4 } };
    expect(gap(looped)).toBeDefined();
    expect(gap(looped)).toBe(gap({ ...RECIPE, delivery: { ...RECIPE.delivery, loop: 0.4 } }));
  });
});
