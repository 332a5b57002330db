import { partsOf, project, turnInPlane, PLANES } from './plane';

describe('the planes that bodies are laid over each other in', () => {
  const body = { left: [0, 0, -1] as const, forward: [1, 0, 0] as const };

  it('show a body that faces +X as any other: left hand right in the front view, nose left in the side view', () => {
    const left = partsOf([0, 0, -2], body as never);
    expect(left).toEqual([2, 0, 0]);
    expect(project(left, 'front')).toEqual({ x: 2, y: 0 });
    expect(project(partsOf([3, 1, 0], body as never), 'side')).toEqual({ x: -3, y: 1 });
    expect(project(partsOf([3, 1, 0], body as never), 'top').y).toBe(3);
  });

  it('turn counter-clockwise as drawn, in each of them', () => {
    for (const plane of PLANES) {
      const [x, y, z] = turnInPlane(undefined, plane, 90);
      // The rotation vector in left, up, ahead; a right-handed frame is (ahead, left, up).
      const turn = (v: [number, number, number]): [number, number, number] => {
        const k = [x / 90, y / 90, z / 90];
        // v × is taken in the frame (left, up, ahead), which is right-handed: left × up = ahead.
        return [k[1] * v[2] - k[2] * v[1], k[2] * v[0] - k[0] * v[2], k[0] * v[1] - k[1] * v[0]];
      };
      const start: [number, number, number] = plane === 'top' ? [0, 0, 1] : [0, 1, 0];
      const from = project(start, plane);
      const to = project(turn(start), plane);
      expect(from.x * to.y - from.y * to.x)
        .withContext(plane)
        .toBeCloseTo(1, 9);
    }
  });

  it('lay a turn over another', () => {
    const twice = turnInPlane(turnInPlane(undefined, 'front', 20), 'front', 25);
    expect(twice[2]).toBeCloseTo(45, 9);
    expect(turnInPlane(twice, 'front', -45).every((v) => Math.abs(v) < 1e-9)).toBeTrue();
  });
});
