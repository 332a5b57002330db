import { ClipReader, type Clip } from '../clip';
import { findContacts } from '../contact';
import { unrotate } from '../math/quat';
import { makePairing, sharedProps, type Pairing } from '../match';
import { DEFAULT_PAIRING, makeTouchUp } from '../recipe';
import { layTouchUps } from '../touchup';
import { pointInWorld } from '../skeleton';
import { carrying, CRATE, figureOf, makeFile, randomShape, rigWithCrate, withCrate } from '../testing';
import { DEFAULT_SOLVE, solve, type Transfer } from '.';

const SEEDS = [1, 2, 3];
const shapeOf = (seed: number) => randomShape(seed, { clavicles: true, spine: 2, neck: 1, spread: [0.95, 1.05] });
const otherOf = (seed: number) => randomShape(seed + 40, { clavicles: true, spine: 3, neck: 1, spread: [0.85, 1.2] });

function pairOf(seed: number, props: number | null = null): { pairing: Pairing; clip: Clip; transfer: Transfer } {
  const { rig, clip } = carrying(shapeOf(seed), seed);
  const pairing = makePairing(rig, rigWithCrate(makeFile(withCrate(otherOf(seed)), { axes: seed })), { ...DEFAULT_PAIRING, props });
  return { pairing, clip, transfer: solve(pairing, clip) };
}

/** Palms of the character seen from its crate, and the crate's own way, 3 a frame. */
function seen({ character }: Pairing, { clip }: Transfer): { palms: Float64Array[]; crate: Float64Array } {
  const joint = character.roles.get(CRATE.role)!;
  const reader = new ClipReader(character.skeleton, clip);
  const crate = new Float64Array(clip.frames * 3);
  const palms = character.hands.map(() => new Float64Array(clip.frames * 3));
  for (let f = 0; f < clip.frames; f++) {
    const pose = reader.at(f);
    for (let c = 0; c < 3; c++) crate[f * 3 + c] = pose.positions[joint * 3 + c];
    character.hands.forEach(({ hand, palm }, k) => {
      pointInWorld(palms[k], f * 3, pose, hand, palm, 0);
      for (let c = 0; c < 3; c++) palms[k][f * 3 + c] -= crate[f * 3 + c];
      unrotate(palms[k], f * 3, pose.rotations, joint * 4, palms[k], f * 3);
    });
  }
  return { palms, crate };
}

/** The farthest that places go from the first of some frames. */
function way(places: Float64Array, first: number, last: number): number {
  let most = 0;
  for (let f = first; f <= last; f++) most = Math.max(most, Math.hypot(...[0, 1, 2].map((c) => places[f * 3 + c] - places[first * 3 + c])));
  return most;
}

/** From the crate's middle while it is carried. */
const size = (palm: Float64Array): number => Math.hypot(...palm.subarray(450, 453));

describe('a thing that the performer carries', () => {
  const [taken, left] = CRATE.held;
  const [from, to] = CRATE.moved;

  it('is seen to be held by both hands, and to rest before and after', () => {
    for (const seed of SEEDS) {
      const { rig, clip } = carrying(shapeOf(seed), seed);
      const { hands } = findContacts(rig, clip);
      const holds = hands!.touches.filter(({ on }) => on === 'prop');
      for (const side of ['left', 'right']) {
        const [hold, ...more] = holds.filter((touch) => touch.side === side);
        expect(more).withContext(`${seed} ${side}`).toEqual([]);
        expect(Math.abs(hold.first - taken))
          .withContext(`${seed} ${side} from ${hold.first}`)
          .toBeLessThan(12);
        expect(Math.abs(hold.last - left))
          .withContext(`${seed} ${side} to ${hold.last}`)
          .toBeLessThan(12);
      }
      // A hand on a thing neither rests of its own nor meets the other.
      expect(hands!.touches.some(({ on, first, last }) => on !== 'prop' && first < left - 15 && last > taken + 15)).toBeFalse();
      const [crate] = hands!.props!;
      expect(crate.rests[0].last).toBeLessThan(from + 15);
      expect(crate.rests.at(-1)!.first).toBeGreaterThan(to - 15);
    }
  });

  it('stays in the hands of another body, at the width that it has, and where it is put down', () => {
    for (const seed of SEEDS) {
      const { pairing, transfer } = pairOf(seed);
      const { palms, crate } = seen(pairing, transfer);
      palms.forEach((palm, k) => {
        expect(way(palm, taken + 12, left - 12))
          .withContext(`${seed}: palm ${k}`)
          .toBeLessThan(0.006);
        expect(size(palm)).withContext(`${seed}: palm ${k} from the middle`).toBeCloseTo(0.199, 2);
      });
      expect(way(crate, 0, from - 4))
        .withContext(`${seed}: before`)
        .toBeLessThan(0.002);
      expect(way(crate, to + 4, CRATE.frames - 1))
        .withContext(`${seed}: after`)
        .toBeLessThan(0.002);
      expect(way(crate, from, from + 40))
        .withContext(`${seed}: lifted`)
        .toBeGreaterThan(0.1);
      expect(figureOf(transfer, 'grip')).withContext(`${seed}`).toBeLessThan(6);
      expect(figureOf(transfer, 'parting')).toBeLessThan(1);
    }
  });

  it('is as large as is said', () => {
    const { pairing, transfer } = pairOf(1, 0.7);
    const { palms } = seen(pairing, transfer);
    for (const palm of palms) expect(size(palm)).toBeCloseTo(0.7 * 0.199, 2);
    expect(figureOf(transfer, 'grip')).toBeLessThan(6);
  });

  it('stays where it rests though the body is steered another way', () => {
    const { pairing, clip } = pairOf(1);
    const turned = makeTouchUp({ kind: 'heading', value: 40, mask: { from: 1.5, to: 3.5, fade: 0.5 } });
    const time = { frames: clip.frames, of: (frame: number) => frame * clip.frameTime };
    const { crate } = seen(pairing, solve(pairing, clip, DEFAULT_SOLVE, { touchUps: layTouchUps(pairing, [turned], time) }));
    expect(way(crate, 0, from - 4)).toBeLessThan(0.002);
    expect(way(crate, to + 4, CRATE.frames - 1)).toBeLessThan(0.002);
    expect(way(crate, from, from + 40)).toBeGreaterThan(0.1);
  });

  it('that slips is seen by the judge', () => {
    const { pairing, transfer } = pairOf(2);
    const joint = pairing.character.roles.get(CRATE.role)!;
    const moves = transfer.clip.moves.map((track) =>
      track.joint === joint ? { joint, values: track.values.map((v, i) => v + 0.03 * Math.sin(i / 60)) } : track,
    );
    expect(figureOf({ ...transfer, clip: { ...transfer.clip, moves } }, 'grip')).toBeGreaterThan(20);
  });

  it('is held as wide by hands of a body that has no such thing', () => {
    const { rig, clip } = carrying(shapeOf(3), 3);
    const file = makeFile(otherOf(3), { axes: 3 });
    const pairing = makePairing(rig, rigWithCrate(makeFile(withCrate(otherOf(3)), { axes: 3 })));
    const bare = makePairing(rig, rigWithCrate(file));
    expect(sharedProps(bare)).toEqual([]);
    expect(solve(bare, clip).clip.moves.length).toBe(solve(pairing, clip).clip.moves.length - 1);
    const between = (one: Pairing): number => {
      const pose = new ClipReader(one.character.skeleton, solve(one, clip).clip).at(150);
      const v = new Float64Array(6);
      one.character.hands.forEach(({ hand, palm }, k) => pointInWorld(v, k * 3, pose, hand, palm, 0));
      return Math.hypot(v[0] - v[3], v[1] - v[4], v[2] - v[5]);
    };
    expect(between(bare)).toBeCloseTo(between(pairing), 3);
  });

  it('goes its own way, scaled, in a plain transfer, and is not moved by what takes travel out but by the travel', () => {
    const { pairing, clip, transfer } = pairOf(1);
    const plain = seen(pairing, solve(pairing, clip, { ...DEFAULT_SOLVE, plain: true })).crate;
    const theirs = clip.moves.at(-1)!.values;
    for (const f of [0, 150, 299]) expect(plain[f * 3]).toBeCloseTo(pairing.scale.stride * theirs[f * 3], 6);
    const still = seen(pairing, solve(pairing, clip, { ...DEFAULT_SOLVE, inPlace: true }));
    const going = seen(pairing, transfer);
    still.palms.forEach((palm, k) => {
      for (let i = 150 * 3; i < 153 * 3; i++) expect(palm[i]).toBeCloseTo(going.palms[k][i], 4);
    });
  });
});
