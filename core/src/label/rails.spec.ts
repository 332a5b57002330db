import { makeFile, randomShape } from '../testing';
import { labelFile } from '../rig';
import { railsOf, REQUIRED_ROLES, type Role } from '.';

describe('the rails of a skeleton', () => {
  const file = makeFile(randomShape(11, { fingers: 3, clavicles: true, spine: 4, neck: 1 }));
  const { roles } = labelFile(file);
  const rails = new Map(railsOf(file.skeleton, roles).map((rail) => [rail.chain, rail]));

  it('lay every joint at its share of the way along the chain', () => {
    const arm = rails.get('left.arm')!;
    expect(arm.joints.map(({ role }) => role)).toEqual(['left.clavicle', 'left.upperArm', 'left.lowerArm', 'left.hand']);
    expect(arm.joints[0].place).toBe(0);
    expect(arm.joints[3].place).toBeCloseTo(1, 12);
    const t = (i: number): number => Math.hypot(...file.skeleton.restT.subarray(arm.joints[i].joint * 3, arm.joints[i].joint * 3 + 3));
    expect(arm.joints[2].place).toBeCloseTo((t(1) + t(2)) / (t(1) + t(2) + t(3)), 9);
  });

  it('show a joint that was left out of its chain, and say what is missing', () => {
    const less = new Map(roles);
    const skipped = less.get('left.lowerArm')!;
    less.delete('left.lowerArm');
    const arm = railsOf(file.skeleton, less).find(({ chain }) => chain === 'left.arm')!;
    expect(arm.joints.find(({ joint }) => joint === skipped)).toEqual(jasmine.objectContaining({ role: undefined }));
    expect(arm.missing).toEqual(['left.lowerArm']);
  });

  it('name each required role once when nothing is labelled', () => {
    const none = railsOf(file.skeleton, new Map<Role, number>());
    expect(none.flatMap(({ missing }) => missing).sort()).toEqual([...REQUIRED_ROLES].sort());
    expect(none.every(({ joints }) => joints.length === 0)).toBeTrue();
  });
});
