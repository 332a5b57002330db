import { type LineSegments, Vector3 } from 'three';
import type { DisplayBody } from '../solver/messages';
import { makeSolved } from '../testing/solved';
import { Rooms } from './rooms';

describe('the room that a body keeps free', () => {
  const { character } = makeSolved();
  const about = { points: [], parts: {} };
  const pose = {
    positions: Float64Array.of(0, 1, 0, 0, 0.5, 0.2, 2, 2, 2),
    rotations: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1),
  };
  const cornersOf = (rooms: Rooms): Vector3[] => {
    const lines = rooms.group.children[0] as LineSegments;
    const at = lines.geometry.getAttribute('position');
    return Array.from({ length: at.count }, (_, i) => new Vector3(at.getX(i), at.getY(i), at.getZ(i)).applyMatrix4(lines.matrix));
  };

  it('is a tube from joint to joint, as thick as the limb', () => {
    const body = { ...character, about: { ...about, volumes: [], capsules: [{ from: 0, to: 1, radius: 0.07 }] } } as DisplayBody;
    const rooms = new Rooms(body, '#0B6E63');
    rooms.pose(pose);
    const [a, b] = [new Vector3(0, 1, 0), new Vector3(0, 0.5, 0.2)];
    const bone = b.clone().sub(a);
    for (const corner of cornersOf(rooms)) {
      const along = corner.clone().sub(a).dot(bone) / bone.lengthSq();
      expect(along).toBeGreaterThan(-1e-4);
      expect(along).toBeLessThan(1 + 1e-4);
      expect(corner.distanceTo(a.clone().addScaledVector(bone, along))).toBeCloseTo(0.07, 4);
    }
  });

  it('is an egg about the middle of a part, in the axes of the part, and goes with its joint', () => {
    const quarter = Math.SQRT1_2;
    const volume = { joint: 2, role: 'head', middle: [0, 0.1, 0], half: [0.05, 0.1, 0.2], turn: [0, 0, 0, 1] };
    const body = { ...character, about: { ...about, volumes: [volume], capsules: [] } } as unknown as DisplayBody;
    const rooms = new Rooms(body, '#0B6E63');
    const farthest = (axis: 'x' | 'y' | 'z', from: number): number => Math.max(...cornersOf(rooms).map((corner) => corner[axis] - from));
    rooms.pose(pose);
    expect([farthest('x', 2), farthest('y', 2.1), farthest('z', 2)].map((v) => +v.toFixed(2))).toEqual([0.05, 0.1, 0.2]);
    // Turned by a quarter about the vertical, what was ahead is aside.
    rooms.pose({ ...pose, rotations: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, quarter, 0, quarter) });
    expect([farthest('x', 2), farthest('z', 2)].map((v) => +v.toFixed(2))).toEqual([0.2, 0.05]);
    rooms.dispose();
  });

  it('is nothing for a body of which nothing is known', () => {
    const rooms = new Rooms({ ...character, about: undefined }, '#0B6E63');
    rooms.pose(pose);
    expect(rooms.group.children.length).toBe(0);
  });
});
