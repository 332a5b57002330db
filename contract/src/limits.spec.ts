import * as fc from 'fast-check';
import * as v from 'valibot';
import { DEFAULT_DECISIONS, DEFAULT_PAIRING, DEFAULT_SKELETON, DEFAULT_TAKE } from '@hollow-stride/core';
import {
  changeSkeletonSchema,
  changeTakeSchema,
  depotEventSchema,
  depotFetchSchema,
  depotSearchSchema,
  hashSchema,
  idSchema,
  LIMITS,
  savePairingSchema,
} from './index';

const accepts = (schema: v.GenericSchema, value: unknown): boolean => v.safeParse(schema, value).success;
const ID = '00000000-0000-4000-8000-000000000001';

describe('what may be sent', () => {
  it('is never accepted for being something else altogether', () => {
    const schemas = { changeSkeletonSchema, changeTakeSchema, depotFetchSchema, savePairingSchema, hashSchema, idSchema };
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        for (const [name, schema] of Object.entries(schemas)) expect(accepts(schema, value)).withContext(name).toBeFalse();
      }),
      { numRuns: 200, seed: 12 },
    );
  });

  it('of a take holds tags, notes and handles to their limits', () => {
    expect(accepts(changeTakeSchema, { base: 1, tags: ['walk'], note: 'n', choices: DEFAULT_TAKE })).toBeTrue();
    expect(accepts(changeTakeSchema, { base: 1, tags: Array.from({ length: LIMITS.tags + 1 }, (_, i) => `t${i}`) })).toBeFalse();
    expect(accepts(changeTakeSchema, { base: 1, tags: ['x'.repeat(LIMITS.tag + 1)] })).toBeFalse();
    expect(accepts(changeTakeSchema, { base: 1, note: 'x'.repeat(LIMITS.note + 1) })).toBeFalse();
    expect(accepts(changeTakeSchema, { base: 1, choices: { ...DEFAULT_TAKE, from: 0.9, to: 0.9 } })).toBeFalse();
    expect(accepts(changeTakeSchema, { base: 1, choices: { ...DEFAULT_TAKE, from: -1 } })).toBeFalse();
    expect(accepts(changeTakeSchema, { base: 1 })).toBeFalse();
  });

  it('of a skeleton holds labels, turns and kept poses to what they can be', () => {
    const choices = (change: object): object => ({ base: 1, choices: { ...DEFAULT_SKELETON, ...change } });
    expect(accepts(changeSkeletonSchema, choices({ labels: { 'left.hand': 'Hand_L', 'extra.tail.1': 'Tail' } }))).toBeTrue();
    for (const change of [
      { labels: { 'a<b>': 'x' } },
      { unit: 0 },
      { up: 'Y' },
      { facing: 1e9 },
      { turns: { hips: [1, 2] } },
      { turns: { hips: [0, 0, 999] } },
    ]) {
      expect(accepts(changeSkeletonSchema, choices(change)))
        .withContext(JSON.stringify(change))
        .toBeFalse();
    }
    const rest = { name: 'calm', rotations: { Hips: [0, 0, 0, 1] } };
    expect(accepts(changeSkeletonSchema, { base: 1, rests: [rest] })).toBeTrue();
    expect(accepts(changeSkeletonSchema, { base: 1, rests: Array.from({ length: LIMITS.savedRests + 1 }, () => rest) })).toBeFalse();
    expect(accepts(changeSkeletonSchema, { base: 1, rests: [{ ...rest, rotations: { Hips: [0, 0, 1] } }] })).toBeFalse();
  });

  it('of a pairing is both choices and decisions', () => {
    const whole = { base: null, performer: ID, character: ID, choices: { ...DEFAULT_PAIRING, ...DEFAULT_DECISIONS } };
    expect(accepts(savePairingSchema, whole)).toBeTrue();
    expect(accepts(savePairingSchema, { ...whole, performer: 'x' })).toBeFalse();
    for (const base of [undefined, 0, 1.5, '1']) expect(accepts(savePairingSchema, { ...whole, base })).toBeFalse();
    expect(accepts(savePairingSchema, { ...whole, choices: DEFAULT_PAIRING })).toBeFalse();
    expect(
      accepts(savePairingSchema, { ...whole, choices: { ...whole.choices, links: { hips: { a: 'hips', b: 'hips', t: 2 } } } }),
    ).toBeFalse();
  });

  it('to the depot has sound numbers and known options', () => {
    expect(v.parse(depotSearchSchema, {})).toEqual({ text: '', tag: '', shortest: 0, longest: 3600, page: 0 });
    expect(v.parse(depotSearchSchema, { page: '3', shortest: '1.5' })).toEqual(jasmine.objectContaining({ page: 3, shortest: 1.5 }));
    for (const wrong of [{ page: '-1' }, { page: '1.5' }, { shortest: 'long' }, { text: 'x'.repeat(81) }]) {
      expect(accepts(depotSearchSchema, wrong)).withContext(JSON.stringify(wrong)).toBeFalse();
    }
    const fetch = { id: 'bow', travel: 'in-place', fps: 60, body: 'motion' };
    expect(v.parse(depotFetchSchema, fetch).line).toBe('steady');
    for (const wrong of [{ fps: 61 }, { travel: 'away' }, { body: 'soul' }, { line: 'taut' }]) {
      expect(accepts(depotFetchSchema, { ...fetch, ...wrong }))
        .withContext(JSON.stringify(wrong))
        .toBeFalse();
    }
  });

  it('from the depot is one of the events that are known', () => {
    expect(accepts(depotEventSchema, { kind: 'progress', received: 5, total: 9 })).toBeTrue();
    expect(accepts(depotEventSchema, { kind: 'progress', received: -5, total: 9 })).toBeFalse();
    expect(accepts(depotEventSchema, { kind: 'cheer' })).toBeFalse();
  });
});
