import { ClipReader, trim } from '../../clip';
import { findHands } from '../../contact';
import { makePairing, type Pairing } from '../../match';
import { prepareRig, type Rig } from '../../rig';
import { pointInWorld } from '../../skeleton';
import { figureOf, judged, makeFile, performerOf, randomShape, reaching, walk, type Reach } from '../../testing';
import { DEFAULT_SOLVE, solve, type Transfer } from '..';

const FRAMES = 240;
const FPS = 60;
const SEEDS = [1, 2, 3, 4, 5];

/** A body that sways on both feet, its arms reaching, on another of other arms, legs and shoulders. @param hand length of its hands as a share of its own */
function transferOf(
  seed: number,
  reach: Partial<Record<'left' | 'right', Reach>>,
  spread: readonly [number, number] = [0.75, 1.3],
  hand = 1,
) {
  const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
  const sway = walk(shape, { seed, frames: FRAMES, fps: FPS, pace: 0, noise: 4e-4, crouch: 0.05 });
  for (let f = 0; f < FRAMES; f++) sway.hips[f * 3] += 0.03 * Math.sin(f / 20);
  const { rig, clip } = performerOf(shape, reaching(shape, sway, reach));
  const other = randomShape(seed + 40, { clavicles: true, spine: 3, neck: 1, spread });
  const tips = [...other.tips].map(([role, [x, y, z]]) => [role, role.endsWith('.hand') ? [x * hand, y, z] : [x, y, z]] as const);
  const character = prepareRig(makeFile({ ...other, tips: new Map(tips as [string, [number, number, number]][]) }, { axes: seed }));
  const pairing = makePairing(rig, character);
  return { rig, clip, pairing, held: solve(pairing, clip), plain: solve(pairing, clip, { ...DEFAULT_SOLVE, plain: true }) };
}

/** Palms of a body over a clip, left and right, 3 a frame: from the middle of each hand's bone, not from what the solver holds. */
function palms(rig: Rig, reader: ClipReader): Float64Array[] {
  return (['left', 'right'] as const).map((side) => {
    const hand = rig.roles.get(`${side}.hand`)!;
    const half = Float64Array.from([0, 1, 2], (c) => rig.skeleton.tips[hand * 3 + c] / 2);
    const out = new Float64Array(FRAMES * 3);
    for (let f = 0; f < FRAMES; f++) pointInWorld(out, f * 3, reader.at(f), hand, half, 0);
    return out;
  });
}

const readerOf = ({ character }: Pairing, { clip }: Transfer): ClipReader => new ClipReader(character.skeleton, clip);

/** The farthest that a place of a series is from its mean, between two frames. */
function drift(places: Float64Array, first: number, last: number): number {
  const mean = [0, 1, 2].map((c) => {
    let sum = 0;
    for (let f = first; f <= last; f++) sum += places[f * 3 + c];
    return sum / (last - first + 1);
  });
  let most = 0;
  for (let f = first; f <= last; f++) most = Math.max(most, Math.hypot(...mean.map((x, c) => places[f * 3 + c] - x)));
  return most;
}

/** The way from the right hand to the left one in a frame, some share of each hand's length from its wrist. */
function between(rig: Rig, reader: ClipReader, frame: number, share: number): number[] {
  const pose = reader.at(frame);
  const [a, b] = (['left', 'right'] as const).map((side) => {
    const hand = rig.roles.get(`${side}.hand`)!;
    const out = new Float64Array(3);
    pointInWorld(
      out,
      0,
      pose,
      hand,
      rig.skeleton.tips.slice(hand * 3, hand * 3 + 3).map((x) => x * share),
      0,
    );
    return out;
  });
  return Array.from(a, (x, c) => x - b[c]);
}

/** Length of an arm, shoulder to wrist, metres. */
function armOf({ roles, restPose: { positions } }: Rig): number {
  const [a, b, c] = ['upperArm', 'lowerArm', 'hand'].map((part) => {
    const joint = roles.get(`left.${part}`)!;
    return positions.slice(joint * 3, joint * 3 + 3);
  });
  return Math.hypot(...a.map((x, i) => x - b[i])) + Math.hypot(...b.map((x, i) => x - c[i]));
}

const smooth = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * t * (t * (6 * t - 15) + 10));

describe('a hand that rests', () => {
  /** Comes to a place ahead by frame 60, stays while the body sways, leaves at 180. */
  const resting: Reach = (f, shoulder, arm) => {
    const there = smooth((f - 20) / 40) * (1 - smooth((f - 180) / 40));
    const hanging = [shoulder[0], shoulder[1] - 0.8 * arm, shoulder[2] + 0.2 * arm];
    const at = [0.25, 1.25, 0.3 * arm + 0.12];
    return hanging.map((x, c) => x + (at[c] - x) * there) as unknown as [number, number, number];
  };

  it('is seen to rest, and keeps its place on a body of other proportions; its elbow does not shake for it', () => {
    let loose = 0;
    for (const seed of SEEDS) {
      const { rig, clip, pairing, held, plain } = transferOf(seed, { left: resting });
      const rest = findHands(rig, clip).touches.find(
        ({ side, on, first, last }) => side === 'left' && on === 'rest' && first < 90 && last > 150,
      );
      expect(rest).withContext(`rest of ${seed}`).toBeDefined();
      // The performer's palm turns about the place where its wrist rests: that may be followed.
      const [own] = palms(rig, new ClipReader(rig.skeleton, clip));
      const ratio = [pairing.scale.stride, pairing.scale.lift, pairing.scale.stride];
      const beside = (transfer: Transfer): number => {
        const [left] = palms(pairing.character, readerOf(pairing, transfer));
        return drift(
          left.map((x, i) => x - ratio[i % 3] * own[i]),
          66,
          174,
        );
      };
      expect(beside(held)).withContext(`drift of ${seed}`).toBeLessThan(0.006);
      loose = Math.max(loose, beside(plain));
      expect(figureOf(held, 'held.hands')).withContext(`held of ${seed}`).toBeGreaterThan(98);
      expect(figureOf(held, 'elbows')).withContext(`elbows of ${seed}`).toBeLessThan(1.35);
    }
    expect(loose).withContext('the plain transfer lets it go').toBeGreaterThan(0.01);
  });
});

describe('hands that meet', () => {
  /** Both hands before the chest from frame 60 to 180, circling together. */
  const meeting =
    (s: number): Reach =>
    (f, shoulder, arm) => {
      const there = smooth((f - 20) / 40) * (1 - smooth((f - 180) / 40));
      const hanging = [shoulder[0], shoulder[1] - 0.8 * arm, shoulder[2] + 0.2 * arm];
      const at = [s * 0.02, 1.2 + 0.05 * Math.sin(f / 12), 0.42 * arm + 0.05 * Math.cos(f / 12)];
      return hanging.map((x, c) => x + (at[c] - x) * there) as unknown as [number, number, number];
    };

  /** Hands that come before the chest, so far from its middle, fore arms pointing at each other, and leave again from a frame on. */
  const pointing = (aside: number, leave: number): Record<'left' | 'right', Reach> => {
    const of =
      (s: number): Reach =>
      (f, shoulder, arm) => {
        const there = smooth((f - 60) / 40) * (1 - smooth((f - leave) / 40));
        const hanging = [shoulder[0], shoulder[1] - 0.8 * arm, shoulder[2] + 0.2 * arm];
        const at = [s * aside, shoulder[1] - 0.25 * arm, 0.3 * arm];
        return hanging.map((x, c) => x + (at[c] - x) * there) as unknown as [number, number, number];
      };
    return { left: of(1), right: of(-1) };
  };

  it('meet on a body of other proportions, and the judge sees where they do not', () => {
    let apart = 0;
    for (const seed of SEEDS) {
      const { held, plain } = transferOf(seed, { left: meeting(1), right: meeting(-1) });
      expect(figureOf(held, 'meet')).withContext(`met of ${seed}`).toBeLessThan(12);
      apart = Math.max(apart, figureOf(plain, 'meet'));
      const verdict = judged(held);
      expect(figureOf(held, 'stretched', verdict))
        .withContext(`stretched of ${seed}`)
        .toBeLessThan(1);
      expect(figureOf(held, 'flips', verdict))
        .withContext(`flips of ${seed}`)
        .toBe(0);
    }
    expect(apart).withContext('the plain transfer parts them').toBeGreaterThan(40);
  });

  it('meet by their finger tips too, while palms are apart', () => {
    let seen = 0;
    for (const seed of SEEDS) {
      const { rig, clip, pairing, held, plain } = transferOf(seed, pointing(0.08, 130), undefined, 0.5);
      const reader = new ClipReader(rig.skeleton, clip);
      const apart = (share: number): number => Math.hypot(...between(rig, reader, 115, share)) / rig.legLength;
      if (!(apart(1) < 0.07 && apart(0.5) > 0.085)) continue;
      seen++;
      const met = findHands(rig, clip).touches.filter(({ on }) => on === 'hand');
      expect(met.some(({ first, last }) => first <= 110 && last >= 120))
        .withContext(`found of ${seed}`)
        .toBeTrue();
      expect(figureOf(held, 'meet'))
        .withContext(`met of ${seed}, to the judge`)
        .toBeLessThan(Math.max(20, 0.5 * figureOf(plain, 'meet')));
      // Its hands are half as long: palms that lie as the performer's would leave finger tips far apart.
      const arms = armOf(pairing.character) / armOf(rig);
      const mine = between(pairing.character, readerOf(pairing, held), 115, 1);
      const away = Math.hypot(...between(rig, reader, 115, 1).map((x, c) => mine[c] - arms * x));
      expect(away).withContext(`met of ${seed}`).toBeLessThan(0.012);
    }
    expect(seen).toBeGreaterThan(2);
  });

  it('are not found, nor are arms led aside, where hands only come near for a moment', () => {
    for (const seed of SEEDS) {
      const { rig, clip, held } = transferOf(seed, pointing(0.13, 100));
      expect(findHands(rig, clip).touches.filter(({ on }) => on === 'hand'))
        .withContext(`${seed}`)
        .toEqual([]);
      expect(figureOf(held, 'likeness.arms')).withContext(`arms of ${seed}`).toBeLessThan(1);
      // As frames come, what is not over yet may still touch.
      const open = findHands(rig, trim(rig.skeleton, clip, 0, 99), { goesOn: true }).touches.filter(({ on }) => on === 'hand');
      expect(open.map(({ last }) => last))
        .withContext(`${seed}, not over`)
        .toEqual([99]);
    }
  });

  it('are found of hands that hold something, as they go together, and not of hands that each go their own way', () => {
    /** Held before the chest from frame 40 on, some 0.2 m apart, going up and down by some centimetres. */
    const before =
      (s: number, rhythm: number): Reach =>
      (f, shoulder, arm) => [s * 0.1, shoulder[1] - 0.25 * arm + 0.03 * smooth((f - 20) / 20) * Math.sin(f / rhythm), 0.4 * arm];
    for (const seed of SEEDS) {
      const found = (own: number) => {
        const { rig, clip, held } = transferOf(seed, { left: before(1, 14), right: before(-1, own) });
        return { held, met: findHands(rig, clip).touches.filter(({ on }) => on === 'hand') };
      };
      expect(found(14).met.length).withContext(`together, ${seed}`).toBe(1);
      const own = found(19);
      expect(own.met).withContext(`each its own way, ${seed}`).toEqual([]);
      // A trunk that is wider keeps a hand out.
      expect(figureOf(own.held, 'likeness.arms')).withContext(`arms of ${seed}`).toBeLessThan(2);
    }
  });

  it('are not found where hands only hang beside the body', () => {
    for (const seed of SEEDS) {
      const hanging: Reach = (_, shoulder, arm) => [shoulder[0], shoulder[1] - 0.97 * arm, shoulder[2]];
      const { rig, clip } = transferOf(seed, { left: hanging, right: hanging });
      expect(findHands(rig, clip).touches.filter(({ on }) => on === 'hand')).toEqual([]);
    }
  });
});

describe('a hand that would go into the floor', () => {
  it('stays above it', () => {
    for (const seed of SEEDS) {
      const low: Reach = (f, shoulder, arm) => {
        const down = smooth((f - 20) / 60) * (1 - smooth((f - 160) / 60));
        return [shoulder[0], shoulder[1] - (0.75 + 0.2 * down) * arm, shoulder[2] + 0.1];
      };
      const { pairing, held, plain } = transferOf(seed, { left: low }, [0.5, 0.6]);
      // The floor is brought up to just under the performer's hand: on longer arms, or shorter legs, it is too near.
      const floor = held.floor + 0.02;
      const lowest = (transfer: Transfer): number => {
        const reader = readerOf(pairing, transfer);
        const tips = pairing.character.hands[0].skin;
        let low = Infinity;
        const p = new Float64Array(3);
        for (let f = 0; f < FRAMES; f++) {
          for (const { joint, local } of tips) {
            pointInWorld(p, 0, reader.at(f), joint, local, 0);
            low = Math.min(low, p[1]);
          }
        }
        return low;
      };
      expect(lowest(held))
        .withContext(`${seed}`)
        .toBeGreaterThan(Math.min(lowest(plain), floor) - 0.025);
      expect(lowest(held))
        .withContext(`${seed}`)
        .toBeGreaterThan(held.floor - 0.004);
    }
  });
});
