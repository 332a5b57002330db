import { pivotsOf } from './pivot';
import type { Anchor } from './stances';

const FRAMES = 40;

/** @param before frames in which it comes to its place, `after` in which it leaves */
function anchor(part: Anchor['part'], first: number, last: number, before = 0, after = 0): Anchor {
  const point = Float64Array.of(0, 0, part === 'ball' ? 0.2 : 0);
  const rest = { group: 0, raised: false, over: 0, up: 0, x: 0, y: 0, z: 0 };
  return { part, first, last, before: new Float64Array(before * 3), after: new Float64Array(after * 3), point, ...rest };
}

describe('what holds a foot', () => {
  it('is the heel as long as it is down alone, the ball as long as that is, and both alike while both are', () => {
    const { heel, ball, share, held } = pivotsOf([anchor('heel', 5, 20), anchor('ball', 12, 30)], FRAMES);
    expect([share[8], share[15], share[25]]).toEqual([0, 0.5, 1]);
    expect([heel[8], ball[8], heel[25], ball[25]]).toEqual([0, -1, -1, 1]);
    expect([held[4], held[5], held[30], held[31]]).toEqual([0, 1, 1, 0]);
  });

  it('is what is still, where the other only comes or leaves', () => {
    const { share, held } = pivotsOf([anchor('heel', 5, 20, 0, 6), anchor('ball', 12, 30)], FRAMES);
    for (let f = 21; f <= 30; f++) expect(share[f]).withContext(`${f}`).toBe(1);
    const comes = pivotsOf([anchor('heel', 10, 30), anchor('ball', 20, 30, 8, 0)], FRAMES);
    for (let f = 10; f < 20; f++) expect(comes.share[f]).withContext(`${f}`).toBe(0);
    expect([held[21], held[30]]).toEqual([1, 1]);
  });

  it('stays with what had the lead where both leave, and goes over without a step where the other has it behind', () => {
    const stays = pivotsOf([anchor('heel', 5, 20, 0, 4), anchor('ball', 12, 22, 0, 12)], FRAMES);
    for (let f = 21; f <= 34; f++) expect(stays.share[f]).withContext(`${f}`).toBe(1);
    const passes = pivotsOf([anchor('heel', 5, 20, 0, 14), anchor('ball', 12, 22, 0, 8)], FRAMES);
    expect([passes.share[22], passes.share[31]]).toEqual([1, 0]);
    for (let f = 23; f <= 31; f++) {
      expect(passes.share[f])
        .withContext(`${f}`)
        .toBeLessThanOrEqual(passes.share[f - 1]);
      expect(passes.share[f - 1] - passes.share[f])
        .withContext(`${f}`)
        .toBeLessThan(0.25);
    }
  });

  it('is nothing where no part has an anchor', () => {
    const { held, heel, ball } = pivotsOf([], FRAMES);
    expect(held).toEqual(new Uint8Array(FRAMES));
    expect([...new Set([...heel, ...ball])]).toEqual([-1]);
  });
});
