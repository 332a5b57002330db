/// <reference lib="webworker" />
import {
  cautionsOf,
  ClipReader,
  compareRoles,
  FaultError,
  judgeTransfer,
  mendReady,
  lookedAtTransfer,
  NOT_AS_SOLVED,
  outputOf,
  plainPass,
  prepare,
  propsOf,
  READ_BACK,
  readBack,
  reportOf,
  sharedProps,
  slopeInDegrees,
  solveAround,
  solveBelow,
  solvePlain,
  writeOutput,
  solveReady,
  STAGES,
  type Clip,
  type Contacts,
  type Ground,
  type Pairing,
  type Rig,
  type SolvedBefore,
  type Transfer,
} from '@hollow-stride/core';
import { buffersOf, copyClip } from './clips';
import { displayBody } from './display';
import { faceShown, findClaps, showSound } from './face';
import { floorPlan } from './floor-plan';
import { jobOf, memory, readyOf } from './jobs';
import { deliverLanes, find, playReel } from './reel';
import type { FloorSlope, FootCurve, PairRequest, Solved, SolverAsk, SolverGives } from './messages';
import { serve, type Outcome, type Tell, type Wanted } from './worker-host';

/** Of a series, drawn wider than on a sheet. */
const SAMPLES = 600;

serve<SolverAsk, SolverGives>(async (ask, wanted, tell) => {
  if (ask.kind === 'solve') return solvePair(ask.pair, wanted, tell);
  if (ask.kind === 'preview') return preview(ask.pair, ask.frame);
  if (ask.kind === 'reel') return playReel(ask.reel, wanted, tell);
  if (ask.kind === 'find') return find(ask.what);
  if (ask.kind === 'sound') return { gives: { kind: 'sound', sound: await showSound(ask.sound) } };
  if (ask.kind === 'claps') return { gives: { kind: 'claps', claps: await findClaps(ask.pair, ask.sound) } };
  if (ask.kind === 'deliver-lanes') return deliverLanes(ask.reel, ask.lanes, ask.delivery);
  const job = await jobOf(ask.pair, ask.delivery);
  const ready = prepare(job, memory);
  const transfer = solveReady(ready, memory);
  const output = writeOutput(outputOf(ready, transfer));
  const { bytes } = output;
  const { worst } = await readBack(output, ready.character, `delivered.${output.format}`);
  if (worst > READ_BACK) throw new FaultError({ code: 'option', message: NOT_AS_SOLVED, where: { file: job.character.name } });
  // The judge looks at the motion that the file holds.
  const written = { ...transfer, clip: output.clip };
  const report = reportOf(written, judgeTransfer(ready, written, output.face ?? null), undefined, cautionsOf(ready, transfer), undefined);
  return { gives: { kind: 'delivered', delivered: { bytes, recipe: job.recipe, report } }, buffers: [bytes.buffer] };
});

/** What was solved as a whole last: what a drag changes is shown in it. */
let latest: SolvedBefore | undefined;

async function preview(pair: PairRequest, frame: number | undefined): Promise<Outcome<SolverGives>> {
  const ready = await readyOf(pair);
  const near = latest && frame !== undefined ? solveAround(ready, latest, frame) : undefined;
  const below = near ?? solveBelow(ready, memory);
  if (!near) latest = { ready, below };
  // What is not the whole is not worth remembering.
  const transfer = mendReady(ready, below, near ? undefined : memory);
  const clip = copyClip(transfer.clip);
  const under = belowOf(below, transfer);
  return {
    gives: {
      kind: 'preview',
      preview: {
        solved: clip,
        below: under,
        ...contactsOf(transfer),
        floorHeight: transfer.floor,
        face: faceShown(ready),
        isWhole: near === undefined,
      },
    },
    buffers: buffersOf(clip, ...(under ? [under] : [])),
  };
}

/** The motion under the layers, where there are any. */
function belowOf(below: Transfer, transfer: Transfer): Clip | undefined {
  return below.clip === transfer.clip ? undefined : copyClip(below.clip);
}

/** The contacts that the page shows; the solver's series stay here. */
function contactsOf(transfer: Transfer): Pick<Solved, 'contacts' | 'touches' | 'lying'> {
  const { plants, floor, ground, hands, body } = transfer.contacts;
  const slope = ground && { slope: slopeShown(ground, transfer) };
  return { contacts: { plants, floor, ...slope }, touches: hands?.touches ?? [], lying: body?.rests ?? [] };
}

function slopeShown({ x, z, low }: Ground, { pairing: { scale }, heading }: Transfer): FloorSlope {
  const share = scale.lift / scale.stride;
  return {
    ...slopeInDegrees({ x, z }),
    theirs: { x, z, low },
    mine: heading ? undefined : { x: x * share, z: z * share, low: low * scale.lift },
  };
}

function propsShown(pairing: Pairing): Solved['props'] {
  const shared = new Map(sharedProps(pairing).map(({ role, joint }) => [role, joint]));
  return propsOf(pairing.performer).map(({ role }) => ({ role, joint: shared.get(role) }));
}

async function solvePair(pair: PairRequest, wanted: Wanted, tell: Tell): Promise<Outcome<SolverGives>> {
  tell(0, 'reading the files');
  const job = await jobOf(pair);
  tell(0.1, 'finding what rests');
  const ready = prepare(job, memory);
  if (!(await wanted())) return undefined;
  const start = performance.now();
  let done = 0;
  const below = solveBelow(ready, memory, () => tell(0.2 + (0.3 * ++done) / STAGES.length, 'solving'));
  latest = { ready, below };
  if (job.recipe.layers.length > 0) tell(0.5, 'laying layers');
  const transfer = mendReady(ready, below, memory);
  const solvedAt = performance.now();
  plainPass(transfer);
  const time = { solve: solvedAt - start, plainPass: performance.now() - solvedAt };
  if (!(await wanted())) return undefined;
  tell(0.55, 'judging');
  const plain = solvePlain(ready, memory);
  const verdict = judgeTransfer(ready, transfer);
  if (!(await wanted())) return undefined;
  tell(0.75, 'judging');
  const figuresBelow = below === transfer ? undefined : memory.of('judged below', [below.clip], () => judgeTransfer(ready, below).figures);
  if (!(await wanted())) return undefined;
  tell(0.85, 'judging');
  const report = reportOf(transfer, verdict, judgeTransfer(ready, plain), cautionsOf(ready, transfer), time);
  const { performer, character, scale } = ready.pairing;
  const solved: Solved = {
    pair,
    roles: new Map([...character.roles].sort(([a], [b]) => compareRoles(a, b))),
    axes: { left: character.left, forward: character.forward, restPose: { rotations: character.restPose.rotations } },
    performer: displayBody(performer, job.take, pair.take.file),
    character: displayBody(character, job.character, pair.character.file),
    take: copyClip(transfer.take),
    solved: copyClip(transfer.clip),
    below: belowOf(below, transfer),
    plain: copyClip(plain.clip),
    ...contactsOf(transfer),
    props: propsShown(ready.pairing),
    time: ready.own,
    rests: verdict.rests,
    floorHeight: transfer.floor,
    floor: {
      mine: floorPlan(transfer.pairing.character, transfer.clip, transfer.contacts.plants),
      theirs: floorPlan(performer, transfer.take, transfer.contacts.plants, scale.stride),
    },
    lift: scale.lift,
    stride: scale.stride,
    curves: footCurves(performer, transfer.take, transfer.contacts),
    series: lookedAtTransfer(ready, transfer, verdict.figures, SAMPLES).series,
    report,
    face: faceShown(ready),
    figuresBelow,
  };
  return {
    gives: { kind: 'solved', solved },
    buffers: [
      ...buffersOf(solved.take, solved.solved, solved.plain, ...(solved.below ? [solved.below] : [])),
      ...solved.curves.flatMap(({ heights, speeds }) => [heights.buffer, speeds.buffer] as ArrayBuffer[]),
    ],
  };
}

function footCurves(rig: Rig, clip: Clip, { floor, ground }: Contacts): FootCurve[] {
  const curves = rig.feet.map(({ side }) => ({ side, heights: new Float32Array(clip.frames), speeds: new Float32Array(clip.frames) }));
  const before = new Float64Array(rig.feet.length * 3);
  const reader = new ClipReader(rig.skeleton, clip);
  for (let f = 0; f < clip.frames; f++) {
    const { positions } = reader.at(f);
    rig.feet.forEach(({ side, foot, ankleHeight }, i) => {
      curves[i].heights[f] = positions[foot * 3 + 1] - ankleHeight - floor - (ground?.under.get(`${side}.ball`)?.[f] ?? 0);
      let way = 0;
      for (let c = 0; c < 3; c++) way += (positions[foot * 3 + c] - before[i * 3 + c]) ** 2;
      if (f > 0) curves[i].speeds[f] = Math.sqrt(way) / clip.frameTime;
      for (let c = 0; c < 3; c++) before[i * 3 + c] = positions[foot * 3 + c];
    });
  }
  return curves;
}
