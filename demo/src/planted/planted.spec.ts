import { judge, LIMITS, type Verdict } from '@hollow-stride/core';
import { PLANTED } from './faults';
import { makeScene, type Scene } from './scene';

/** A judge that passes what is broken is worse than none: each fault is planted by hand, and must be told by name and at its place. */
describe('a fault planted in a good transfer', () => {
  const scenes = new Map<string, Promise<Scene>>();
  const sceneOf = (take: string): Promise<Scene> => {
    const made = scenes.get(take) ?? makeScene(take, 'lantern-bearer');
    scenes.set(take, made);
    return made;
  };
  const figureOf = (verdict: Verdict, id: string) => verdict.figures.find((figure) => figure.id === id)!;

  for (const { name, take, figure, plant } of PLANTED) {
    it(`is told: ${name}`, async () => {
      const scene = await sceneOf(take);
      expect(['good', 'unseen']).withContext('untouched').toContain(figureOf(scene.verdict, figure).mark);
      const { given, from, to } = plant(scene);
      const { mark, value, words, frame } = figureOf(judge(given), figure);
      expect(mark).withContext(`${LIMITS[figure].name} ${value}: ${words}`).toBe('fault');
      if (from === undefined || to === undefined || frame === undefined) return;
      expect(frame).withContext('frame').toBeGreaterThanOrEqual(from);
      expect(frame).withContext('frame').toBeLessThanOrEqual(to);
    });
  }

  it('is told of nothing that is untouched', async () => {
    for (const take of new Set(PLANTED.map((one) => one.take))) {
      const { figures } = (await sceneOf(take)).verdict;
      expect(figures.filter(({ mark }) => mark === 'fault').map(({ id, words }) => `${id}: ${words}`))
        .withContext(take)
        .toEqual([]);
    }
  });

  it('is one of every kind that the figures against the performer name', () => {
    const told = new Set(PLANTED.map(({ figure }) => figure as string));
    const relative = Object.keys(LIMITS).filter((id) =>
      /^(likeness\.(trunk|head|hands|feet)|moment|energy\.upper|places|timing|order|crossing|flight)/.test(id),
    );
    expect(relative.filter((id) => !told.has(id))).toEqual([]);
  });
});
