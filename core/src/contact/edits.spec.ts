import * as fc from 'fast-check';
import { besideHolds } from './props';
import { cutContacts } from './cut';
import { editPlants, editRests, editTouches, emptyTouches } from './edits';
import type { Contacts } from './plants';
import type { Plant } from './stands';

const FPS = 50;
const plant = (side: Plant['side'], part: Plant['part'], first: number, last: number): Plant => ({ side, part, first, last });
const CONTACTS: Contacts = {
  plants: [plant('left', 'heel', 0, 40), plant('left', 'ball', 5, 50), plant('right', 'heel', 60, 90), plant('left', 'heel', 100, 140)],
  floor: 0,
};
const at = (seconds: number): number => seconds * FPS;
const edit = (kind: 'add' | 'remove', side: Plant['side'], part: Plant['part'], first: number, last: number) => ({
  kind,
  side,
  part,
  from: first / FPS,
  to: last / FPS,
  height: null,
});
const spans = ({ plants }: Contacts, side: string, part: string): [number, number][] =>
  plants.filter((p) => p.side === side && p.part === part).map(({ first, last }) => [first, last]);

describe('edits of plants', () => {
  describe('that were found', () => {
    const ways = (frames: number): Float64Array => Float64Array.from({ length: frames * 3 }, (_, i) => i);
    const tips = (first: number, last: number): Float64Array => Float64Array.from({ length: last - first + 1 }, (_, i) => first + i);
    const found = (first: number, last: number): Plant => ({
      ...plant('left', 'ball', first, last),
      height: 0.1,
      creep: { before: ways(3), after: ways(4) },
      tips: tips(first, last),
    });
    const contacts: Contacts = { plants: [found(20, 60), found(80, 120)], floor: 0 };
    const creeps = ({ plants }: Contacts): number[][] => plants.map(({ creep }) => [creep!.before.length / 3, creep!.after.length / 3]);

    it('take away all that belongs to a span: creep at its ends, and toe tips that rest in it', () => {
      const cut = editPlants(contacts, [edit('remove', 'left', 'ball', 40, 90)], at, 200);
      expect(spans(cut, 'left', 'ball')).toEqual([
        [20, 39],
        [91, 120],
      ]);
      expect(creeps(cut)).toEqual([
        [3, 0],
        [0, 4],
      ]);
      expect(cut.plants.map((one) => one.tips)).toEqual([tips(20, 39), tips(91, 120)]);
    });

    it('join them to one that begins as the first and ends as the last', () => {
      const joined = editPlants(contacts, [edit('add', 'left', 'ball', 50, 90)], at, 200);
      expect(spans(joined, 'left', 'ball')).toEqual([[20, 120]]);
      expect(creeps(joined)).toEqual([[3, 4]]);
      const [{ height, tips: rests }] = joined.plants;
      expect(height).toBe(0.1);
      expect([...rests!.slice(0, 41)]).toEqual([...tips(20, 60)]);
      expect(rests!.slice(41, 60).every(Number.isNaN)).toBeTrue();
      // What a heel's edit says of the tip would go before what the ball knows.
      const heel = editPlants(CONTACTS, [edit('add', 'left', 'heel', 30, 60)], at, 200).plants.find(({ part }) => part === 'heel')!;
      expect([heel.last, heel.tips]).toEqual([60, undefined]);
      const longer = editPlants(contacts, [edit('add', 'left', 'ball', 10, 30)], at, 200);
      expect(creeps(longer)[0]).toEqual([0, 4]);
    });

    it('and windows keep of them what lies inside, counted from their first frame', () => {
      const inside = cutContacts(contacts, 18, 100);
      expect(spans(inside, 'left', 'ball')).toEqual([
        [2, 42],
        [62, 82],
      ]);
      // Two frames lie before the first plant, and the second is cut off.
      expect(creeps(inside)).toEqual([
        [2, 4],
        [3, 0],
      ]);
      expect([...inside.plants[0].creep!.before]).toEqual([...ways(3).slice(3)]);
      expect(inside.plants.map((one) => one.tips)).toEqual([tips(20, 60), tips(80, 100)]);
    });
  });

  it('take away a whole plant, an end of one, or its middle, and no other', () => {
    expect(spans(editPlants(CONTACTS, [edit('remove', 'left', 'heel', 0, 40)], at, 200), 'left', 'heel')).toEqual([[100, 140]]);
    expect(spans(editPlants(CONTACTS, [edit('remove', 'left', 'heel', 30, 60)], at, 200), 'left', 'heel')).toEqual([
      [0, 29],
      [100, 140],
    ]);
    const cut = editPlants(CONTACTS, [edit('remove', 'left', 'heel', 10, 20)], at, 200);
    expect(spans(cut, 'left', 'heel')).toEqual([
      [0, 9],
      [21, 40],
      [100, 140],
    ]);
    expect(spans(cut, 'left', 'ball')).toEqual([[5, 50]]);
  });

  it('add a plant, and join what it touches', () => {
    expect(spans(editPlants(CONTACTS, [edit('add', 'right', 'ball', 70, 95)], at, 200), 'right', 'ball')).toEqual([[70, 95]]);
    expect(spans(editPlants(CONTACTS, [edit('add', 'left', 'heel', 41, 99)], at, 200), 'left', 'heel')).toEqual([[0, 140]]);
  });

  it('stay within the clip, and fall away where they lie outside it', () => {
    const added = editPlants(CONTACTS, [edit('add', 'right', 'heel', 180, 400), edit('add', 'right', 'ball', 300, 400)], at, 200);
    expect(spans(added, 'right', 'heel')).toEqual([
      [60, 90],
      [180, 199],
    ]);
    expect(spans(added, 'right', 'ball')).toEqual([]);
  });

  it('leave plants in order, apart, and as they were where an edit is taken back by its opposite', () => {
    const one = fc.record({
      kind: fc.constantFrom('add' as const, 'remove' as const),
      side: fc.constantFrom('left' as const, 'right' as const),
      part: fc.constantFrom('heel' as const, 'ball' as const),
      height: fc.constant(null),
      from: fc.double({ min: 0, max: 4, noNaN: true }),
      length: fc.double({ min: 0, max: 2, noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(one, { maxLength: 8 }), (list) => {
        const edits = list.map(({ length, ...rest }) => ({ ...rest, to: rest.from + length }));
        const edited = editPlants(CONTACTS, edits, at, 200);
        for (const side of ['left', 'right'])
          for (const part of ['heel', 'ball']) {
            const mine = spans(edited, side, part);
            mine.forEach(([first, last], i) => {
              expect(first).toBeLessThanOrEqual(last);
              if (i > 0) expect(first).toBeGreaterThan(mine[i - 1][1]);
            });
          }
        // Everything taken away at last leaves nothing, whatever was done before.
        const none = (['left', 'right'] as const).flatMap((side) =>
          (['heel', 'ball'] as const).map((part) => edit('remove', side, part, 0, 200)),
        );
        expect(editPlants(CONTACTS, [...edits, ...none], at, 200).plants).toEqual([]);
      }),
      { numRuns: 60, seed: 5 },
    );
  });

  it('are nothing at all where there are none', () => {
    expect(editPlants(CONTACTS, [], at, 200)).toBe(CONTACTS);
  });
});

describe('edits of touches and of rests of the body', () => {
  const hands = { palms: [], tips: [], touches: [{ side: 'left' as const, on: 'body' as const, part: 'head', first: 10, last: 40 }] };
  const body = { places: new Map(), rests: [{ part: 'seat' as const, first: 50, last: 90 }], low: new Uint8Array(200) };
  const contacts: Contacts = { ...CONTACTS, hands, body };

  it('mean the part that they name, and no other', () => {
    const remove = (part: string) => ({ kind: 'remove' as const, side: 'left' as const, on: 'body' as const, part, from: 0, to: 1 });
    expect(editTouches(contacts, [remove('left.upperLeg')], at, 200).hands!.touches).toEqual(hands.touches);
    expect(editTouches(contacts, [remove('head')], at, 200).hands!.touches).toEqual([]);
    const added = editTouches(contacts, [{ ...remove('right.upperLeg'), kind: 'add' }], at, 200).hands!.touches;
    expect(added).toContain({ side: 'left', on: 'body', part: 'right.upperLeg', first: 0, last: 50 });
  });

  it('of holds mean the thing that they name; one that the take does not have holds nothing, and is said', () => {
    const hold = (part: string, kind: 'add' | 'remove' = 'add') => ({
      kind,
      side: 'left' as const,
      on: 'prop' as const,
      part,
      from: 0.4,
      to: 0.8,
    });
    const track = { role: 'extra.pole.1', places: new Float64Array(600), rests: [] };
    const withPole: Contacts = { ...CONTACTS, hands: { ...hands, props: [track] } };
    const both = editTouches(withPole, [hold('extra.pole.1'), hold('extra.crate.1')], at, 200);
    const held = both.hands!.touches.filter(({ on }) => on === 'prop');
    expect(held.map(({ part, first, last }) => [part, first, last])).toEqual([
      ['extra.pole.1', 20, 40],
      ['extra.crate.1', 20, 40],
    ]);
    expect(emptyTouches(both).map(({ part }) => part)).toContain('extra.crate.1');
    expect(emptyTouches(both).map(({ part }) => part)).not.toContain('extra.pole.1');
    const left = editTouches(both, [hold('extra.crate.1', 'remove')], at, 200).hands!.touches;
    expect(left.filter(({ on }) => on === 'prop').map(({ part }) => part)).toEqual(['extra.pole.1']);
  });

  it('lay a part on the floor where it is near it or not, and let it go', () => {
    const edited = editRests(contacts, [{ kind: 'add', part: 'left.knee', from: 2, to: 3 }], at, 200).body!;
    expect(edited.rests).toContain({ part: 'left.knee', first: 100, last: 150 });
    expect([edited.low[99], edited.low[100], edited.low[150], edited.low[151]]).toEqual([0, 1, 1, 0]);
    expect(editRests(contacts, [{ kind: 'remove', part: 'seat', from: 0, to: 4 }], at, 200).body!.rests).toEqual([]);
    expect(editRests(CONTACTS, [{ kind: 'add', part: 'seat', from: 0, to: 1 }], at, 200)).toBe(CONTACTS);
  });
});

describe('touches beside holds', () => {
  const touch = (side: 'left' | 'right', on: 'rest' | 'hand' | 'body', first: number, last: number) => ({ side, on, first, last });
  const hold = { side: 'right' as const, on: 'prop' as const, part: 'extra.pole.1', first: 100, last: 200 };

  it('give way to them, hand by hand; hands that meet give way to either', () => {
    const left = touch('left', 'rest', 90, 210);
    expect(besideHolds([left], [hold], 1 / 60)).toEqual([left]);
    expect(besideHolds([touch('right', 'rest', 50, 300)], [hold], 1 / 60)).toEqual([
      touch('right', 'rest', 50, 99),
      touch('right', 'rest', 201, 300),
    ]);
    expect(besideHolds([touch('left', 'hand', 110, 190)], [hold], 1 / 60)).toEqual([]);
  });

  it('are nothing where only an end of them is left', () => {
    expect(besideHolds([touch('right', 'rest', 95, 210)], [hold], 1 / 60)).toEqual([]);
    expect(besideHolds([touch('right', 'rest', 0, 99)], [hold], 1 / 60)).toEqual([touch('right', 'rest', 0, 99)]);
  });
});
