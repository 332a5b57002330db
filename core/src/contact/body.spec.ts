import type { Clip } from '../clip';
import type { Rig } from '../rig';
import { bodyIn, type watchBody } from './body';

/** Frames a second, and the frames of the sideways roll. */
const FPS = 100;
const [FROM, TO] = [100, 110];

describe('a seat on the floor', () => {
  /** A seat that sits for a second, goes 12 cm aside in a tenth of one, so many metres higher, and sits again. */
  const restsWith = (rise: number): readonly (readonly [number, number])[] => {
    const frames = 210;
    const seat = new Float64Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      const t = Math.max(0, Math.min(1, (f - FROM) / (TO - FROM)));
      seat[f * 3] = 0.12 * t;
      seat[f * 3 + 1] = 0.07 + rise * Math.sin(Math.PI * t);
    }
    const watched = { places: new Map([['seat', seat]]) } as unknown as ReturnType<typeof watchBody>;
    const body = bodyIn(watched, { legLength: 0.9 } as Rig, { frames, frameTime: 1 / FPS } as Clip, 0);
    return body!.rests.map(({ first, last }) => [first, last] as const);
  };

  it('that rolls over stays down: it is one rest, and two where it gets up between', () => {
    const [whole, ...others] = restsWith(0);
    expect(others).toEqual([]);
    expect(whole).toEqual([0, 209]);
    const two = restsWith(0.05);
    expect(two).toHaveSize(2);
    expect(two[0][1]).toBeLessThan(TO);
    expect(two[1][0]).toBeGreaterThan(FROM);
  });
});
