import { type FaultError } from '../errors';
import {
  DEFAULT_DECISIONS,
  DEFAULT_DELIVERY,
  DEFAULT_PAIRING,
  DEFAULT_SKELETON,
  DEFAULT_TAKE,
  makeLayer,
  parseRecipe,
  RECIPE_FORMAT,
  RECIPE_VERSION,
  writeRecipe,
  type Recipe,
} from '.';

describe('a recipe', () => {
  const recipe: Recipe = {
    format: RECIPE_FORMAT,
    version: RECIPE_VERSION,
    name: 'procession',
    performer: { ...DEFAULT_SKELETON, labels: { hips: 'Hips' } },
    character: { ...DEFAULT_SKELETON, labels: { hips: 'Hips', 'extra.tail.1': 'tail1' }, turns: { 'left.upperArm': [0, 0, -5] } },
    pairing: { ...DEFAULT_PAIRING, stride: 'marks', turns: { 'left.thumb.1': [3, 4, 5] } },
    take: {
      ...DEFAULT_TAKE,
      from: 0.1,
      plants: [{ kind: 'remove', side: 'left', part: 'heel', from: 0.2, to: 0.4, height: null }],
      touches: [{ kind: 'add', on: 'hand', side: 'left', from: 1, to: 1.5 }],
    },
    solve: { ...DEFAULT_DECISIONS, inPlace: true },
    delivery: { ...DEFAULT_DELIVERY, title: 'procession', tolerance: 1, up: '+Z' },
    touchUps: [],
    layers: [makeLayer({ name: 'calm', does: { kind: 'calm', parts: ['head'] }, mask: { from: 1, to: 2, fade: 0.1 } })],
  };

  it('goes out to text and back', () => {
    expect(parseRecipe(writeRecipe(recipe))).toEqual(recipe);
  });

  it('is refused with the part that is wrong', () => {
    const message = (value: unknown): string => {
      try {
        parseRecipe(typeof value === 'string' ? value : JSON.stringify(value), 'r.json');
        return 'none';
      } catch (error) {
        return (error as FaultError).message;
      }
    };
    expect(message('no')).toContain('not valid JSON');
    expect(message({ ...recipe, version: 4 })).toContain('version 4; up to 1 is read');
    expect(message({ ...recipe, format: 'x' })).toContain('format: must be');
    expect(message({ ...recipe, pairing: { ...recipe.pairing, stride: -1 } })).toContain('pairing.stride');
    expect(message({ ...recipe, pairing: { ...recipe.pairing, turns: { 'left.hand': [1, 2] } } })).toContain('pairing.turns.left.hand');
    expect(parseRecipe(JSON.stringify({ format: RECIPE_FORMAT, version: 1, name: 'short' })).pairing).toEqual(DEFAULT_PAIRING);
  });
});
