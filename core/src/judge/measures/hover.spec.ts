import { performerOf, randomShape, walk } from '../../testing';
import type { Case } from '../case';
import type { Standing } from '../look/holding';
import { makeSkin, type Skin } from '../look/skin';
import { hoverOf } from './hover';

describe('a body over the floor', () => {
  const shape = randomShape(3, { spine: 2, clavicles: true });
  const { rig, clip } = performerOf(shape, walk(shape, { seed: 3, frames: 60, fps: 30 }));
  const given = { performer: rig, character: rig, take: clip, result: clip } as unknown as Case;
  const skin = makeSkin(rig, undefined);
  const away = (name: string, role: string, kind: 'body' | 'hands', seen: Skin, ground: number): number => {
    const joint = rig.roles.get(role)!;
    const rest = { point: 0, kind, first: 10, last: 40, mine: [0, 0, 0], theirs: [0, 0, 0] } as Standing;
    return hoverOf(given, seen, [{ name, joint } as never], [rest], () => 0, ground).away;
  };

  it('is told of a mesh as it is, and of a skeleton without one only beyond what a thicker body has under it', () => {
    const deep = -1;
    const [lean, mesh] = [skin, { ...skin, known: 'mesh' as const }].map((seen) => away('seat', 'hips', 'body', seen, deep));
    expect(mesh - lean).toBeCloseTo(0.05 * rig.legLength, 9);
    // The floor comes up to it: there is nothing left to tell of the one without a mesh.
    expect(away('seat', 'hips', 'body', skin, deep + mesh - 0.04 * rig.legLength)).toBe(0);
    expect(away('seat', 'hips', 'body', { ...skin, known: 'mesh' }, deep + mesh - 0.04 * rig.legLength)).toBeCloseTo(
      0.04 * rig.legLength,
      9,
    );
    expect(away('left palm', 'left.hand', 'hands', skin, deep)).toBe(
      away('left palm', 'left.hand', 'hands', { ...skin, known: 'mesh' }, deep),
    );
  });
});
