/**
 * Measures the solver against a plain forward-kinematics pass over the same clip, in one run. Ratios count; the
 * milliseconds beside them are this machine's.
 *
 *   npm run bench                                the demo production
 *   npm run bench -- TAKE.bvh CHARACTER.glb      any pair of files
 */
import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  clipOf,
  ClipReader,
  contactsOf,
  DEFAULT_SOLVE,
  makePairing,
  measure,
  prepareBody,
  readMotionFile,
  solve,
  solveWindow,
  writeMotion,
  writeBvh,
  type BvhLayout,
  type StageId,
} from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '@hollow-stride/core/testing/index';
import { makeDemo } from '../src/index';

const RUNS = 15;
/** Frames on each side of the one that is looked at, as on Match. */
const AROUND = 24;

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
 */
function besides(pass: () => void, plainPass: number, work: () => unknown): number {
  for (let i = 0; i < 12; i++) work();
  const ratios = Array.from({ length: 31 }, () => {
    const start = performance.now();
    pass();
    const middle = performance.now();
    work();
    return (performance.now() - middle) / (middle - start);
  });
  return ratios.sort((a, b) => a - b)[15] * plainPass;
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
  const performer = prepareBody(takeFile);
  const character = prepareBody(await readMotionFile(characterBytes, characterName));
  const pairing = makePairing(performer, character);
  const clip = clipOf(performer);
  const transfer = solve(pairing, clip, DEFAULT_SOLVE);
  const reader = new ClipReader(character.skeleton, transfer.clip);
  const pass = (): void => {
    for (let f = 0; f < transfer.clip.frames; f++) reader.at(f);
  };
  const plainPass = timed(pass, 31);
  const whole = besides(pass, plainPass, () => solve(pairing, clip, DEFAULT_SOLVE));
  const plain = besides(pass, plainPass, () => solve(pairing, clip, { ...DEFAULT_SOLVE, plain: true }));

  const stages = new Map<StageId, number>();
  for (let i = 0; i < RUNS; i++) {
    let last = performance.now();
    solve(pairing, clip, DEFAULT_SOLVE, (stage) => {
      const now = performance.now();
      stages.set(stage, (stages.get(stage) ?? 0) + (now - last) / RUNS);
      last = now;
    });
  }
  const gc = (globalThis as { gc?: () => void }).gc;
  gc?.();
  const memory = (): number => process.memoryUsage().heapUsed + process.memoryUsage().arrayBuffers;
  const before = memory();
  let most = 0;
  const kept = solve(pairing, clip, DEFAULT_SOLVE, () => (most = Math.max(most, memory() - before)));
  const output = kept.clip.rotations.byteLength + kept.clip.moves.reduce((sum, m) => sum + m.values.byteLength, 0);

  const x = (ms: number): string => `${(ms / plainPass).toFixed(1).padStart(6)} ×  ${ms.toFixed(1).padStart(7)} ms`;
  const line = (name: string, ms: number): void => print(`  ${name.padEnd(28)}${x(ms)}`);
  print(
    `\n${takeName} onto ${characterName}: ${clip.frames} frames, ${performer.skeleton.names.length} to ${character.skeleton.names.length} joints`,
  );
  line('plain pass (forward kinematics)', plainPass);
  line('whole solve', whole);
  line('plain solve', plain);
  // What a turned dial costs: the pairing made anew and the frames about the one that is looked at.
  const contacts = contactsOf(pairing, clip);
  const middle = clip.frames >> 1;
  line(
    'right frame after a dial',
    besides(pass, plainPass, () => solveWindow(makePairing(performer, character), clip, DEFAULT_SOLVE, contacts, middle, AROUND)),
  );
  for (const [stage, ms] of stages) line(`  stage ${stage}`, ms);
  line(
    'figures',
    timed(() => measure(transfer), 5),
  );
  line(
    'make ready (label, rest, feet)',
    timed(() => prepareBody(takeFile), 5),
  );
  line(
    'pair',
    timed(() => makePairing(performer, character), 5),
  );
  line(
    'write BVH',
    timed(() => writeMotion(character.file, character.basis, transfer.clip, 'bvh'), 3),
  );
  if (character.file.layout.format === 'glb')
    line(
      'write GLB',
      timed(() => writeMotion(character.file, character.basis, transfer.clip, 'glb'), 3),
    );
  line('read take', read);
  print(
    `  read: ${(takeBytes.length / 1e3 / read).toFixed(0)} MB/s (${(takeBytes.length / 1e6).toFixed(2)} MB), ${firstRead.toFixed(0)} ms the first time`,
  );
  print(`  solve: ${((clip.frames * character.skeleton.names.length) / whole / 1000).toFixed(2)} million joints × frames a second`);
  print(
    `  memory: ${(most / 1e6).toFixed(1)} MB at most while solving, ${(output / 1e6).toFixed(1)} MB of it the result${gc ? '' : ' (without --expose-gc: rough)'}`,
  );
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
}
