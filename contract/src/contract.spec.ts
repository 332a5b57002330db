import * as v from 'valibot';
import { factsOf } from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '@hollow-stride/core/testing/index';
import { changeItemSchema, factsSchema, nameSchema, solveChoicesSchema } from './index';

describe('the contract', () => {
  it('describes what the core says of files, whole or not', () => {
    const shape = randomShape(2);
    const whole = factsOf(makeFile(shape, { metres: 0.01 }, walk(shape, { frames: 40 })));
    const bare = factsOf(makeFile({ joints: shape.joints.slice(0, 3), tips: new Map() }));
    expect(bare.body).toBeUndefined();
    for (const facts of [whole, bare]) {
      const json: unknown = JSON.parse(JSON.stringify(facts));
      expect(v.parse(factsSchema, json)).toEqual(json as never);
    }
  });

  it('holds names and numbers to their limits', () => {
    expect(v.safeParse(nameSchema, '   ').success).toBeFalse();
    expect(v.parse(nameSchema, ' bell ')).toBe('bell');
    expect(v.safeParse(nameSchema, 'x'.repeat(121)).success).toBeFalse();
    expect(v.safeParse(changeItemSchema, {}).success).toBeFalse();
    const choices = { stride: 'legs', lift: 'hips', clavicles: 'keep', head: 'keep', floor: 'take', inPlace: false, fps: null };
    expect(v.safeParse(solveChoicesSchema, choices).success).toBeTrue();
    for (const wrong of [{ stride: 0 }, { fps: 1000 }, { floor: 'sea' }, { lift: Infinity }]) {
      expect(v.safeParse(solveChoicesSchema, { ...choices, ...wrong }).success)
        .withContext(JSON.stringify(wrong))
        .toBeFalse();
    }
  });
});
