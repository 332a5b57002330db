import { TestBed } from '@angular/core/testing';
import { editPlants, editTouches } from '@hollow-stride/core';
import { makePair } from '../testing/pair';
import { ContactsStore } from './contacts.store';
import type { LaneOf } from './lanes/lanes';

const HEEL: LaneOf = { kind: 'plant', side: 'left', part: 'heel' };
const MEET: LaneOf = { kind: 'touch', side: 'left', on: 'hand' };

describe('what a person says of plants and touches', () => {
  const pair = makePair();
  let store: ContactsStore;
  const frameAt = (seconds: number): number => seconds * 60;
  /** The spans that are held once the edits are laid over what was found. */
  const held = (of: LaneOf): [number, number][] => {
    const found = { plants: [{ side: 'left', part: 'heel', first: 20, last: 60 } as const], floor: 0, hands: { palms: [], tips: [], touches: [] } };
    const edited = editTouches(editPlants(found, pair.take.value.plants, frameAt, 150), pair.take.value.touches, frameAt, 150);
    const list = of.kind === 'plant' ? edited.plants.filter((p) => p.side === of.side && p.part === of.part) : edited.hands!.touches;
    return list.map(({ first, last }) => [first, last]);
  };

  beforeEach(() => {
    pair.take.next({ ...pair.take.value, plants: [], touches: [] });
    pair.steps.length = 0;
    TestBed.configureTestingModule({ providers: pair.providers });
    store = TestBed.inject(ContactsStore);
  });

  it('moves the ends of a span, in and out, each as one step', () => {
    const was = { first: 20, last: 60 };
    for (const span of [
      { first: 30, last: 60 },
      { first: 10, last: 60 },
      { first: 20, last: 80 },
      { first: 25, last: 55 },
      { first: 10, last: 50 },
      { first: 30, last: 70 },
    ]) {
      pair.take.next({ ...pair.take.value, plants: [] });
      store.resize(HEEL, was, span);
      expect(held(HEEL))
        .withContext(JSON.stringify(span))
        .toEqual([[span.first, span.last]]);
    }
    expect(pair.steps.length).toBe(6);
    store.resize(HEEL, was, was);
    expect(pair.steps.length).toBe(6);
  });

  it('names the part of the body that is let go, or laid down', () => {
    store.remove({ kind: 'touch', side: 'left', on: 'body', part: 'head' }, { first: 0, last: 60 });
    expect(pair.take.value.touches).toEqual([{ kind: 'remove', side: 'left', on: 'body', part: 'head', from: 0, to: 1 }]);
    store.add({ kind: 'body', part: 'seat' }, { first: 60, last: 120 });
    store.remove({ kind: 'body', part: 'left.knee' }, { first: 0, last: 60 });
    store.remove({ kind: 'body', part: 'seat' }, { first: 30, last: 150 });
    expect(pair.take.value.rests!.map(({ kind, part }) => `${kind} ${part}`)).toEqual(['remove left.knee', 'remove seat']);
  });

  it('splits, joins, removes and adds', () => {
    store.split(HEEL, 40);
    expect(held(HEEL)).toEqual([
      [20, 39],
      [41, 60],
    ]);
    store.join(HEEL, { first: 20, last: 39 }, { first: 41, last: 60 });
    expect(held(HEEL)).toEqual([[20, 60]]);
    store.remove(HEEL, { first: 20, last: 60 });
    expect(held(HEEL)).toEqual([]);
    store.add(HEEL, { first: 90, last: 99 }, 0.2);
    expect(held(HEEL)).toEqual([[90, 99]]);
    expect(pair.take.value.plants.at(-1)!.height).toBe(0.2);
    store.add(MEET, { first: 5, last: 50 });
    expect(held(MEET)).toEqual([[5, 50]]);
    expect(pair.steps).toEqual([
      'split the left heel',
      'join the left heel',
      'remove the left heel',
      'hold the left heel',
      'hold the hands',
    ]);
  });

  it('keeps no edit that a later one has overruled', () => {
    for (let i = 0; i < 30; i++) store.resize(HEEL, { first: 20, last: 60 }, { first: 20, last: 61 + i });
    expect(pair.take.value.plants.length).toBe(1);
  });
});
