import { ClipReader, DEFAULT_BY_JOINT, DEFAULT_RECIPE, readMotionFile, runJob, type ByJoint, type MotionFile } from '@hollow-stride/core';
import { makeMachines } from '../index';

describe('the cranes of the demo', () => {
  let takes: MotionFile[];
  let twin: MotionFile;

  beforeAll(async () => {
    const files = await Promise.all((await makeMachines()).map(({ name, bytes }) => readMotionFile(bytes, name)));
    takes = files.slice(0, 2);
    twin = files[2];
  });

  const solve = (take: MotionFile, byJoint: Partial<ByJoint> = {}) => {
    const pairing = { ...DEFAULT_RECIPE.pairing, byJoint: { ...DEFAULT_BY_JOINT, ...byJoint } };
    return runJob({ take, clip: 0, character: twin, recipe: { ...DEFAULT_RECIPE, pairing } });
  };

  it('pair by their names, the boom and the rope by their place, and the upper mast stays over', () => {
    const { map } = solve(takes[0]).ready.pairing.joints!;
    const named = Object.fromEntries(
      map.pairs.map(({ target, sources, why }) => [twin.skeleton.names[target], `${takes[0].skeleton.names[sources[0].joint]}, ${why}`]),
    );
    expect(named['kran:boom']).toBe('Crane_Jib, shape');
    expect(named['kran:rope']).toBe('Crane_Cable, shape');
    expect(named['kran:claw.left']).toBe('Crane_Claw_L, name');
    expect(map.pairs.length).toBe(10);
    expect(map.leftOver.character.map((joint) => twin.skeleton.names[joint])).toEqual(['kran:mastUpper']);
    expect((map.heading * 180) / Math.PI).toBeCloseTo(90, 6);
  });

  it('are carried without a fault, and the hook hangs where the larger one’s does', () => {
    for (const take of takes) {
      const { ready, transfer, report } = solve(take);
      // Nothing of a crane grows.
      for (const { id, mark } of report.verdict.figures)
        expect([take.name, id, mark]).toEqual([take.name, id, id === 'joints.sizes' ? 'unseen' : 'good']);
      const { performer, character, pairing } = ready;
      const [theirs, mine] = [new ClipReader(performer.skeleton, transfer.take), new ClipReader(character.skeleton, transfer.clip)];
      const find = (file: MotionFile, name: string): number => file.skeleton.names.indexOf(name) * 3;
      let worst = 0;
      for (let f = 0; f < transfer.clip.frames; f += 15) {
        const [p, q] = [theirs.at(f).positions, mine.at(f).positions];
        const way = (of: Float64Array, from: number, to: number): number => Math.hypot(of[to] - of[from], of[to + 2] - of[from + 2]);
        // How far out the hook is from the mast, told by neither solver nor judge.
        const out = way(p, find(take, 'Crane_Mast'), find(take, 'Crane_Hook')) * pairing.scale.lift;
        worst = Math.max(worst, Math.abs(out - way(q, find(twin, 'kran:mastLower'), find(twin, 'kran:hookBlock'))));
      }
      // The twin is no exact copy: its jib is a tenth shorter.
      expect(worst).toBeLessThan(0.12 * 5 * pairing.scale.lift);
      expect(performer.up).toBe('+Z');
    }
  });

  it('are seen to leave motion over where a joint that moves drives nothing', () => {
    const figures = solve(takes[0], { pairs: { trolleyCar: [] } }).report.verdict.figures;
    expect(figures.find(({ id }) => id === 'joints.left')!.words).toContain('Crane_Trolley');
  });
});
