import { restingTips, rollOf } from './rolling';

const FRAMES = 40;

/** A foot that lifts its heel by up to 40°: places of heel, ball, joint of the toes and tip; what turns about what is given. */
function lifted(about: 'ball' | 'joint' | 'stiff') {
  const out = { heel: [] as number[], ball: [] as number[], joint: [] as number[], tip: [] as number[] };
  for (let f = 0; f < FRAMES; f++) {
    const turn = ((f / (FRAMES - 1)) * 40 * Math.PI) / 180;
    const centre = about === 'joint' ? [0.03, 0] : [0, 0];
    const place = (y: number, z: number): number[] => {
      const [dy, dz] = [y - centre[0], z - centre[1]];
      return [0, centre[0] + Math.cos(turn) * dy - Math.sin(turn) * dz, centre[1] + Math.sin(turn) * dy + Math.cos(turn) * dz];
    };
    const joint = place(0.03, 0);
    out.heel.push(...place(0, -0.15));
    out.ball.push(...place(0, 0));
    out.joint.push(...joint);
    out.tip.push(...(about === 'stiff' ? place(0, 0.1) : [0, joint[1] - 0.03, joint[2] + 0.1]));
  }
  const [heel, ball, joint, tip] = [out.heel, out.ball, out.joint, out.tip].map((list) => Float64Array.from(list));
  return { heel, ball, joint, tip };
}

describe('what a planted ball rolls over', () => {
  const of = (about: 'ball' | 'joint' | 'stiff'): number => {
    return rollOf({ ...lifted(about), toes: 0.1 / 0.15 }, 0, FRAMES - 1, 0.9);
  };

  it('is the joint of toes that lie flat, the ball where that is still, and the ball of stiff toes', () => {
    expect(of('joint')).toBeGreaterThan(0.95);
    expect(of('ball')).toBeLessThan(0.01);
    expect(of('stiff')).toBeLessThan(0.01);
  });

  it('is noted with the height at which the tip rests, and not where it moves', () => {
    const { tip } = lifted('joint');
    const heights = restingTips(tip, { first: 5, last: 30 }, -0.02, 0.9);
    expect(heights.length).toBe(26);
    expect(heights.every((height) => Math.abs(height - 0.02) < 1e-9)).toBeTrue();
    const moving = Float64Array.from(tip, (v, i) => v + (i % 3 === 2 ? i * 0.002 : 0));
    const rests = restingTips(moving, { first: 0, last: FRAMES - 1 }, 0, 0.9);
    expect(rests.filter((height) => !Number.isNaN(height)).length).toBeLessThan(FRAMES / 3);
  });
});
