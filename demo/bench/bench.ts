/**
 * Measures the solver and the judge against a plain forward-kinematics pass over the same clip, in one run. Ratios count; the
 * milliseconds beside them are this machine's.
 *
 *   npm run bench                                the demo production
 *   npm run bench -- TAKE.bvh CHARACTER.glb      any pair of files
 */
import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  DEFAULT_RECIPE,
  deliver,
  ClipReader,
  cutContacts,
  JobMemory,
  judgeTransfer,
  LiveSolver,
  makeLayer,
  makePairing,
  makeTouchUp,
  mendReady,
  plainPass,
  prepare,
  prepareRig,
  readMotionFile,
  solve,
  solveAround,
  solveBelow,
  solveReady,
  solveWindow,
  STAGES,
  trim,
  writeBvh,
  clipOf,
  type BvhLayout,
  type Clip,
  type Job,
  type Layer,
  type LayerDoes,
  type Pairing,
  type Recipe,
  type SolveSettings,
  type StageId,
} from '@hollow-stride/core';
import { makeFile, randomShape, walk, type Shape } from '@hollow-stride/core/testing/index';
import { makeDemo } from '../src/index';

/** A touch-up that a person drags. */
const SHOULDERS = makeTouchUp({ kind: 'shoulders' });
const RUNS = 15;
/** Whole solves until all that is hot is compiled. */
const COMPILED = 200;
/** Frames on each side of the one that is looked at, as on Match. */
const AROUND = 24;

/** Figures on one stage. */
const FIGURES = 20;
/** A layer of each kind, over the whole take. */
const LAYERS: readonly Layer[] = (
  [
    { kind: 'turns', tracks: [{ role: 'head', keys: [{ at: 1, value: [15, 0, 0] }] }] },
    { kind: 'reach', tracks: [{ end: 'right.hand', keys: [{ at: 1, value: [0, 8, 0] }] }] },
    { kind: 'calm' },
    { kind: 'spikes' },
    { kind: 'amount' },
    { kind: 'mirror' },
  ] as LayerDoes[]
).map((does) => makeLayer({ name: does.kind, does }));

/** Milliseconds of work for each frame of a take that is solved as it comes. */
function liveFrames(pairing: Pairing, take: Clip, settings: SolveSettings): number[] {
  const live = new LiveSolver(pairing, { frameTime: take.frameTime, settings });
  const joints = pairing.performer.skeleton.names.length;
  const root = take.moves.find(({ joint }) => joint === 0)!.values;
  return Array.from({ length: take.frames }, (_, f) => {
    live.push(take.rotations.subarray(f * joints * 4, (f + 1) * joints * 4), root.subarray(f * 3, f * 3 + 3));
    const start = performance.now();
    live.solve();
    return performance.now() - start;
  });
}

/** The median time of a number of runs, after a few to warm up. */
function timed(work: () => unknown, runs = RUNS): number {
  for (let i = 0; i < 12; i++) work();
  const times = Array.from({ length: runs }, () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  });
  return times.sort((a, b) => a - b)[runs >> 1];
}

/**
 * The time of some work as so many plain passes, each run beside one: the median ratio times the plain pass' own time, so
 * that whatever else the machine does weighs on both alike.
 * @param warm how often it is done before: until a whole solve is compiled as well as it ever will be takes a few seconds
 */
function besides(pass: () => void, plain: number, work: (run: number) => unknown, warm = 12): number {
  for (let i = 0; i < warm; i++) work(i);
  const ratios = Array.from({ length: 31 }, (_, i) => {
    const start = performance.now();
    pass();
    const middle = performance.now();
    work(i);
    return (performance.now() - middle) / (middle - start);
  });
  return ratios.sort((a, b) => a - b)[15] * plain;
}

async function bench(takeName: string, takeBytes: Uint8Array, characterName: string, characterBytes: Uint8Array): Promise<void> {
  const readStart = performance.now();
  const takeFile = await readMotionFile(takeBytes, takeName);
  const firstRead = performance.now() - readStart;
  const reads: number[] = [];
  for (let i = 0; i < 7; i++) {
    const start = performance.now();
    await readMotionFile(takeBytes, takeName);
    reads.push(performance.now() - start);
  }
  const read = reads.sort((a, b) => a - b)[3];
  const job: Job = { take: takeFile, clip: 0, character: await readMotionFile(characterBytes, characterName), recipe: DEFAULT_RECIPE };
  const ready = prepare(job);
  const { pairing, take, settings, contacts, performer, character } = ready;
  const transfer = solveReady(ready);
  const { frames } = transfer.clip;
  const pass = (): void => plainPass(transfer);
  const plain = timed(pass, 31);

  const x = (ms: number): string => `${(ms / plain).toFixed(1).padStart(6)} ×  ${ms.toFixed(1).padStart(7)} ms`;
  const line = (name: string, ms: number): void => print(`  ${name.padEnd(34)}${x(ms)}`);
  print(
    `\n${takeName} onto ${characterName}: ${frames} frames, ${performer.skeleton.names.length} to ${character.skeleton.names.length} joints`,
  );
  line('plain pass (forward kinematics)', plain);
  const whole = besides(pass, plain, () => solve(pairing, take, settings), COMPILED);
  line('whole solve', whole);
  line(
    'judge',
    besides(pass, plain, () => judgeTransfer(ready, transfer)),
  );
  line(
    'plain solve',
    besides(pass, plain, () => solve(pairing, take, { ...settings, plain: true })),
  );
  // Cost of a changed setting while everything else is known.
  const memory = new JobMemory();
  const recipes: readonly (readonly [string, (run: number) => Recipe])[] = [
    ['changed: floor', (i) => ({ ...DEFAULT_RECIPE, solve: { ...DEFAULT_RECIPE.solve, floor: i % 2 ? 'zero' : 'take' } })],
    ['changed: in place', (i) => ({ ...DEFAULT_RECIPE, solve: { ...DEFAULT_RECIPE.solve, inPlace: i % 2 === 0 } })],
    ['changed: a shoulder', (i) => ({ ...DEFAULT_RECIPE, touchUps: [{ ...SHOULDERS, value: 5 + (i % 2) }] })],
    ['changed: a stride', (i) => ({ ...DEFAULT_RECIPE, pairing: { ...DEFAULT_RECIPE.pairing, stride: i % 2 ? 'legs' : 0.9 } })],
  ];
  for (const [name, recipeOf] of recipes) {
    line(
      name,
      besides(pass, plain, (i) => solveReady(prepare({ ...job, recipe: recipeOf(i) }, memory), memory)),
    );
  }
  // Cost of a turned dial: a new pairing and the frames about the one in view; and one frame alone.
  const middle = frames >> 1;
  line(
    'right frame after a dial',
    besides(pass, plain, () => solveWindow(makePairing(performer, character), take, settings, contacts, { frame: middle, around: AROUND })),
  );
  const earlier = { ready, below: solveBelow(ready) };
  const draggedBy = (i: number): Recipe => ({ ...DEFAULT_RECIPE, touchUps: [makeTouchUp({ kind: 'hips', value: 0.1 * (i + 1) })] });
  const dragged = (i: number) => solveAround(prepare({ ...job, recipe: draggedBy(i) }, memory), earlier, middle);
  // Of a short take the whole is found at once.
  if (dragged(0)) line('right frame while the hips are dragged', besides(pass, plain, dragged));
  const one = trim(performer.skeleton, take, middle, middle);
  line(
    'one frame',
    besides(pass, plain, () => solve(pairing, one, settings, { contacts: { ...cutContacts(contacts, middle, middle), plants: [] } })),
  );

  const stages = new Map<StageId, number>();
  for (let i = 0; i < RUNS; i++) {
    let last = performance.now();
    solve(pairing, take, settings, {
      onStage: (stage) => {
        const now = performance.now();
        stages.set(stage, (stages.get(stage) ?? 0) + (now - last) / RUNS);
        last = now;
      },
    });
  }
  for (const { id, name } of STAGES) line(`  ${name.toLowerCase()}`, stages.get(id) ?? 0);
  const gc = (globalThis as { gc?: () => void }).gc;
  gc?.();
  const memoryUsed = (): number => process.memoryUsage().heapUsed + process.memoryUsage().arrayBuffers;
  const before = memoryUsed();
  let most = 0;
  const kept = solve(pairing, take, settings, { onStage: () => (most = Math.max(most, memoryUsed() - before)) });
  const output = kept.clip.rotations.byteLength + kept.clip.moves.reduce((sum, m) => sum + m.values.byteLength, 0);
  line(
    'make ready (label, rest, feet)',
    timed(() => prepareRig(takeFile), 5),
  );
  line(
    'pair',
    timed(() => makePairing(performer, character), 5),
  );
  for (const format of ['bvh', ...(job.character.layout.format === 'glb' ? (['glb'] as const) : [])] as const) {
    const written = { ...job, recipe: { ...DEFAULT_RECIPE, delivery: { ...DEFAULT_RECIPE.delivery, format } } };
    line(
      `write ${format.toUpperCase()}`,
      timed(() => deliver({ job: written, character }, transfer), 3),
    );
  }
  for (const layer of LAYERS) {
    const mended = { ...ready, job: { ...job, recipe: { ...DEFAULT_RECIPE, layers: [layer] } } };
    line(
      `layer: ${layer.name}`,
      besides(pass, plain, () => mendReady(mended, transfer), 3),
    );
  }
  const live = liveFrames(pairing, take, settings);
  line(
    'as it comes, all frames',
    live.reduce((sum, ms) => sum + ms, 0),
  );
  live.sort((a, b) => a - b);
  print(
    `  a frame as it comes: ${live[frames >> 1].toFixed(1)} ms, 99 of 100 under ${live[Math.floor(0.99 * frames)].toFixed(1)} ms, ${((live[frames >> 1] * frames) / plain).toFixed(0)} × a plain pass of that frame`,
  );
  const stage = Array.from({ length: FIGURES }, () => new ClipReader(character.skeleton, transfer.clip));
  line(
    `${FIGURES} figures of a reel, one frame`,
    besides(pass, plain, (i) => stage.forEach((reader, k) => reader.at((i + 31 * k) % frames))),
  );
  line('read take', read);
  print(
    `  read: ${(takeBytes.length / 1e3 / read).toFixed(0)} MB/s (${(takeBytes.length / 1e6).toFixed(2)} MB), ${firstRead.toFixed(0)} ms the first time`,
  );
  print(`  solve: ${((frames * character.skeleton.names.length) / whole / 1000).toFixed(2)} million joints × frames a second`);
  print(
    `  memory: ${(most / 1e6).toFixed(1)} MB at most while solving, ${(output / 1e6).toFixed(1)} MB of it the result${gc ? '' : ' (without --expose-gc: rough)'}`,
  );
}

/** How the cost grows: the whole solve and its stages in plain passes, for takes of more frames and bodies of more joints. */
function growth(): void {
  print('\ngrowth, in plain passes of the same clip');
  for (const [frames, joints] of [
    [1000, 25],
    [10_000, 25],
    [100_000, 25],
    [1000, 65],
    [10_000, 65],
    [1000, 150],
    [10_000, 150],
  ] as const) {
    const shape = withJoints(randomShape(5, { spine: 3, neck: 1, clavicles: true, toes: true }), joints);
    const short = walk(shape, { seed: 5, frames: 1000 });
    const performer = prepareRig(makeFile(shape, {}, short));
    const character = prepareRig(makeFile(withJoints(randomShape(6, { spine: 4, neck: 2, clavicles: true }), joints), { axes: 6 }));
    const pairing = makePairing(performer, character);
    const take = repeated(clipOf(makeFile(shape, {}, short), performer), frames);
    const runs = Math.max(1, Math.round(COMPILED * Math.min(0.5, 300 / frames)));
    let [pass, whole] = [Infinity, Infinity];
    const stages = new Map<StageId, number>();
    for (let i = 0; i < runs + 1; i++) {
      const spent: [StageId, number][] = [];
      const start = performance.now();
      let last = start;
      const transfer = solve(pairing, take, undefined, {
        onStage: (stage) => {
          const now = performance.now();
          spent.push([stage, now - last]);
          last = now;
        },
      });
      const solved = performance.now();
      plainPass(transfer);
      pass = Math.min(pass, performance.now() - solved);
      if (solved - start >= whole) continue;
      whole = solved - start;
      for (const [stage, time] of spent) stages.set(stage, time);
    }
    const most = [...stages].sort((a, b) => b[1] - a[1]).slice(0, 4);
    print(
      `  ${String(frames).padStart(7)} frames, ${String(character.skeleton.names.length).padStart(3)} joints: ${(whole / pass).toFixed(1)} × (${most.map(([stage, time]) => `${stage} ${(time / pass).toFixed(1)}`).join(', ')})`,
    );
  }
}

/** A body with joints that carry nothing, as hair and cloth have, up to a number. */
function withJoints(shape: Shape, count: number): Shape {
  const head = shape.joints.findIndex(({ role }) => role === 'head');
  const more = Array.from({ length: Math.max(0, count - shape.joints.length) }, (_, i) => ({
    role: `cloth.${i + 1}`,
    parent: head,
    offset: [0.02 * Math.sin(i), 0.05 + 0.001 * i, 0.02 * Math.cos(i)] as const,
  }));
  return { ...shape, joints: [...shape.joints, ...more] };
}

/** A clip over and over, on and on over the floor. */
function repeated(clip: Clip, frames: number): Clip {
  const rotations = new Float32Array((clip.rotations.length / clip.frames) * frames);
  for (let at = 0; at < rotations.length; at += clip.rotations.length) {
    rotations.set(clip.rotations.subarray(0, Math.min(clip.rotations.length, rotations.length - at)), at);
  }
  const moves = clip.moves.map(({ joint, values }) => {
    const way = [0, 2].map((c) => values[values.length - 3 + c] - values[c]);
    const out = new Float32Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      const [round, g] = [Math.floor(f / clip.frames), f % clip.frames];
      out[f * 3] = values[g * 3] + round * way[0];
      out[f * 3 + 1] = values[g * 3 + 1];
      out[f * 3 + 2] = values[g * 3 + 2] + round * way[1];
    }
    return { joint, values: out };
  });
  return { ...clip, frames, rotations, moves };
}

function print(text: string): void {
  process.stdout.write(`${text}\n`);
}

const [takePath, characterPath] = process.argv.slice(2);
if (takePath !== undefined && characterPath !== undefined) {
  await bench(basename(takePath), await readFile(takePath), basename(characterPath), await readFile(characterPath));
} else {
  const demo = new Map((await makeDemo()).map((file) => [file.name, file.bytes]));
  for (const character of ['ferryman.glb', 'heron.glb'])
    await bench('quay-walk.bvh', demo.get('quay-walk.bvh')!, character, demo.get(character)!);
  const shape = randomShape(3, { spine: 3, neck: 1, clavicles: true });
  const long = makeFile(shape, {}, walk(shape, { seed: 3, frames: 3000 }));
  await bench(
    'long-walk.bvh',
    writeBvh(long.skeleton, long.clips[0], long.layout as BvhLayout),
    'tide-king.glb',
    demo.get('tide-king.glb')!,
  );
  growth();
}
