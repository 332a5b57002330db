import { readFileSync } from 'node:fs';
import { DEFAULT_RECIPE, parseRecipe, parseReel } from '@hollow-stride/core';

describe('the examples of docs/formats.md', () => {
  const text = readFileSync(new URL('../../docs/formats.md', import.meta.url), 'utf8');
  const examples = [...text.matchAll(/```json\n([\s\S]*?)```/g)].map(([, json]) => json);
  const recipe = (part: string) => parseRecipe(JSON.stringify({ ...DEFAULT_RECIPE, ...(JSON.parse(`{${part}}`) as object) }));

  it('are read as they stand', () => {
    expect(examples.length).toBe(3);
    const [layers, joints, reel] = examples;
    expect(recipe(layers).layers.map(({ name }) => name)).toEqual(['wave', 'nod', 'calm']);
    expect(recipe(joints).pairing.byJoint?.own['mast'].turnsTimes).toBe(0.5);
    const read = parseReel(reel);
    expect([read.lanes.length, read.lanes[1].clips[0].mix?.cycles.length, read.touches.length]).toEqual([2, 2, 1]);
  });
});
