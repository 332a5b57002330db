import { createHash } from 'node:crypto';
import {
  aboutLane,
  decisionsOf,
  DEFAULT_RECIPE,
  measuredOn,
  pairingOf,
  takesOfClip,
  type DeliveryChoices,
  type Layer,
  type MotionFile,
  type Recipe,
  type ReelContent,
  type SkeletonChoices,
  type TakeChoices,
  type TouchUp,
} from '@hollow-stride/core';
import type { RunOutput, SolveChoices } from '@hollow-stride/contract';
import type { LaneItem, RunDecisions } from '../db/schema';
import type { Claim } from './queue';

/** A body to be made ready, by content. */
export interface BodySpec {
  readonly file: string;
  readonly name: string;
  readonly clip: number;
  readonly choices: SkeletonChoices;
  /** The file that the skeleton is measured on; null measures this one. */
  readonly reference: { readonly file: string; readonly name: string; readonly clip: number } | null;
}

/** All that the file of one item depends on. */
export interface ItemSpec {
  readonly title: string;
  /** With the face recording that it plays. */
  readonly take: BodySpec & { readonly own: TakeChoices; readonly face: { readonly file: string; readonly name: string } | null };
  readonly character: BodySpec;
  readonly choices: SolveChoices;
  readonly touchUps: readonly TouchUp[];
  readonly layers: readonly Layer[];
  readonly output: RunOutput;
}

/** All that the file of a lane depends on. */
export interface LaneSpec {
  /** The lane's name. */
  readonly title: string;
  /** The reel, as far as the lane depends on it. */
  readonly reel: ReelContent;
  readonly lane: number;
  /** What its clips play: `take character`, by their ids. */
  readonly transfers: Readonly<Record<string, ItemSpec>>;
  readonly output: RunOutput;
}

/** What a run's item is made from. */
export type WorkSpec = ItemSpec | LaneSpec;

export const isLane = (spec: WorkSpec): spec is LaneSpec => 'transfers' in spec;

/** The transfers that an item solves: one, or those of its lane. */
export const transfersOf = (spec: WorkSpec): readonly ItemSpec[] => (isLane(spec) ? Object.values(spec.transfers) : [spec]);

/** What a fault of an item is said of: the file of its take, or its lane. */
export const nameOf = (spec: WorkSpec): string => (isLane(spec) ? spec.title : spec.take.name);

/** The bodies that an item reads, each with what it is there for. */
export function bodiesOf(spec: WorkSpec): { readonly role: BodyRole; readonly body: Pick<BodySpec, 'file' | 'name'> }[] {
  return transfersOf(spec).flatMap(({ take, character }) =>
    (
      [
        ['take', take],
        ['character', character],
        ['take reference', take.reference],
        ['character reference', character.reference],
      ] as const
    ).flatMap(([role, body]) => (body ? [{ role, body }] : [])),
  );
}
export type BodyRole = 'take' | 'character' | 'take reference' | 'character reference';

/** A run's item, as far as its inputs are concerned. */
export type ItemKey = Pick<Claim, 'take' | 'character'> & { readonly lane: Pick<LaneItem, 'reel' | 'index'> | null };

/** Everything an item depends on, by the decisions made when the run was started. */
export function workOf(decisions: RunDecisions, output: RunOutput, { take, character, lane }: ItemKey): WorkSpec {
  return lane ? laneOf(decisions, output, lane) : specOf(decisions, output, take, character);
}

function laneOf(decisions: RunDecisions, output: RunOutput, { reel, index }: Pick<LaneItem, 'reel' | 'index'>): LaneSpec {
  const { reel: content, lane } = aboutLane(decisions.reels![reel].content, index);
  // The reel's own rate is that of the lane: results are played at it, whatever theirs is.
  const own = { ...output, fps: null };
  const transfers = content.lanes.flatMap(({ character, clips }) =>
    clips.flatMap(takesOfClip).map((take) => [`${take} ${character}`, specOf(decisions, own, take, character)] as const),
  );
  return {
    title: content.lanes[lane].name,
    reel: { ...content, fps: output.fps ?? content.fps },
    lane,
    transfers: Object.fromEntries(transfers),
    output,
  };
}

/** Counted up when the same decisions give another file or other figures than before. */
const MAKING = 2;

/** Everything one take on one character depends on, by the decisions made when the run was started. */
export function specOf(decisions: RunDecisions, output: RunOutput, takeId: string, characterId: string): ItemSpec {
  const take = decisions.takes[takeId];
  const character = decisions.characters[characterId];
  const choices = decisions.pairings[`${take.skeleton} ${characterId}`];
  const body = ({ file, fileName, skeleton }: { file: string; fileName: string; skeleton: string }, clip: number): BodySpec => {
    const { choices: own, reference } = decisions.skeletons[skeleton];
    const isOwn = reference?.file === file && reference.clip === clip;
    return { file, name: fileName, clip, choices: own, reference: own.reference || isOwn ? null : reference };
  };
  return {
    title: take.name,
    take: { ...body(take, take.clip), own: take.choices, face: take.face ?? null },
    character: body(character, 0),
    choices,
    touchUps: choices.touchUps.filter((one) => one.take === null || one.take === takeId).map(({ touchUp }) => touchUp),
    layers: choices.layers.filter((one) => one.take === null || one.take === takeId).map(({ layer }) => layer),
    output,
  };
}

/** The same inputs give the same content: its key. Names of files and of the production change nothing in it. */
export function inputOf(spec: WorkSpec): string {
  if (!isLane(spec)) return hashOf(partsOf(spec));
  const { transfers, reel, lane, output, title } = spec;
  return hashOf([title, reel, lane, Object.entries(transfers).map(([key, one]) => [key, partsOf(one)]), writtenOf(output)]);
}

const hashOf = (parts: readonly unknown[]): string =>
  createHash('sha256')
    .update(stable([MAKING, ...parts]))
    .digest('hex');

function writtenOf({ pattern: _, ...written }: RunOutput): Omit<RunOutput, 'pattern'> {
  return written;
}

function partsOf({ take, character, choices, touchUps, layers, output, title }: ItemSpec): readonly unknown[] {
  const body = ({ file, clip, choices: own, reference }: BodySpec) => [file, clip, own, reference && [reference.file, reference.clip]];
  const { touchUps: __, layers: ___, ...settings } = choices;
  return [title, body(take), take.own, take.face?.file ?? null, body(character), settings, touchUps, layers, writtenOf(output)];
}

/** JSON whose keys stand in one order: a database keeps them in one of its own. */
function stable(value: unknown): string {
  return JSON.stringify(value, (_, part: unknown) =>
    typeof part === 'object' && part !== null && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1)))
      : part,
  );
}

/** How a file is written, without what is decided for the run as a whole. */
export function deliveryOf({ fps: _, inPlace: __, pattern: ___, together: ____, ...delivery }: RunOutput): DeliveryChoices {
  return delivery;
}

/** The recipe of a transfer: what it is solved and written by, and what is handed over with it. */
export function recipeOf(spec: ItemSpec, fileOf: (body: { readonly file: string; readonly name: string }) => MotionFile): Recipe {
  const measured = ({ choices, reference }: BodySpec): SkeletonChoices =>
    reference ? measuredOn(choices, fileOf(reference), reference.clip) : choices;
  const { output, choices } = spec;
  const { fps, inPlace } = output;
  const delivery = deliveryOf(output);
  return {
    ...DEFAULT_RECIPE,
    name: spec.title,
    performer: measured(spec.take),
    character: measured(spec.character),
    take: spec.take.own,
    pairing: pairingOf(choices),
    touchUps: [...spec.touchUps],
    layers: [...spec.layers],
    solve: { ...decisionsOf(choices), ...(fps !== null && { fps }), ...(inPlace !== null && { inPlace }) },
    // By the name that the take has on the rack, as a single download names it.
    delivery: { ...delivery, title: delivery.title ?? spec.title },
  };
}
