import { createHash } from 'node:crypto';
import {
  decisionsOf,
  DEFAULT_RECIPE,
  measuredOn,
  pairingOf,
  type Layer,
  type MotionFile,
  type Recipe,
  type SkeletonChoices,
  type TakeChoices,
  type TouchUp,
} from '@hollow-stride/core';
import type { RunOutput, SolveChoices } from '@hollow-stride/contract';
import type { RunDecisions } from '../db/schema';

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
export function inputOf({ take, character, choices, touchUps, layers, output, title }: ItemSpec): string {
  const body = ({ file, clip, choices: own, reference }: BodySpec) => [file, clip, own, reference && [reference.file, reference.clip]];
  const { pattern: _, ...written } = output;
  const { touchUps: __, layers: ___, ...settings } = choices;
  const whole = [MAKING, title, body(take), take.own, take.face?.file ?? null, body(character), settings, touchUps, layers, written];
  return createHash('sha256').update(stable(whole)).digest('hex');
}

/** JSON whose keys stand in one order: a database keeps them in one of its own. */
function stable(value: unknown): string {
  return JSON.stringify(value, (_, part: unknown) =>
    typeof part === 'object' && part !== null && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1)))
      : part,
  );
}

/** The recipe of an item: what it is solved and written by, and what is handed over with it. */
export function recipeOf(spec: ItemSpec, fileOf: (body: { readonly file: string; readonly name: string }) => MotionFile): Recipe {
  const measured = ({ choices, reference }: BodySpec): SkeletonChoices =>
    reference ? measuredOn(choices, fileOf(reference), reference.clip) : choices;
  const { output, choices } = spec;
  const { fps, inPlace, pattern: _, together: __, ...delivery } = output;
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
