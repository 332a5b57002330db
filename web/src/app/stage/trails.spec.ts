import { type Line, LineDashedMaterial } from 'three';
import { ClipReader } from '@hollow-stride/core';
import { makeSolved } from '../testing/solved';
import { Trails } from './trails';

describe('trails', () => {
  const { character, solved, roles } = makeSolved();
  const [left, right] = [roles.get('left.foot')!, roles.get('right.hand')!];
  const body = {
    ...character,
    ends: [
      { joint: left, side: 'left' as const },
      { joint: right, side: 'right' as const },
    ],
  };

  it('go where the joints go through the take; the left solid, the right dashed', () => {
    const trails = new Trails(body, solved, '#C2602A');
    const [foot, hand] = trails.group.children as Line[];
    expect(foot.geometry.getAttribute('position').count).toBe(solved.frames);
    const reader = new ClipReader(body.skeleton, solved);
    for (const f of [0, 60, 149]) {
      const at = foot.geometry.getAttribute('position');
      const { positions } = reader.at(f);
      [at.getX(f), at.getY(f), at.getZ(f)].forEach((x, c) => expect(x).toBeCloseTo(positions[left * 3 + c], 5));
    }
    expect(foot.material).not.toBeInstanceOf(LineDashedMaterial);
    expect(hand.material).toBeInstanceOf(LineDashedMaterial);
    trails.dispose();
  });

  it('are no finer than can be seen, however long the take', () => {
    const frames = 4000;
    const width = solved.rotations.length / solved.frames;
    const long = {
      ...solved,
      frames,
      rotations: new Float32Array(frames * width).fill(0).map((_, i) => (i % 4 === 3 ? 1 : 0)),
      moves: [],
    };
    const trails = new Trails(body, long, '#C2602A');
    expect((trails.group.children[0] as Line).geometry.getAttribute('position').count).toBeLessThanOrEqual(500);
    trails.dispose();
  });
});
