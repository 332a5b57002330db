/// <reference lib="webworker" />
import {
  cautionsOf,
  ClipReader,
  deliver,
  judgeTransfer,
  plainPass,
  prepare,
  reportOf,
  solvePlain,
  solveReady,
  type Clip,
  type Rig,
} from '@hollow-stride/core';
import { buffersOf, copyClip } from './clips';
import { displayBody } from './display';
import { jobOf, memory } from './jobs';
import type { FootCurve, PairRequest, Solved, SolverAsk, SolverGives } from './messages';
import { serve, type Outcome, type Wanted } from './worker-host';

serve<SolverAsk, SolverGives>(async (ask, wanted) => {
  if (ask.kind === 'solve') return solvePair(ask.pair, wanted);
  const job = await jobOf(ask.pair, { format: ask.format, title: ask.title });
  const ready = prepare(job, memory);
  const transfer = solveReady(ready, memory);
  const bytes = deliver(ready, transfer);
  const report = reportOf(transfer, judgeTransfer(ready, transfer), undefined, cautionsOf(ready, transfer), undefined);
  return { gives: { kind: 'delivered', delivered: { bytes, recipe: job.recipe, report } }, buffers: [bytes.buffer] };
});

async function solvePair(pair: PairRequest, wanted: Wanted): Promise<Outcome<SolverGives>> {
  const job = await jobOf(pair);
  const ready = prepare(job, memory);
  if (!(await wanted())) return undefined;
  const start = performance.now();
  const transfer = solveReady(ready, memory);
  const solvedAt = performance.now();
  plainPass(transfer);
  const time = { solve: solvedAt - start, plainPass: performance.now() - solvedAt };
  if (!(await wanted())) return undefined;
  const plain = solvePlain(ready, memory);
  const verdict = judgeTransfer(ready, transfer);
  if (!(await wanted())) return undefined;
  const report = reportOf(transfer, verdict, judgeTransfer(ready, plain), cautionsOf(ready, transfer), time);
  const { performer, character, scale } = ready.pairing;
  const solved: Solved = {
    pair,
    performer: displayBody(performer, job.take, pair.take.file),
    character: displayBody(character, job.character, pair.character.file),
    take: copyClip(transfer.take),
    solved: copyClip(transfer.clip),
    plain: copyClip(plain.clip),
    contacts: transfer.contacts,
    rests: verdict.rests,
    floor: transfer.floor,
    lift: scale.lift,
    stride: scale.stride,
    curves: footCurves(performer, transfer.take, transfer.contacts.floor),
    report,
  };
  return {
    gives: { kind: 'solved', solved },
    buffers: [...buffersOf(solved.take, solved.solved, solved.plain), ...solved.curves.map((c) => c.heights.buffer as ArrayBuffer)],
  };
}

function footCurves(rig: Rig, clip: Clip, floor: number): FootCurve[] {
  const curves = rig.feet.map(({ side }) => ({ side, heights: new Float32Array(clip.frames) }));
  const reader = new ClipReader(rig.skeleton, clip);
  for (let f = 0; f < clip.frames; f++) {
    const { positions } = reader.at(f);
    rig.feet.forEach(({ foot, ankleHeight }, i) => (curves[i].heights[f] = positions[foot * 3 + 1] - ankleHeight - floor));
  }
  return curves;
}
