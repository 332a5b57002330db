import {
  caseOf,
  DEFAULT_RECIPE,
  JobMemory,
  judge,
  makePairing,
  prepare,
  readMotionFile,
  solve,
  solveReady,
  type Case,
  type MotionFile,
  type Rig,
  type Verdict,
} from '@hollow-stride/core';
import { depotMotions } from '../depot';
import { production } from '../testing/production';

/** A good transfer that faults are planted in. */
export interface Scene {
  readonly given: Case;
  /** What the judge says of it as it is. */
  readonly verdict: Verdict;
  readonly file: MotionFile;
  readonly rig: Rig;
  /** The same take solved for another body of the same skeleton. */
  readonly solvedAs: (rig: Rig) => Case;
  /** Joint of a role. */
  readonly at: (role: string) => number;
  /** Frame at a time, seconds. */
  readonly frame: (seconds: number) => number;
}

let files: Promise<MotionFile[]> | undefined;

async function filesOfDemo(): Promise<MotionFile[]> {
  return (files ??= production().then((list) => Promise.all(list.map(({ name, bytes }) => readMotionFile(bytes, name)))));
}

async function takeOf(name: string): Promise<MotionFile> {
  const own = (await filesOfDemo()).find((file) => file.name === `${name}.bvh`);
  if (own) return own;
  const motion = depotMotions().find(({ id }) => id === name)!;
  const made = await motion.file({ travel: 'travelling', fps: 60, body: 'motion' });
  return readMotionFile(made.bytes, made.name);
}

/** Transfers a take of the demo or of the depot onto a character of the demo. */
export async function makeScene(take: string, character: string): Promise<Scene> {
  const body = (await filesOfDemo()).find((file) => file.name === `${character}.glb`)!;
  const ready = prepare({ take: await takeOf(take), clip: 0, character: body, recipe: DEFAULT_RECIPE }, new JobMemory());
  const given = caseOf(solveReady(ready), body.skin);
  const rig = given.character;
  const solvedAs = (other: Rig): Case => caseOf(solve(makePairing(ready.performer, other), ready.take, ready.settings), body.skin);
  return {
    given,
    verdict: judge(given),
    file: body,
    rig,
    solvedAs,
    at: (role) => rig.roles.get(role)!,
    frame: (seconds) => Math.round(seconds / given.take.frameTime),
  };
}
