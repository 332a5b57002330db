/// <reference lib="webworker" />
import { ClipReader, measure, plainPass, reportOf, solve, writeMotion, type Body, type Clip } from '@hollow-stride/core';
import { pairOf } from './bodies';
import { buffersOf, copyClip } from './clips';
import { displayBody } from './display';
import type { FootCurve, PairRequest, Solved, SolverAsk, SolverGives } from './messages';
import { serve, type Outcome, type Wanted } from './worker-host';

serve<SolverAsk, SolverGives>(async (ask, wanted) => {
  if (ask.kind === 'solve') return solvePair(ask.pair, wanted);
  const { pairing, clip, settings } = await pairOf(ask.pair);
  const transfer = solve(pairing, clip, settings);
  const { character } = pairing;
  const bytes = await writeMotion(character.file, character.basis, { ...transfer.clip, name: ask.title }, ask.format);
  return { gives: { kind: 'delivered', bytes }, buffers: [bytes.buffer] };
});

async function solvePair(pair: PairRequest, wanted: Wanted): Promise<Outcome<SolverGives>> {
  const { pairing, clip, settings } = await pairOf(pair);
  if (!(await wanted())) return undefined;
  const start = performance.now();
  const transfer = solve(pairing, clip, settings);
  const solvedAt = performance.now();
  plainPass(transfer);
  const time = { solve: solvedAt - start, plainPass: performance.now() - solvedAt };
  if (!(await wanted())) return undefined;
  const plain = solve(pairing, clip, { ...settings, plain: true });
  const figures = measure(transfer);
  if (!(await wanted())) return undefined;
  const plainFigures = measure(plain);
  const { performer, character, scale } = pairing;
  const solved: Solved = {
    pair,
    performer: displayBody(performer, pair.take.file),
    character: displayBody(character, pair.character.file),
    take: copyClip(transfer.take),
    solved: copyClip(transfer.clip),
    plain: copyClip(plain.clip),
    contacts: transfer.contacts,
    floor: transfer.floor,
    lift: scale.lift,
    stride: scale.stride,
    curves: footCurves(performer, transfer.take, transfer.contacts.floor),
    report: reportOf(transfer, figures, plainFigures, time),
  };
  return {
    gives: { kind: 'solved', solved },
    buffers: [...buffersOf(solved.take, solved.solved, solved.plain), ...solved.curves.map((c) => c.heights.buffer as ArrayBuffer)],
  };
}

function footCurves(body: Body, clip: Clip, floor: number): FootCurve[] {
  const curves = body.feet.map(({ side }) => ({ side, heights: new Float32Array(clip.frames) }));
  const reader = new ClipReader(body.skeleton, clip);
  for (let f = 0; f < clip.frames; f++) {
    const { positions } = reader.at(f);
    body.feet.forEach(({ foot, ankleHeight }, i) => (curves[i].heights[f] = positions[foot * 3 + 1] - ankleHeight - floor));
  }
  return curves;
}
