import { ClipReader, clipOf, prepareRig, readMotionFile, type Clip, type Rig } from '@hollow-stride/core';
import { production } from '../testing/production';

/** The twelve takes as an animator would go over them: what a body cannot do, none of them does. */
describe('the takes of the demo', () => {
  interface Take {
    readonly name: string;
    readonly rig: Rig;
    readonly clip: Clip;
    /** Frames before the performance: a rest pose. */
    readonly lead: number;
  }
  const takes: Take[] = [];
  const LEADS: Record<string, number> = { 'quay-walk.bvh': 30, 'gangplank-run.bvh': 24, 'limp-home.bvh': 18 };
  const SPIKES: Record<string, readonly number[]> = { 'gangplank-run.bvh': [214], 'crate-lift.bvh': [312] };

  beforeAll(async () => {
    for (const { name, bytes } of await production()) {
      if (!name.endsWith('.bvh')) continue;
      const file = await readMotionFile(bytes, name);
      const rig = prepareRig(file);
      takes.push({ name, rig, clip: clipOf(file, rig), lead: LEADS[name] ?? 18 });
    }
  });

  type V = readonly [number, number, number];
  const sub = (a: V, b: V): V => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
  const dot = (a: V, b: V): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const size = (a: V): number => Math.sqrt(dot(a, a));
  const degrees = (a: V, b: V): number => (Math.acos(Math.max(-1, Math.min(1, dot(a, b) / (size(a) * size(b))))) * 180) / Math.PI;

  /** Calls with a way to ask for any labelled joint's place, frame by frame, from behind the rest pose on. */
  function walkThrough({ rig, clip, lead, name }: Take, look: (at: (role: string) => V, frame: number) => void, step = 3): void {
    const reader = new ClipReader(rig.skeleton, clip);
    for (let f = lead + 4; f < clip.frames; f += step) {
      if (SPIKES[name]?.some((spike) => Math.abs(spike - f) < 2)) continue;
      const { positions } = reader.at(f);
      look((role) => {
        const o = rig.roles.get(role)! * 3;
        return [positions[o], positions[o + 1], positions[o + 2]];
      }, f);
    }
  }

  it('are twelve', () => {
    expect(takes.length).toBe(12);
  });

  it('bend knees as far as knees bend, ahead of the line from hip to ankle, and over the foot', () => {
    for (const take of takes) {
      let [most, aside] = [0, 0];
      walkThrough(take, (at) => {
        for (const side of ['left', 'right']) {
          const [hip, knee, ankle, toes] = ['upperLeg', 'lowerLeg', 'foot', 'toes'].map((part) => at(`${side}.${part}`));
          const bend = degrees(sub(knee, hip), sub(ankle, knee));
          most = Math.max(most, bend);
          if (bend < 25) continue;
          // Where the knee stands off the line, seen from above, against where the foot points.
          const share = dot(sub(knee, hip), sub(ankle, hip)) / dot(sub(ankle, hip), sub(ankle, hip));
          const off = sub(knee, [0, 1, 2].map((c) => hip[c] + (ankle[c] - hip[c]) * share) as unknown as V);
          const foot = sub(toes, ankle);
          aside = Math.max(aside, degrees([off[0], 0, off[2]], [foot[0], 0, foot[2]]));
        }
      });
      expect(most).withContext(`${take.name}: bend`).toBeLessThan(140);
      expect(aside).withContext(`${take.name}: aside`).toBeLessThan(60);
    }
  });

  it('keep shins within what an ankle allows over a foot that stands', () => {
    for (const take of takes) {
      const before = new Map<string, V>();
      let most = 0;
      walkThrough(
        take,
        (at) => {
          for (const side of ['left', 'right']) {
            const [knee, ankle, toes] = ['lowerLeg', 'foot', 'toes'].map((part) => at(`${side}.${part}`));
            const was = before.get(side);
            before.set(side, ankle);
            const stands = was !== undefined && size(sub(ankle, was)) / take.clip.frameTime < 0.12 && ankle[1] - toes[1] < 0.08;
            if (stands) most = Math.max(most, degrees(sub(knee, ankle), [0, 1, 0]));
          }
        },
        1,
      );
      expect(most).withContext(take.name).toBeLessThan(48);
    }
  });

  it('move without a jump, no joint faster than a body can', () => {
    for (const take of takes) {
      const before = new Map<string, V>();
      let [trunk, ends] = [0, 0];
      walkThrough(
        take,
        (at, frame) => {
          for (const role of ['hips', 'head', 'left.hand', 'right.hand', 'left.foot', 'right.foot']) {
            const now = at(role);
            const was = before.get(role);
            const fault = SPIKES[take.name]?.some((spike) => Math.abs(spike - frame) < 4);
            const speed = was && !fault ? size(sub(now, was)) / take.clip.frameTime : 0;
            if (role === 'hips' || role === 'head') trunk = Math.max(trunk, speed);
            else ends = Math.max(ends, speed);
            before.set(role, now);
          }
        },
        1,
      );
      expect(trunk).withContext(`${take.name}: hips, head`).toBeLessThan(9);
      // A dropout repeats frames and catches up at once: it is one of the faults that a capture has.
      expect(ends).withContext(`${take.name}: hands, feet`).toBeLessThan(18);
    }
  });

  it('hold what they hold: hands and feet of the climb rest on rungs, hands of the haul close on one rope', () => {
    const climb = takes.find(({ name }) => name.startsWith('bell-ringers-climb'))!;
    const rests = { hands: 0, feet: 0 };
    const before = new Map<string, V>();
    let [low, high] = [Infinity, -Infinity];
    walkThrough(
      climb,
      (at) => {
        for (const side of ['left', 'right']) {
          for (const part of ['hand', 'foot'] as const) {
            const now = at(`${side}.${part}`);
            const was = before.get(side + part);
            if (was && size(sub(now, was)) / climb.clip.frameTime < 0.1) rests[part === 'hand' ? 'hands' : 'feet'] += climb.clip.frameTime;
            before.set(side + part, now);
            if (part === 'foot') [low, high] = [Math.min(low, now[1]), Math.max(high, now[1])];
          }
        }
      },
      1,
    );
    expect(rests.feet).toBeGreaterThan(8);
    expect(rests.hands).toBeGreaterThan(4);
    expect(high - low).toBeGreaterThan(1.8);

    const haul = takes.find(({ name }) => name.startsWith('rope-haul'))!;
    let apart = 0;
    walkThrough(haul, (at, frame) => {
      const t = frame * haul.clip.frameTime;
      if (t > 2.2 && t < 8) apart = Math.max(apart, size(sub(at('left.hand'), at('right.hand'))));
    });
    expect(apart).toBeLessThan(0.2);
  });

  it('go up the gangplank: each stand of a foot lies higher than the one before', () => {
    const run = takes.find(({ name }) => name.startsWith('gangplank'))!;
    const heights: number[] = [];
    walkThrough(run, (at) => heights.push(Math.min(at('left.foot')[1], at('right.foot')[1])), 10);
    expect(heights[heights.length - 1] - heights[0]).toBeGreaterThan(0.6);
    for (let i = 4; i < heights.length; i++) expect(heights[i]).toBeGreaterThan(heights[i - 4] - 0.06);
  });
});
