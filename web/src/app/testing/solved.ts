import type { SolveChoices } from '@hollow-stride/contract';
import {
  clipOf,
  makePairing,
  measure,
  prepareBody,
  reportOf,
  solve,
  DEFAULT_SKELETON,
  DEFAULT_SOLVE,
  DEFAULT_TAKE,
  type Body,
} from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '../../../../core/src/testing';
import { DEFAULT_CHOICES } from '../project/project.store';
import type { DisplayBody, Solved } from '../solver/messages';

/** A real, small result for tests of what shows results. */
export function makeSolved(choices: SolveChoices = DEFAULT_CHOICES): Solved {
  const shape = randomShape(4, { clavicles: true });
  const performer = prepareBody(makeFile(shape, { name: 'walk.bvh' }, walk(shape, { seed: 4, frames: 150 })));
  const character = prepareBody(makeFile(randomShape(8, { clavicles: true, spread: [0.5, 1.8] }), { axes: 2, name: 'body.bvh' }));
  const pairing = makePairing(performer, character);
  const clip = clipOf(performer);
  const transfer = solve(pairing, clip, DEFAULT_SOLVE);
  const plain = solve(pairing, clip, { ...DEFAULT_SOLVE, plain: true });
  const display = (body: Body): DisplayBody => ({
    skeleton: body.skeleton,
    labelled: new Uint8Array(body.skeleton.names.length).fill(1),
    hips: 0,
    height: 1.8,
    mesh: undefined,
  });
  return {
    pair: {
      take: { file: 't', name: 'walk.bvh', clip: 0, skeleton: DEFAULT_SKELETON, choices: DEFAULT_TAKE },
      character: { file: 'c', name: 'body.bvh', clip: 0, skeleton: DEFAULT_SKELETON },
      choices,
    },
    performer: display(performer),
    character: display(character),
    take: transfer.take,
    solved: transfer.clip,
    plain: plain.clip,
    contacts: transfer.contacts,
    floor: transfer.floor,
    lift: pairing.scale.lift,
    stride: pairing.scale.stride,
    curves: (['left', 'right'] as const).map((side) => ({ side, heights: new Float32Array(150) })),
    report: reportOf(transfer, measure(transfer), measure(plain), { solve: 12, plainPass: 2 }),
  };
}
