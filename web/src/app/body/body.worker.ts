/// <reference lib="webworker" />
import { contactsOf, fitPairing, keepPose, keepRest, press, type Contacts, type Press, type SavedRest } from '@hollow-stride/core';
import { bodyOf, fileOf, pairOf } from '../solver/bodies';
import { buffersOf } from '../solver/clips';
import type { PairRequest, TakeSource } from '../solver/messages';
import { serve, type Outcome, type Wanted } from '../solver/worker-host';
import { bodyViewOf } from './body-view';
import { matchViewOf } from './match-view';
import type { BodyAsk, BodyGives } from './messages';
import { takeViewOf } from './take-view';

serve<BodyAsk, BodyGives>(async (ask, wanted) => {
  switch (ask.kind) {
    case 'body':
      return { gives: { kind: 'body', view: bodyViewOf(await fileOf(ask.source), ask.source) } };
    case 'take': {
      const view = takeViewOf(await bodyOf(ask.source), ask.source);
      return { gives: { kind: 'take', view }, buffers: buffersOf(view.before, view.after) };
    }
    case 'match':
      return match(ask.pair, ask.frame, wanted);
    case 'press':
      return { gives: { kind: 'press', turns: press(await bodyOf(ask.source), ask.press as Press) } };
    case 'keep':
      return { gives: { kind: 'keep', rest: await keep(ask.source, ask.frame, ask.name) } };
    case 'fit': {
      const [performer, character] = await Promise.all([bodyOf(ask.pair.take), bodyOf(ask.pair.character)]);
      return { gives: { kind: 'fit', ...fitPairing(ask.pair.choices, performer, character) } };
    }
  }
});

/** The performer's contacts do not change while a dial turns: found once for a take. */
const contacts = new Map<string, Contacts>();

async function match(request: PairRequest, frame: number, wanted: Wanted): Promise<Outcome<BodyGives>> {
  const pair = await pairOf(request);
  if (!(await wanted())) return undefined;
  const key = JSON.stringify(request.take);
  let found = contacts.get(key);
  if (!found) {
    if (contacts.size > 4) contacts.clear();
    contacts.set(key, (found = contactsOf(pair.pairing, pair.clip)));
  }
  return { gives: { kind: 'match', view: matchViewOf(request, pair, found, frame) } };
}

/** A rest pose by name: the one in force with its turns, or a frame of the take. */
async function keep(source: TakeSource, frame: number | undefined, name: string): Promise<SavedRest> {
  if (frame === undefined) return keepRest(await bodyOf(source), name);
  const { skeleton, clips } = await fileOf(source);
  return keepPose(skeleton, name, clips[source.clip].rotations, frame * skeleton.names.length * 4);
}
