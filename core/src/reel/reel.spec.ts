import { ClipReader, type Clip } from '../clip';
import { findContacts } from '../contact';
import { makePairing } from '../match';
import { rotate } from '../math/quat';
import { random } from '../math/random';
import { makeLane, makeReelClip, makeReelTouch, parseReel, type ReelClip } from '../recipe';
import { prepareRig, type Rig } from '../rig';
import { DEFAULT_SOLVE, solve } from '../solve';
import { makeFile, performerOf, randomShape, walk, type WalkOptions } from '../testing';
import { findCycle, findJoining } from './find';
import { isLoop, playLane } from './lane';
import { laneFrames } from './length';
import { aboutLane, withTouches } from './touch';
import { makePiece, reversed, type Source } from './piece';

const FPS = 60;
/** A foot that is higher over its stands than this lands or leaves, metres. */
const NEAR = 0.0006;
const OPTIONS = { clavicles: true, spine: 3, neck: 1 };

/** Walks of one performer solved onto one character. */
function walksOf(seed: number, ...walks: readonly WalkOptions[]): Source[] {
  const shape = randomShape(seed, OPTIONS);
  const rig = prepareRig(makeFile(randomShape(seed + 70, OPTIONS), { axes: seed }));
  return walks.map((options): Source => {
    const { rig: performer, clip: take } = performerOf(
      shape,
      walk(shape, { seed, frames: 360, fps: FPS, crouch: 0.06, roll: 18, ...options }),
    );
    const contacts = findContacts(performer, take);
    return { rig, contacts, clip: solve(makePairing(performer, rig), take, DEFAULT_SOLVE, { contacts }).clip };
  });
}

const clipOf = (take: string, start: number, more: Partial<ReelClip> = {}): ReelClip => makeReelClip({ name: take, take, start, ...more });
const lane = (sources: readonly Source[], clips: ReelClip[], more = {}) =>
  playLane(sources[0].rig, makeLane({ name: 'lane', character: 'body', clips, ...more }), FPS, (take) => sources[Number(take)]);

/** Farthest that joints of two clips are from each other, metres. @param shift frames by which the second is later */
function apart(rig: Rig, a: Clip, b: Clip, frames: number, shift = 0): number {
  const [one, other] = [new ClipReader(rig.skeleton, a), new ClipReader(rig.skeleton, b)];
  let worst = 0;
  for (let f = 0; f < frames; f++) {
    const [p, q] = [one.at(f).positions, other.at(f + shift).positions];
    for (let i = 0; i < p.length; i++) worst = Math.max(worst, Math.abs(p[i] - q[i]));
  }
  return worst;
}

/**
 * How feet stand, told by neither reel nor solver: a foot whose lower end, of heel and ball, is near the floor for a third of a second is down;
 * metres a second that this end goes over the floor, the worst of those times.
 */
function slideSeen(rig: Rig, clip: Clip): number {
  const reader = new ClipReader(rig.skeleton, clip);
  const WINDOW = Math.round(FPS / 3);
  let worst = 0;
  for (const foot of rig.feet) {
    const points = [foot.heel, foot.ball];
    const tracks = points.map(() => new Float64Array(clip.frames * 3));
    for (let f = 0; f < clip.frames; f++) {
      const { positions, rotations } = reader.at(f);
      points.forEach((local, i) => {
        const [x, y, z, w] = rotations.subarray(foot.foot * 4, foot.foot * 4 + 4);
        const [a, b, c] = local;
        const t = [2 * (y * c - z * b), 2 * (z * a - x * c), 2 * (x * b - y * a)];
        const v = [a + w * t[0] + y * t[2] - z * t[1], b + w * t[1] + z * t[0] - x * t[2], c + w * t[2] + x * t[1] - y * t[0]];
        v.forEach((value, k) => (tracks[i][f * 3 + k] = value + positions[foot.foot * 3 + k]));
      });
    }
    // The lower of both, frame by frame, and how far it goes.
    const lower = Int32Array.from({ length: clip.frames }, (_, f) => (tracks[0][f * 3 + 1] < tracks[1][f * 3 + 1] ? 0 : 1));
    const heights = Array.from(lower, (i, f) => tracks[i][f * 3 + 1]);
    const low = [...heights].sort((a, b) => a - b)[Math.floor(clip.frames * 0.1)];
    for (let f = 0; f + WINDOW < clip.frames; f++) {
      // Down for the whole window and a moment around it, by its height alone: landing is no stand.
      if (heights.slice(Math.max(0, f - 3), f + WINDOW + 4).some((height) => height > low + NEAR)) continue;
      let way = 0;
      for (let g = f + 1; g <= f + WINDOW; g++) {
        const track = tracks[lower[g]];
        way += Math.hypot(track[g * 3] - track[g * 3 - 3], track[g * 3 + 2] - track[g * 3 - 1]);
      }
      worst = Math.max(worst, (way / WINDOW) * FPS);
    }
  }
  return worst;
}

describe('a lane of the reel', () => {
  it('is the result itself where it is split and joined, and where it goes over into itself', () => {
    const sources = walksOf(21, {});
    const { rig, clip } = sources[0];
    const split = lane(sources, [clipOf('0', 0, { to: 2.5 }), clipOf('0', 2.5, { from: 2.5 })]);
    expect(split.clip.frames).toBe(clip.frames);
    expect(apart(rig, split.clip, clip, clip.frames)).toBeLessThan(3e-4);
    const over = lane(sources, [clipOf('0', 0, { to: 3 }), clipOf('0', 2, { from: 2 })]);
    expect(over.placed.map(({ overlap }) => overlap)).toEqual([0, 61]);
    expect(apart(rig, over.clip, clip, clip.frames)).toBeLessThan(2e-3);
  });

  it('is the same bit for bit after it was turned round twice', () => {
    const [source] = walksOf(22, {});
    const piece = makePiece(source, clipOf('0', 0, { from: 1, to: 4 }), FPS);
    const once = reversed(source.rig.skeleton, piece);
    expect(apart(source.rig, once.clip, piece.clip, piece.clip.frames)).toBeGreaterThan(0.1);
    expect(reversed(source.rig.skeleton, once).clip.rotations.map(Math.abs)).toEqual(piece.clip.rotations.map(Math.abs));
  });

  it('holds feet still in blends of walks, whatever their pace and heading', () => {
    for (const seed of [31, 32, 33, 34]) {
      // Flat feet stand still in the results themselves; of those that roll only what the blend adds can be told.
      const roll = seed % 2 === 0 ? 18 : 0;
      const sources = walksOf(seed, { roll }, { roll, pace: 0.7, heading: 40, at: [2, 1], seed: seed + 9 });
      const before = Math.max(...sources.map(({ rig, clip }) => slideSeen(rig, clip)));
      const found = findJoining({ source: sources[0], from: 0, to: 4 }, { source: sources[1], from: 0.5, to: 6 })!;
      const half = 0.25;
      const made = lane(sources, [
        clipOf('0', 0, { to: found.leave + half }),
        clipOf('1', found.leave - half, { from: Math.max(0, found.enter - half) }),
      ]);
      const { rig } = sources[0];
      expect(made.slide.worst).toBeLessThan(0.003);
      expect(slideSeen(rig, made.clip)).toBeLessThan(roll === 0 ? 0.003 : before + 0.004);
      // Nothing jumps: no joint is elsewhere from one frame to the next than a walk takes it.
      const speed = (clip: Clip): number => {
        const reader = new ClipReader(rig.skeleton, clip);
        let most = 0;
        let last = reader.at(0).positions.slice();
        for (let f = 1; f < clip.frames; f++) {
          const now = reader.at(f).positions;
          for (let i = 0; i < now.length; i++) most = Math.max(most, Math.abs(now[i] - last[i]));
          last = now.slice();
        }
        return most;
      };
      expect(speed(made.clip)).toBeLessThan(1.3 * Math.max(...sources.map(({ clip }) => speed(clip))));
    }
  });

  it('is seen to slide where blends are not set right', () => {
    const sources = walksOf(35, {}, { pace: 0.6, heading: 60, seed: 4 });
    const clips = [clipOf('0', 0, { to: 3 }), clipOf('1', 2, { from: 1.3 })];
    const made = lane(sources, clips);
    const { rig } = sources[0];
    // The same without joining: feet must go from one walk's places to the other's.
    const torn = lane(
      sources,
      clips.map((clip) => ({ ...clip, joined: false })),
    );
    expect(torn.slide.worst).toBeGreaterThan(0.05);
    expect(slideSeen(rig, torn.clip)).toBeGreaterThan(slideSeen(rig, made.clip) + 0.02);
  });

  it('walks on for as long as it is told from one cycle, closed and without a slide', () => {
    for (const seed of [41, 42, 43]) {
      const roll = seed === 42 ? 18 : 0;
      const sources = walksOf(seed, { roll });
      const { rig, clip } = sources[0];
      const cycle = findCycle(sources[0])!;
      // The walker of the tests makes a stride in 1.2 s.
      expect(Math.abs(cycle.to - cycle.from - 1.2)).toBeLessThan(0.05);
      const made = lane(sources, [clipOf('0', 0, { from: cycle.from, to: cycle.to, closed: true, repeats: 6 })]);
      expect(made.slide.worst).toBeLessThan(0.003);
      // Where feet roll the measure itself is coarse: between heel and ball it jumps.
      expect(slideSeen(rig, made.clip)).toBeLessThan(roll === 0 ? 0.003 : slideSeen(rig, clip) + 0.006);
      const period = Math.round((cycle.to - cycle.from) * FPS);
      expect(made.clip.frames).toBe(6 * period + 1);
      const reader = new ClipReader(rig.skeleton, made.clip);
      const hips = rig.roles.get('hips')! * 3;
      const at = (f: number): [number, number, number] => [...reader.at(f).positions.subarray(hips, hips + 3)] as [number, number, number];
      const ways = [1, 2, 3, 4].map((i) =>
        Math.hypot(at(i * period)[0] - at((i - 1) * period)[0], at(i * period)[2] - at((i - 1) * period)[2]),
      );
      expect(Math.max(...ways) - Math.min(...ways)).toBeLessThan(0.01);
      expect(Math.abs(at(5 * period)[1] - at(period)[1])).toBeLessThan(0.002);
    }
  });

  it('knows a lane that can be played on end: one closed clip from the start, and nothing else', () => {
    const closed = clipOf('0', 0, { closed: true, repeats: 3 });
    const laneOf = (clips: ReelClip[], change = {}) => ({ ...makeLane({ name: 'lane', character: 'body', clips: [] }), clips, ...change });
    expect(isLoop(laneOf([closed]))).toBeTrue();
    for (const other of [
      laneOf([closed, clipOf('0', 4)]),
      laneOf([clipOf('0', 0)]),
      laneOf([{ ...closed, hold: 0.5 }]),
      laneOf([{ ...closed, start: 1 }]),
      laneOf([closed], { shift: 0.3 }),
    ])
      expect(isLoop(other)).toBeFalse();
  });

  it('finds no cycle in a body that stands, and the walk behind the stand', () => {
    const sources = walksOf(44, { frames: 240 });
    const { rig } = sources[0];
    const cycleOf = (clips: ReelClip[]) => findCycle({ rig, clip: lane(sources, clips).clip, contacts: { plants: [] } });
    const stand = clipOf('0', 0, { to: 0, hold: 3 });
    expect(cycleOf([stand])).toBeUndefined();
    expect(cycleOf([stand, clipOf('0', 2.5)])!.from).toBeGreaterThan(2.3);
  });

  it('mixes two walks by a value, their steps together and their feet still', () => {
    for (const seed of [61, 62]) {
      const sources = walksOf(seed, { roll: 0, pace: 0.6 }, { roll: 0, pace: 1 });
      const { rig } = sources[0];
      const cycles = sources.map((source, i) => {
        const { from, to } = findCycle(source)!;
        return { take: String(i), from, to, value: i };
      });
      const mixed = (keys: { at: number; value: number }[]): Clip =>
        lane(sources, [clipOf('0', 0, { mix: { cycles, keys, seconds: 6 } })]).clip;
      const hips = rig.roles.get('hips')! * 3;
      const speed = (of: Clip, a: number, b: number): number => {
        const reader = new ClipReader(rig.skeleton, of);
        const [p, q] = [a, b].map((f) => [...reader.at(f).positions.subarray(hips, hips + 3)]);
        return (Math.hypot(p[0] - q[0], p[2] - q[2]) / (b - a)) * FPS;
      };
      const [slow, half, fast] = [0, 0.5, 1].map((value) => speed(mixed([{ at: 0, value }]), 60, 300));
      // At its ends a mix is what it is mixed of, and between it goes as fast as is asked.
      expect(slow / speed(sources[0].clip, 60, 300)).toBeCloseTo(1, 1);
      expect(fast / speed(sources[1].clip, 60, 300)).toBeCloseTo(1, 1);
      expect(half / ((slow + fast) / 2)).toBeCloseTo(1, 1);
      const rising = mixed([
        { at: 1, value: 0 },
        { at: 5, value: 1 },
      ]);
      expect(speed(rising, 300, 350)).toBeGreaterThan(1.2 * speed(rising, 10, 60));
      for (const clip of [rising, mixed([{ at: 0, value: 0.5 }])]) expect(slideSeen(rig, clip)).toBeLessThan(0.003);
    }
  });

  it('holds a pose between two walks, and lets two figures touch', () => {
    const sources = walksOf(71, {});
    const { rig } = sources[0];
    const pose = { 'left.upperArm': [0, 0, 70] as [number, number, number] };
    const posed = lane(sources, [clipOf('0', 0, { to: 2 }), clipOf('0', 1.6, { pose, hold: 2 })]);
    const reader = new ClipReader(rig.skeleton, posed.clip);
    const hand = rig.roles.get('left.hand')! * 3;
    const still = [150, 170, 200].map((f) => [...reader.at(f).positions.subarray(hand, hand + 3)]);
    expect(Math.hypot(...still[0].map((v, c) => v - still[2][c]))).toBeLessThan(1e-6);
    expect(posed.slide.worst).toBeLessThan(0.003);

    const other = lane(sources, [clipOf('0', 0)], { place: [0.6, 0] }).clip;
    const own = lane(sources, [clipOf('0', 0)]).clip;
    const touch = makeReelTouch({ a: { lane: 0, end: 'left.hand' }, b: { lane: 1, end: 'right.hand' }, from: 2, to: 3, ease: 0.5 });
    const [a, b] = withTouches(
      [
        { rig, clip: own },
        { rig, clip: other },
      ],
      [touch],
      FPS,
    ) as [Clip, Clip];
    const palm = (clip: Clip, side: string, f: number): number[] => {
      const { positions, rotations } = new ClipReader(rig.skeleton, clip).at(f);
      const { hand: joint, palm: local } = rig.hands.find((one) => one.side === side)!;
      const out = new Float64Array(3);
      rotate(out, 0, rotations, joint * 4, local, 0);
      return [...out].map((v, c) => v + positions[joint * 3 + c]);
    };
    const gap = (one: Clip, two: Clip, f: number): number =>
      Math.hypot(...palm(one, 'left', f).map((v, c) => v - palm(two, 'right', f)[c]));
    expect(gap(own, other, 150)).toBeGreaterThan(0.05);
    for (const f of [120, 150, 180]) expect(gap(a, b, f)).toBeLessThan(0.005);
    // Before and after nothing is changed.
    for (const f of [0, 80, 220, 300]) expect(gap(a, own, f)).toBe(gap(own, own, f));
  });

  it('stays over one place, plays faster, later, elsewhere, and holds a pose', () => {
    const sources = walksOf(51, {});
    const { rig, clip } = sources[0];
    const hips = rig.roles.get('hips')! * 3;
    const place = (of: Clip, f: number): number[] => [...new ClipReader(rig.skeleton, of).at(f).positions.subarray(hips, hips + 3)];
    const still = lane(sources, [clipOf('0', 0, { travel: false })]).clip;
    const [a, b] = [place(still, 0), place(still, still.frames - 1)];
    expect(Math.hypot(a[0] - b[0], a[2] - b[2])).toBeLessThan(1e-5);
    const fast = lane(sources, [clipOf('0', 1, { rate: 2, hold: 0.5 })], { shift: 0.5, pace: 1 }).clip;
    expect(fast.frames).toBe(90 + Math.floor((clip.frames - 1) / 2) + 1 + 30);
    expect(apart(rig, fast, fast, 88, 1)).toBe(0);
    expect(place(fast, fast.frames - 1)).toEqual(place(fast, fast.frames - 30));
    const away = lane(sources, [clipOf('0', 0)], { place: [3, -2], heading: 90 }).clip;
    const [p, q] = [place(clip, 100), place(away, 100)];
    expect(q[0]).toBeCloseTo(p[2] + 3, 4);
    expect(q[2]).toBeCloseTo(-p[0] - 2, 4);
    expect(lane(sources, [clipOf('0', 2)], { pace: 2 }).clip.frames).toBe(60 + Math.floor((clip.frames - 1) / 2) + 1);
  });

  it('has as many frames as is told before it is played', () => {
    const sources = walksOf(81, { frames: 121 }, { frames: 150 });
    const pose = { 'left.upperArm': [0, 0, 70] as [number, number, number] };
    const cycles = sources.map((source, i) => ({ take: String(i), ...findCycle(source)!, value: i }));
    const mix = {
      cycles: cycles.map(({ take, from, to, value }) => ({ take, from, to, value })),
      keys: [{ at: 0, value: 0.3 }],
      seconds: 1.7,
    };
    const rng = random(81);
    for (let i = 0; i < 40; i++) {
      const kind = Math.floor(rng.next() * 4);
      const more = [
        { from: rng.next(), to: 1 + rng.next() * 2, rate: 0.4 + 2 * rng.next(), repeats: 1 + (i % 3), hold: rng.next() },
        { pose, hold: 0.2 + rng.next() },
        { mix },
        { reverse: true, closed: i % 2 === 0, travel: false },
      ][kind];
      const clips = [clipOf('0', rng.next(), more), clipOf('1', 0.5 + 2 * rng.next(), { rate: 0.7 + rng.next() })];
      const [fps, pace, shift] = [24 + Math.floor(60 * rng.next()), 0.6 + rng.next(), rng.next() - 0.5];
      const own = makeLane({ name: 'lane', character: 'body', clips, pace, shift });
      const made = playLane(sources[0].rig, own, fps, (take) => sources[Number(take)]);
      expect(laneFrames(own, fps, (take) => sources[Number(take)].clip))
        .withContext(`${i} ${kind}`)
        .toBe(made.clip.frames);
    }
  });

  it('depends on lanes that it touches by others, and on no more', () => {
    const touch = (a: number, b: number) =>
      makeReelTouch({ a: { lane: a, end: 'left.hand' }, b: { lane: b, end: 'left.hand' }, from: 0, to: 1 });
    const lanes = [0, 1, 2, 3, 4].map((i) => makeLane({ name: String(i), character: 'body', clips: [clipOf('0', i)] }));
    const about = aboutLane({ fps: 30, lanes, touches: [touch(3, 1), touch(4, 2), touch(0, 3)] }, 1);
    expect([about.lane, ...about.reel.lanes.map(({ name }) => name)]).toEqual([1, '0', '1', '3']);
    expect(about.reel.touches).toEqual([touch(2, 1), touch(0, 2)]);
    const off = lanes.map((one, i) => ({ ...one, on: i !== 3 }));
    expect(aboutLane({ fps: 30, lanes: off, touches: [touch(3, 1), touch(0, 3)] }, 1).reel.lanes.map(({ name }) => name)).toEqual(['1']);
  });

  it('refuses what is no reel, and what never ends', () => {
    expect(() => parseReel('{"format": "hollow-stride/reel"}', 'a.json')).toThrowError(/the reel cannot be used/);
    const sources = walksOf(52, {});
    expect(() => lane(sources, [clipOf('0', 0, { repeats: 200, rate: 0.05 })])).toThrowError(/at most/);
    expect(() => lane(sources, [])).toThrowError(/no clip/);
  });
});
