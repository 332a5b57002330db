import { ClipReader } from '../clip';
import { findContacts } from '../contact';
import { makePairing } from '../match';
import { fromAxisAngle, invMul, mul } from '../math/quat';
import { DEFAULT_SKELETON } from '../recipe';
import { clipOf, prepareRig, type Rig } from '../rig';
import { pointInWorld } from '../skeleton';
import { figureOf, judged, makeFile, performerOf, randomShape, reaching, walk, type Reach } from '../testing';
import { DEFAULT_SOLVE, solve, type Transfer } from '.';

const FRAMES = 160;

/** A body that lies on its back, swaying a little, its hands on the floor beside it where that is asked for, on another of other proportions. */
function lying(seed: number, down = false) {
  const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
  const standing = walk(shape, { seed, frames: FRAMES, fps: 60, pace: 0, noise: 3e-4 });
  const back = new Float64Array(4);
  fromAxisAngle(back, 0, 1, 0, 0, -Math.PI / 2);
  const turns = standing.turns.slice();
  for (let i = 0; i < turns.length; i += 4) mul(turns, i, back, 0, turns, i);
  const leg = Math.hypot(...shape.joints.find(({ role }) => role === 'left.lowerLeg')!.offset);
  const hips = standing.hips.map((v, i) => (i % 3 === 1 ? 0.26 * leg + 0.1 * (v - standing.hips[1]) : v));
  // A take that lies all along says nothing of which way is up.
  const beside =
    (s: number): Reach =>
    (_, [x, , z], arm) => [x + s * 0.9 * arm, 0.03 * leg, z];
  const motion = reaching(shape, { ...standing, turns, hips }, down ? { left: beside(1), right: beside(-1) } : {});
  const file = makeFile(shape, {}, motion);
  const rig = prepareRig(file, 0, { ...DEFAULT_SKELETON, up: '+Y' });
  const clip = clipOf(file, rig);
  const character = prepareRig(
    makeFile(randomShape(seed + 20, { clavicles: true, spine: 3, neck: 1, spread: [0.7, 1.4] }), { axes: seed }),
  );
  const pairing = makePairing(rig, character);
  return { rig, clip, pairing, laid: solve(pairing, clip), plain: solve(pairing, clip, { ...DEFAULT_SOLVE, plain: true }) };
}

/** A body without a mesh may be as much thinner than others as its performer is, whose heels lie as deep as its back. */
const THINNEST = 0.5;

/** How far the lowest of knees, seat and back is over the floor with its thickness, frame by frame. */
function lowest({ bulk, skeleton }: Rig, { clip, floor }: Transfer): number[] {
  const reader = new ClipReader(skeleton, clip);
  return Array.from({ length: clip.frames }, (_, f) => {
    const { positions } = reader.at(f);
    return Math.min(
      ...bulk.map(
        ({ middle, radius }) => middle.reduce((sum, j) => sum + positions[j * 3 + 1] / middle.length, 0) - THINNEST * radius - floor,
      ),
    );
  });
}

describe('a body on the floor', () => {
  const cases = [1, 2, 3, 4].map((seed) => ({ seed, ...lying(seed) }));

  it('is found to rest on its seat, and only while it is there', () => {
    for (const { rig, clip, seed } of cases) {
      const { body } = findContacts(rig, clip);
      const rested = body!.rests.filter(({ part }) => part === 'seat').reduce((sum, { first, last }) => sum + last - first + 1, 0);
      expect(rested)
        .withContext(`${seed}`)
        .toBeGreaterThan(0.9 * FRAMES);
      const standing = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
      const upright = performerOf(standing, walk(standing, { seed, frames: 60, fps: 60 }));
      expect(findContacts(upright.rig, upright.clip).body?.rests.filter(({ part }) => part === 'seat') ?? []).toEqual([]);
    }
  });

  it('lies on it with its own thickness, whatever its legs are, and stays there', () => {
    for (const { pairing, laid, seed } of cases) {
      const { character } = pairing;
      for (const height of lowest(character, laid)) {
        expect(height)
          .withContext(`${seed}`)
          .toBeGreaterThan(-0.03 * character.legLength);
        expect(height)
          .withContext(`${seed}`)
          .toBeLessThan(0.08 * character.legLength);
      }
      expect(figureOf(laid, 'held.body')).toBeGreaterThan(95);
    }
  });

  it('is not moved where nothing of it comes near the floor, to the bit', () => {
    const shape = randomShape(9, { clavicles: true, spine: 2 });
    const { rig, clip } = performerOf(shape, walk(shape, { seed: 9, frames: 90, fps: 60 }));
    const pairing = makePairing(rig, prepareRig(makeFile(randomShape(29, { spine: 2 }))));
    const contacts = findContacts(rig, clip);
    const with_ = solve(pairing, clip, DEFAULT_SOLVE, { contacts });
    const without = solve(pairing, clip, DEFAULT_SOLVE, { contacts: { ...contacts, body: undefined } });
    expect(with_.clip.moves).toEqual(without.clip.moves);
  });

  it('is judged to have sunk where it is not laid', () => {
    // Of those whose own legs are shorter than its thickness asks for.
    const sunk = cases.filter(({ plain }) => figureOf(plain, 'sink') > 30);
    expect(sunk.length).toBeGreaterThan(0);
    for (const { laid, plain } of sunk) expect(figureOf(laid, 'sink', judged(laid))).toBeLessThan(0.5 * figureOf(plain, 'sink'));
  });

  it('goes from one knee to both, and on to the other, without a jump of the hips', () => {
    for (const { rig, clip, pairing, seed } of cases) {
      const contacts = findContacts(rig, clip);
      const rests = [
        { part: 'left.knee', first: 20, last: 90 },
        { part: 'right.knee', first: 60, last: 140 },
      ] as const;
      // The right one drifts, so that they do not agree where both rest.
      const places = new Map(contacts.body!.places);
      places.set(
        'right.knee',
        places.get('right.knee')!.map((v, i) => v + (i % 3 === 2 ? 0.002 * (i / 3) : 0)),
      );
      const body = { ...contacts.body!, rests, places };
      const { clip: laid } = solve(pairing, clip, DEFAULT_SOLVE, { contacts: { ...contacts, body } });
      const { values } = laid.moves.find(({ joint }) => joint === pairing.character.carrier)!;
      for (let i = 3; i + 3 < values.length; i++)
        expect(Math.abs(values[i - 3] - 2 * values[i] + values[i + 3]))
          .withContext(`${seed}, number ${i}`)
          .toBeLessThan(0.004);
    }
  });
});

describe('hands on the floor beside a body', () => {
  const down = [1, 3, 4, 5].map((seed) => ({ seed, ...lying(seed, true) }));

  it('lie on it where the performer’s do, and stay there', () => {
    for (const { pairing, clip, rig, laid, seed } of down) {
      const contacts = findContacts(rig, clip);
      const rests = contacts.hands!.touches.filter(({ on, first, last }) => on === 'rest' && last - first > 0.9 * FRAMES);
      expect(rests.length).withContext(`rests of ${seed}`).toBe(2);
      const { character } = pairing;
      const reader = new ClipReader(character.skeleton, laid.clip);
      const palm = new Float64Array(3);
      for (const { hand, palm: local } of character.hands) {
        const pose = reader.at(FRAMES >> 1);
        pointInWorld(palm, 0, pose, hand, local, 0);
        expect(palm[1] - laid.floor)
          .withContext(`palm of ${seed}`)
          .toBeLessThan(0.08 * character.legLength);
        expect(palm[1] - laid.floor)
          .withContext(`palm of ${seed}`)
          .toBeGreaterThan(-0.005);
      }
      expect(figureOf(laid, 'held.hands')).withContext(`${seed}`).toBeGreaterThan(95);
    }
  });

  it('are judged to hover where they rest on air, with the body or alone', () => {
    for (const { laid, pairing, seed } of down) {
      expect(figureOf(laid, 'hover')).withContext(`${seed}`).toBeLessThan(30);
      const [{ joint, values }] = laid.clip.moves;
      const raised = values.map((v, i) => (i % 3 === 1 ? v + 0.2 : v));
      const hovers = judged({ ...laid, clip: { ...laid.clip, moves: [{ joint, values: raised }, ...laid.clip.moves.slice(1)] } });
      expect(hovers.figures.find(({ id }) => id === 'hover')!.mark)
        .withContext(`${seed}`)
        .toBe('fault');
      // One hand that is lifted, all else as it was.
      const { skeleton, roles } = pairing.character;
      const rotations = laid.clip.rotations.slice();
      const arm = roles.get('left.upperArm')!;
      const q = new Float64Array(4);
      const reader = new ClipReader(skeleton, laid.clip);
      for (let f = 0; f < FRAMES; f++) {
        const pose = reader.at(f);
        const o = (f * skeleton.parents.length + arm) * 4;
        fromAxisAngle(q, 0, 0, 0, 1, 0.5);
        mul(q, 0, q, 0, pose.rotations, arm * 4);
        invMul(rotations, o, pose.rotations, skeleton.parents[arm] * 4, q, 0);
      }
      const lifted = judged({ ...laid, clip: { ...laid.clip, rotations } }).figures.find(({ id }) => id === 'hover')!;
      expect(lifted.mark).withContext(`${lifted.words}, ${seed}`).toBe('fault');
      expect(lifted.words).toContain('left palm');
    }
  });
});
