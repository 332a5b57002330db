import { clipOf, prepareBody } from '../body';
import { type FaultError } from '../errors';
import { makePairing, type Pairing } from '../match';
import { solve } from '../solve';
import { makeFile, randomShape, walk, type Shape } from '../testing';
import { ClipReader } from '../clip/clip';
import { angleBetween as turnBetween } from '../math/quat';
import { DEG } from '../math/trig';
import {
  applyRecipe,
  DEFAULT_DECISIONS,
  DEFAULT_PAIRING,
  DEFAULT_SKELETON,
  fitPairing,
  parseRecipe,
  RECIPE_FORMAT,
  writeRecipe,
  type PairingSettings,
  type Recipe,
} from '.';

/** A body with a tail of so many joints on the hips. */
function tailed(seed: number, count: number): Shape {
  const shape = randomShape(seed, { clavicles: true, spine: 3, fingers: 2 });
  const joints = [...shape.joints];
  let parent = joints.findIndex(({ role }) => role === 'hips');
  for (let i = 1; i <= count; i++) parent = joints.push({ role: `tail.${i}`, parent, offset: [0, i === 1 ? -0.02 : 0, -0.6 / count] }) - 1;
  return { ...shape, joints };
}

const withTail = (seed: number, count: number, style = {}, motion = false) => {
  const shape = tailed(seed, count);
  const file = makeFile(shape, style, motion ? walk(shape, { seed, frames: 60 }) : undefined);
  const own = prepareBody(file);
  const labels = Object.fromEntries([...own.roles].map(([role, j]) => [role, file.skeleton.names[j]]));
  for (let i = 1; i <= count; i++) labels[`extra.tail.${i}`] = `tail${i}`;
  return { file, body: prepareBody(file, 0, { ...DEFAULT_SKELETON, labels }), labels };
};

const performer = withTail(4, 3, {}, true);
const character = withTail(5, 5, { axes: 2 });
const pair = (change: Partial<PairingSettings> = {}): Pairing =>
  makePairing(performer.body, character.body, { ...DEFAULT_PAIRING, ...change });

describe('links', () => {
  const linkOf = (pairing: Pairing, role: string) => pairing.links.find(({ joint }) => joint === pairing.character.roles.get(role));

  it('drive an extra chain by the one of the same name, by arc length, or by the one chosen by hand, or by none', () => {
    const automatic = pair();
    expect(automatic.extras.map(({ name, partnerName }) => [name, partnerName])).toEqual([['tail', 'tail']]);
    expect(linkOf(automatic, 'extra.tail.5')).toEqual(jasmine.objectContaining({ a: performer.body.roles.get('extra.tail.3'), t: 0 }));
    expect(linkOf(automatic, 'extra.tail.2')?.t).toBeGreaterThan(0);
    const cut = pair({ extras: { tail: null } });
    expect(linkOf(cut, 'extra.tail.2')).toBeUndefined();
    expect(cut.warnings.some(({ message }) => message.includes('"tail" has no partner'))).toBeTrue();
  });

  it('are moved, cut and added by hand, and edited back give the first result', () => {
    const moved = pair({ links: { 'spine.2': { a: 'spine.1', b: 'spine.3', t: 0.25 }, 'left.toes': null } });
    expect(linkOf(moved, 'spine.2')).toEqual(
      jasmine.objectContaining({ a: performer.body.roles.get('spine.1'), b: performer.body.roles.get('spine.3'), t: 0.25 }),
    );
    expect(linkOf(moved, 'left.toes')).toBeUndefined();
    expect(pair({ links: { hips: null } }).links).toEqual(pair().links);
    expect(pair({ links: {} }).links).toEqual(pair().links);
  });

  it('that are cut leave their joint at rest under its parent', () => {
    const transfer = solve(pair({ links: { 'left.lowerArm': null } }), clipOf(performer.body));
    const joint = character.body.roles.get('left.lowerArm')!;
    const joints = character.body.skeleton.names.length;
    for (const f of [0, 30, 59]) {
      expect(turnBetween(transfer.clip.rotations, (f * joints + joint) * 4, character.body.skeleton.restR, joint * 4) / DEG).toBeLessThan(
        0.05,
      );
    }
  });
});

describe('a turn by hand over the rest match', () => {
  it('turns the character by that angle from the performer all through the take, and shows as the residual', () => {
    const pairing = pair({ turns: { 'right.upperArm': [0, 0, 20] } });
    const residual = pairing.match.residuals.find(({ role }) => role === 'right.upperArm')!;
    expect(residual.after).toBeGreaterThan(10);
    expect(residual.reason).toBe('it was turned by hand');
    expect(pairing.match.residuals.find(({ role }) => role === 'right.lowerArm')!.reason).toContain('right.upperArm above it');
    expect(pairing.warnings.some(({ message }) => message.includes('turned by hand'))).toBeTrue();
    const clip = clipOf(performer.body);
    const [a, b] = [pair(), pairing].map((p) => new ClipReader(p.character.skeleton, solve(p, clip).clip));
    const j = character.body.roles.get('right.upperArm')!;
    for (const f of [0, 20, 59]) expect(turnBetween(a.at(f).rotations, j * 4, b.at(f).rotations, j * 4) / DEG).toBeCloseTo(20, 2);
  });
});

describe('a recipe', () => {
  const recipe: Recipe = {
    format: RECIPE_FORMAT,
    version: 1,
    name: 'procession',
    performer: { ...DEFAULT_SKELETON, labels: performer.labels },
    character: { ...DEFAULT_SKELETON, labels: character.labels, turns: { 'left.upperArm': [0, 0, -5] } },
    pairing: { ...DEFAULT_PAIRING, stride: 'marks', turns: { 'left.thumb.1': [3, 4, 5] } },
    solve: { ...DEFAULT_DECISIONS, inPlace: true },
  };

  it('goes out to text and back, and gives the same solve as the settings it was made of', () => {
    const back = parseRecipe(writeRecipe(recipe));
    expect(back).toEqual(recipe);
    const { pairing, settings, notes } = applyRecipe(back, performer.file, 0, character.file);
    expect(notes).toEqual([]);
    expect([settings.inPlace, pairing.scale.stride]).toEqual([true, 1]);
    const direct = makePairing(
      prepareBody(performer.file, 0, recipe.performer),
      prepareBody(character.file, 0, recipe.character),
      recipe.pairing,
    );
    expect(solve(pairing, clipOf(pairing.performer), settings).clip.rotations).toEqual(
      solve(direct, clipOf(direct.performer), settings).clip.rotations,
    );
  });

  it('fits the next character: what it does not have is left out and said', () => {
    const other = makeFile(randomShape(77, { clavicles: true, spine: 2 }));
    const { pairing, notes } = applyRecipe(recipe, performer.file, 0, other);
    const said = notes.map(({ message }) => message).join('\n');
    expect(said).toContain('left.thumb.1');
    expect(pairing.scale.stride).toBe(1);
    const { choices, dropped } = fitPairing(
      { ...DEFAULT_PAIRING, links: { 'spine.3': null, 'spine.1': { a: 'spine.9', b: 'spine.9', t: 0 } }, extras: { tail: null } },
      performer.body,
      prepareBody(other),
    );
    expect([choices.links, choices.extras, dropped.length]).toEqual([{}, {}, 3]);
  });

  it('labels automatically where its labels name joints that are not here', () => {
    const renamed = makeFile(tailed(5, 5), { names: (role) => `x_${role}` });
    const { notes, character: body } = applyRecipe(recipe, performer.file, 0, renamed);
    expect(notes[0].message).toContain('labelled automatically');
    expect(body.roles.has('left.hand')).toBeTrue();
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
    expect(message({ ...recipe, version: 2 })).toContain('version 2; up to 1 is read');
    expect(message({ ...recipe, format: 'x' })).toContain('format: must be');
    expect(message({ ...recipe, pairing: { ...recipe.pairing, stride: -1 } })).toContain('pairing.stride');
    expect(message({ ...recipe, pairing: { ...recipe.pairing, turns: { 'left.hand': [1, 2] } } })).toContain('pairing.turns.left.hand');
    expect(parseRecipe(JSON.stringify({ format: RECIPE_FORMAT, version: 1, name: 'short' })).pairing).toEqual(DEFAULT_PAIRING);
  });
});
