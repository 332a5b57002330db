/** Every motion of the depot, as a capture, onto bodies of other proportions than anybody has: npm run strangers -- [bodies] [part of a motion's name] */
import {
  DEFAULT_RECIPE,
  judgeTransfer,
  prepare,
  prepareRig,
  readMotionFile,
  solveReady,
  type MotionFile,
  type Verdict,
} from '@hollow-stride/core';
import { random } from '@hollow-stride/core/math/random';
import { depotMotions } from '../src/index';

/** How much longer each part of a body is, at least and at most: whose bones they are by the joint that they end at, or that one hangs on. */
const PARTS = [
  [/clavicle|upperArm|upperLeg/, 0.6, 1.7],
  [/lowerLeg/, 0.5, 2],
  [/foot/, 0.6, 1.8],
  [/toes/, 0.6, 1.5],
  [/lowerArm/, 0.5, 1.8],
  [/hand|thumb|index|middle|ring|little/, 0.6, 1.7],
  [/neck|head/, 0.8, 1.7],
  [/./, 0.7, 1.6],
] as const;

/** The performer of a motion with bones of other lengths, alike on both sides. */
function stranger(motion: MotionFile, seed: number): MotionFile {
  const rng = random(seed);
  const factors = PARTS.map(([, least, most]) => rng.range(least, most));
  const { skeleton } = motion;
  const roleOf = new Map([...prepareRig(motion).roles].map(([role, joint]) => [joint, role as string]));
  const restT = skeleton.restT.slice();
  skeleton.parents.forEach((parent, joint) => {
    if (parent < 0) return;
    const role = roleOf.get(joint) ?? roleOf.get(parent) ?? 'spine';
    const part = PARTS.findIndex(([pattern]) => pattern.test(role));
    for (let c = 0; c < 3; c++) restT[joint * 3 + c] *= factors[part];
  });
  return { ...motion, name: `stranger ${seed}.bvh`, skeleton: { ...skeleton, restT }, clips: [] };
}

function judged(take: MotionFile, character: MotionFile): Verdict {
  const ready = prepare({ take, clip: 0, character, recipe: DEFAULT_RECIPE });
  return judgeTransfer(ready, solveReady(ready));
}

const say = (line: string): boolean => process.stdout.write(`${line}\n`);
const [bodies = '4', name = ''] = process.argv.slice(2);
const counts = new Map<string, number>();
let [all, good] = [0, 0];
for (const { id, file } of depotMotions()) {
  if (!id.includes(name)) continue;
  const { bytes, name: fileName } = await file({ travel: 'travelling', fps: 60, body: 'motion', captured: 7 });
  const take = await readMotionFile(bytes, fileName);
  for (let seed = 1; seed <= Number(bodies); seed++) {
    const faults = judged(take, stranger(take, seed)).figures.filter(({ mark }) => mark === 'fault');
    all++;
    if (faults.length === 0) good++;
    else
      say(
        `${id}, ${seed}: ${faults.map(({ name: what, value, unit, words }) => `${what} ${value.toFixed(1)} ${unit}, ${words}`).join('; ')}`,
      );
    for (const fault of faults) counts.set(fault.name, (counts.get(fault.name) ?? 0) + 1);
  }
}
say(`\n${good} of ${all} without a fault`);
for (const [what, count] of [...counts].sort((a, b) => b[1] - a[1])) say(`${count} × ${what}`);
