import { floorPlan } from '../solver/floor-plan';
import type { SolveChoices } from '@hollow-stride/contract';
import {
  lookedAtTransfer,
  DEFAULT_RECIPE,
  DEFAULT_SKELETON,
  DEFAULT_TAKE,
  reportOf,
  runJob,
  solvePlain,
  type Rig,
} from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '../../../../core/src/testing';
import { DEFAULT_CHOICES } from '../project/project.store';
import type { DisplayBody, Solved } from '../solver/messages';

/** A real, small result for tests of what shows results. */
export function makeSolved(choices: SolveChoices = DEFAULT_CHOICES): Solved {
  const shape = randomShape(4, { clavicles: true });
  const { ready, transfer, report } = runJob({
    take: makeFile(shape, { name: 'walk.bvh' }, walk(shape, { seed: 4, frames: 150 })),
    clip: 0,
    character: makeFile(randomShape(8, { clavicles: true, spread: [0.5, 1.8] }), { axes: 2, name: 'body.bvh' }),
    recipe: DEFAULT_RECIPE,
  });
  const { performer, character, pairing } = ready;
  const display = (body: Rig): DisplayBody => ({
    skeleton: body.skeleton,
    labelled: new Uint8Array(body.skeleton.names.length).fill(1),
    hips: 0,
    ends: [{ joint: 0, side: undefined }],
    height: 1.8,
    mesh: undefined,
  });
  return {
    pair: {
      take: { file: 't', name: 'walk.bvh', clip: 0, skeleton: DEFAULT_SKELETON, reference: null, choices: DEFAULT_TAKE },
      character: { file: 'c', name: 'body.bvh', clip: 0, skeleton: DEFAULT_SKELETON, reference: null },
      choices,
      touchUps: [],
      layers: [],
    },
    roles: character.roles,
    axes: character,
    performer: display(performer),
    character: display(character),
    take: transfer.take,
    solved: transfer.clip,
    below: undefined,
    figuresBelow: undefined,
    plain: solvePlain(ready).clip,
    rests: report.verdict.rests,
    contacts: transfer.contacts,
    touches: transfer.contacts.hands?.touches ?? [],
    props: [],
    lying: transfer.contacts.body?.rests ?? [],
    time: { start: 0, pace: 1 },
    floorHeight: transfer.floor,
    floor: {
      mine: floorPlan(pairing.character, transfer.clip, transfer.contacts.plants),
      theirs: floorPlan(performer, transfer.take, transfer.contacts.plants, pairing.scale.stride),
    },
    lift: pairing.scale.lift,
    stride: pairing.scale.stride,
    curves: (['left', 'right'] as const).map((side) => ({ side, heights: new Float32Array(150), speeds: new Float32Array(150) })),
    series: lookedAtTransfer(ready, transfer, report.verdict.figures).series,
    report: reportOf(
      transfer,
      report.verdict,
      report.plain,
      report.cautions.filter(({ code }) => !code.startsWith('judge/')),
      {
        solve: 12,
        plainPass: 2,
      },
    ),
  };
}
