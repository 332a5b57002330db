import { ClipReader, type Clip } from '../clip';
import { findContacts, type Contacts } from '../contact';
import { makePairing, type Pairing } from '../match';
import { fromAxisAngle, identity, rotate } from '../math/quat';
import { smootherstep } from '../math/filter';
import { random } from '../math/random';
import { prepareRig, type Rig } from '../rig';
import { pointInWorld } from '../skeleton';
import { figureOf, judged, makeFile, performerOf, randomShape, Rebuild, type Motion, type Shape } from '../testing';
import { solve, type Transfer } from './solve';
import { goOnToes } from './toes';

const FPS = 60;
const FRAMES = 180;

/** Stands, and rises onto its toes and down again: the toes lie flat, their joint stays where it is. @param noise metres on the hips */
function rise(shape: Shape, noise: number, seed: number): Motion {
  const count = shape.joints.length;
  const rng = random(seed);
  const turns = new Float64Array(FRAMES * count * 4);
  const hips = new Float64Array(FRAMES * 3);
  const [at, toes] = [shape.joints[0].offset, shape.joints.find(({ role }) => role === 'left.toes')!.offset];
  const q = new Float64Array(4);
  const lifted = new Float64Array(3);
  for (let f = 0; f < FRAMES; f++) {
    const up = smootherstep((f - 40) / 40) - smootherstep((f - 110) / 40);
    fromAxisAngle(q, 0, 1, 0, 0, (up * 40 * Math.PI) / 180);
    rotate(lifted, 0, q, 0, Float64Array.from(toes), 0);
    for (let c = 0; c < 3; c++) hips[f * 3 + c] = at[c] + (c === 0 ? 0 : toes[c] - lifted[c]) + noise * rng.normal();
    shape.joints.forEach(({ role }, j) => {
      if (role.endsWith('.foot')) turns.set(q, (f * count + j) * 4);
      else identity(turns, (f * count + j) * 4);
    });
  }
  return { frames: FRAMES, frameTime: 1 / FPS, turns, hips };
}

/** How far the joint and the tip of the left toes go over the frames of a clip, metres. */
function ways({ skeleton, feet }: Rig, clip: Clip): { joint: number; tip: number } {
  const reader = new ClipReader(skeleton, clip);
  const foot = feet.find(({ side }) => side === 'left')!;
  const places = Array.from({ length: clip.frames }, (_, f) => {
    const pose = reader.at(f);
    const [joint, tip] = [pose.positions.slice(foot.toes * 3, foot.toes * 3 + 3), new Float64Array(3)];
    pointInWorld(tip, 0, pose, foot.toes, foot.tip, 0);
    return { joint, tip };
  });
  const most = (part: 'joint' | 'tip'): number =>
    Math.max(...places.map((place) => Math.hypot(...place[part].map((v, c) => v - places[0][part][c]))));
  return { joint: most('joint'), tip: most('tip') };
}

describe('a foot that rolls over its toes', () => {
  function risen(seed: number, noise = 0): { pairing: Pairing; clip: Clip; contacts: Contacts } {
    const shape = randomShape(seed, { clavicles: true });
    const { rig, clip } = performerOf(shape, rise(shape, noise, seed));
    // A character in thick soles: the ball lies well under the joint of the toes.
    const body = new Rebuild(randomShape(seed + 30, { clavicles: true, spread: [0.7, 1.4] })).shift('hips', [0, 0.04, 0]).shape();
    return { pairing: makePairing(rig, prepareRig(makeFile(body, { axes: seed }))), clip, contacts: findContacts(rig, clip) };
  }

  it('turns about their joint, and their tip stays where it is', () => {
    for (const seed of [1, 2, 3, 4, 5, 6]) {
      const { pairing, clip, contacts } = risen(seed);
      const balls = contacts.plants.filter(({ part }) => part === 'ball');
      expect(balls.length).withContext(`plants of ${seed}`).toBe(2);
      for (const { rolls } of balls) expect(rolls).withContext(`rolls of ${seed}`).toBeGreaterThan(0.9);
      const transfer = solve(pairing, clip);
      const { joint, tip } = ways(pairing.character, transfer.clip);
      expect(joint).withContext(`joint of ${seed}`).toBeLessThan(0.003);
      expect(tip).withContext(`tip of ${seed}`).toBeLessThan(0.003);
      expect(figureOf(transfer, 'sink')).withContext(`sink of ${seed}`).toBeLessThan(5);
      // Turned about the ball under thick soles instead, the toes creep over the floor, and the judge sees it.
      const plants = contacts.plants.map(({ rolls: _rolls, tips: _tips, ...plant }) => plant);
      const faulty = solve(pairing, clip, undefined, { contacts: { ...contacts, plants } });
      expect(ways(pairing.character, faulty.clip).tip).withContext(`fault of ${seed}`).toBeGreaterThan(0.01);
      const lost = (one: Transfer): number =>
        judged(one).rests.reduce((sum, rest) => sum + (rest.name.endsWith('toe tip') ? rest.lost : 0), 0);
      expect(lost(transfer)).withContext(`lost of ${seed}`).toBe(0);
      expect(lost(faulty)).withContext(`lost of ${seed}, faulty`).toBeGreaterThan(0.5);
    }
  });

  it('does so in the noise of a capture', () => {
    for (const seed of [1, 2, 3, 4]) {
      const { pairing, clip } = risen(seed, 0.0004);
      const { joint, tip } = ways(pairing.character, solve(pairing, clip).clip);
      expect(joint).withContext(`joint of ${seed}`).toBeLessThan(0.004);
      expect(tip).withContext(`tip of ${seed}`).toBeLessThan(0.004);
    }
  });
});

describe('toes that were shown otherwise than they are found', () => {
  const OFF = 0.4;
  const shown = Float64Array.of(0, 0, 0, 1);
  fromAxisAngle(shown, 0, 1, 0, 0, OFF);
  const found = (frames: number): Float64Array => {
    const out = new Float64Array(frames * 4);
    for (let f = 0; f < frames; f++) identity(out, f * 4);
    return out;
  };
  const angles = (turns: Float64Array): number[] =>
    Array.from({ length: turns.length / 4 }, (_, f) => 2 * Math.atan2(turns[f * 4], turns[f * 4 + 3]));

  it('come over without a jump, at any rate as fast', () => {
    for (const fps of [30, 60, 120]) {
      const turns = found(fps);
      goOnToes(turns, shown, 4, 1 / fps);
      const now = angles(turns);
      // What is final stays as it is.
      expect(now.slice(0, 4)).toEqual([0, 0, 0, 0]);
      for (let f = 4; f < fps; f++)
        expect(now[f])
          .withContext(`${fps}, ${f}`)
          .toBeCloseTo(OFF * Math.exp(-(f - 3) / fps / 0.05), 9);
    }
  });

  it('go the same way whether it is found at once or frame by frame', () => {
    const once = found(60);
    goOnToes(once, shown, 1, 1 / 60);
    const last = shown.slice();
    for (let f = 1; f < 60; f++) {
      const turns = found(60);
      goOnToes(turns, last, f, 1 / 60);
      last.set(turns.subarray(f * 4, f * 4 + 4));
      expect(angles(last)[0]).withContext(`${f}`).toBeCloseTo(angles(once)[f], 9);
    }
  });
});
