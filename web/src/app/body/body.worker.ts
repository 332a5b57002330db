/// <reference lib="webworker" />
import { fitPairing, keepPose, keepRest, press, type Press, type SavedRest } from '@hollow-stride/core';
import { choicesOf, fileOf, readyOf, recipeOf, rigOf } from '../solver/jobs';
import { buffersOf } from '../solver/clips';
import type { PairRequest, TakeSource } from '../solver/messages';
import { serve, type Outcome, type Wanted } from '../solver/worker-host';
import { bodyViewOf } from './body-view';
import { jointsViewOf } from './joints-view';
import { matchViewOf } from './match-view';
import type { BodyAsk, BodyGives } from './messages';
import { takeViewOf } from './take-view';

serve<BodyAsk, BodyGives>(async (ask, wanted) => {
  switch (ask.kind) {
    case 'body':
      return { gives: { kind: 'body', view: bodyViewOf(await fileOf(ask.source), ask.source, await choicesOf(ask.source)) } };
    case 'take': {
      const view = takeViewOf(await fileOf(ask.source), await rigOf(ask.source), ask.source);
      return { gives: { kind: 'take', view }, buffers: buffersOf(view.before, view.after) };
    }
    case 'match':
      return match(ask.pair, ask.frame, wanted);
    case 'joints': {
      const ready = await readyOf(ask.pair);
      return (await wanted()) ? { gives: { kind: 'joints', view: jointsViewOf(ask.pair, ready, ask.frame) } } : undefined;
    }
    case 'press':
      return { gives: { kind: 'press', turns: press(await rigOf(ask.source), ask.press as Press) } };
    case 'keep':
      return { gives: { kind: 'keep', rest: await keep(ask.source, ask.frame, ask.name) } };
    case 'recipe':
      return { gives: { kind: 'recipe', recipe: await recipeOf(ask.pair, ask.name) } };
    case 'fit': {
      const [performer, character] = await Promise.all([rigOf(ask.pair.take), rigOf(ask.pair.character)]);
      return { gives: { kind: 'fit', ...fitPairing(ask.pair.choices, performer, character) } };
    }
  }
});

async function match(request: PairRequest, frame: number, wanted: Wanted): Promise<Outcome<BodyGives>> {
  const ready = await readyOf(request);
  return (await wanted()) ? { gives: { kind: 'match', view: matchViewOf(request, ready, frame) } } : undefined;
}

/** A rest pose by name: the one in force with its turns, or a frame of the take. */
async function keep(source: TakeSource, frame: number | undefined, name: string): Promise<SavedRest> {
  if (frame === undefined) return keepRest(await rigOf(source), name);
  const { skeleton, clips } = await fileOf(source);
  return keepPose(skeleton, name, clips[source.clip].rotations, frame * skeleton.names.length * 4);
}
