import { clipOf, prepareRig } from '../rig';
import { makePairing, type Pairing } from '.';
import { solve } from '../solve';
import { makeFile, randomShape, walk, type Shape } from '../testing';
import { ClipReader } from '../clip';
import { angleBetween as turnBetween } from '../math/quat';
import { DEG } from '../math/trig';
import { DEFAULT_PAIRING, DEFAULT_SKELETON, type PairingSettings } from '../recipe';

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
  const own = prepareRig(file);
  const labels = Object.fromEntries([...own.roles].map(([role, j]) => [role, file.skeleton.names[j]]));
  for (let i = 1; i <= count; i++) labels[`extra.tail.${i}`] = `tail${i}`;
  return { file, body: prepareRig(file, 0, { ...DEFAULT_SKELETON, labels }), labels };
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
    const transfer = solve(pair({ links: { 'left.lowerArm': null } }), clipOf(performer.file, performer.body));
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
    const clip = clipOf(performer.file, performer.body);
    const [a, b] = [pair(), pairing].map((p) => new ClipReader(p.character.skeleton, solve(p, clip).clip));
    const j = character.body.roles.get('right.upperArm')!;
    for (const f of [0, 20, 59]) expect(turnBetween(a.at(f).rotations, j * 4, b.at(f).rotations, j * 4) / DEG).toBeCloseTo(20, 2);
  });
});
