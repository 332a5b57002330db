import type { BodyView, JointsView, MatchView, TakeView } from '../body/messages';
import { bodyViewOf } from '../body/body-view';
import { matchViewOf } from '../body/match-view';
import { jointsViewOf } from '../body/joints-view';
import { takeViewOf } from '../body/take-view';
import {
  DEFAULT_RECIPE,
  DEFAULT_SKELETON,
  DEFAULT_TAKE,
  prepare,
  prepareRig,
  type SkeletonChoices,
  type TakeChoices,
  decisionsOf,
  pairingOf,
} from '@hollow-stride/core';
import type { SolveChoices } from '@hollow-stride/contract';
import { machineFile, makeFile, randomMachine, randomShape, runMachine, stateMachine, walk } from '../../../../core/src/testing';
import type { PairRequest } from '../solver/messages';
import { DEFAULT_CHOICES } from '../project/project.store';

/** Real views of small made-up bodies, for tests of what shows them. */

const BODY = { clavicles: true, spine: 3, neck: 1, fingers: 3 };
const SHAPE = randomShape(4, BODY);
const FILE = makeFile(SHAPE, { name: 'walk.bvh', metres: 0.01 }, walk(SHAPE, { seed: 4, frames: 150 }));
const GROUNDED_SHAPE = randomShape(4, { ...BODY, ground: true });
const GROUNDED = makeFile(GROUNDED_SHAPE, { name: 'walk.bvh', metres: 0.01 }, walk(GROUNDED_SHAPE, { seed: 4, frames: 150 }));
const OTHER = makeFile(randomShape(8, { clavicles: true, spine: 5, neck: 1 }), { axes: 2, name: 'body.bvh' });

/** A body with a ground joint. */
export function makeBodyView(choices: Partial<SkeletonChoices> = {}): BodyView {
  return bodyViewOf(GROUNDED, { file: 't', name: 'walk.bvh', clip: 0, skeleton: { ...DEFAULT_SKELETON, ...choices }, reference: null });
}

export function makeTakeView(choices: Partial<TakeChoices> = {}): TakeView {
  const source = {
    file: 't',
    name: 'walk.bvh',
    clip: 0,
    skeleton: DEFAULT_SKELETON,
    reference: null,
    choices: { ...DEFAULT_TAKE, ...choices },
  };
  return takeViewOf(FILE, prepareRig(FILE), source);
}

export function makeMatchView(choices: Partial<SolveChoices> = {}, frame = 60): MatchView {
  const all = { ...DEFAULT_CHOICES, ...choices };
  const request = {
    take: { file: 't', name: 'walk.bvh', clip: 0, skeleton: DEFAULT_SKELETON, reference: null, choices: DEFAULT_TAKE },
    character: { file: 'c', name: 'body.bvh', clip: 0, skeleton: DEFAULT_SKELETON, reference: null },
    choices: all,
    touchUps: [],
    layers: [],
  };
  const recipe = {
    ...DEFAULT_RECIPE,
    pairing: pairingOf(all),
    touchUps: all.touchUps.map(({ touchUp }) => touchUp),
    layers: all.layers.map(({ layer }) => layer),
    solve: decisionsOf(all),
  };
  return matchViewOf(request, prepare({ take: FILE, clip: 0, character: OTHER, recipe }), frame);
}

const MACHINE = randomMachine(5, 8);
const CRANE = stateMachine(MACHINE, { names: (name) => `crane_${name}` });
const TWIN = stateMachine(MACHINE, { names: (name, j) => `twin:${j === 5 ? 'spool' : name}`, axes: 3, size: 0.5 });

/** Two machines, joint by joint: the twin has another name for one joint. */
export function makeJointsView(pair: PairRequest): JointsView {
  const take = machineFile('crane.bvh', CRANE, runMachine(CRANE, 5, 60));
  const character = machineFile('twin.bvh', TWIN, runMachine(TWIN, 6, 40));
  const recipe = { ...DEFAULT_RECIPE, pairing: pairingOf(pair.choices) };
  return jointsViewOf(pair, prepare({ take, clip: 0, character, recipe }), 0);
}
