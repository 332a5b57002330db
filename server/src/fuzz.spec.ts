import * as fc from 'fast-check';
import { mutate, outcomeOf, seeds, type Seed } from './testing/mutate';

describe('broken files of every format', () => {
  let whole: Seed[];
  beforeAll(async () => (whole = await seeds()));

  it('are whole to begin with, but for the document whose part is not beside it', async () => {
    for (const { name, bytes } of whole) {
      expect(await outcomeOf(bytes, name))
        .withContext(name)
        .toBe(/plain/.test(name) ? 'refused' : 'taken');
    }
  });

  it('are taken with facts that the page can show, or refused with a reason; none breaks what reads them', async () => {
    const counts = { taken: 0, refused: 0 };
    const seed = fc.integer({ min: 0, max: 2 ** 31 });
    await fc.assert(
      fc.asyncProperty(fc.nat({ max: whole.length - 1 }), seed, async (which, start) => {
        let state = start;
        const random = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
        const outcome = await outcomeOf(mutate(whole[which], random), whole[which].name);
        if (typeof outcome === 'object') throw outcome.defect;
        counts[outcome]++;
      }),
      { numRuns: 1500, seed: 11 },
    );
    expect(Math.min(counts.taken, counts.refused)).toBeGreaterThan(50);
  });
});
