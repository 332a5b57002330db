import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { DEFAULT_PAIRING, DEFAULT_SKELETON, makeTouchUp, type TouchUp } from '../recipe';
import { prepareRig } from '../rig';
import { figureOf, makeFile, performerOf, randomShape, walk } from '../testing';
import { layTouchUps } from '../touchup';
import { DEFAULT_SOLVE, solve, type SolveSettings, type Transfer } from '.';

const FRAMES = 200;
const FPS = 60;

function walker(seed: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1 });
  const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: FRAMES, fps: FPS, crouch: 0.05 }));
  const character = prepareRig(makeFile(randomShape(seed + 60, { clavicles: true, spine: 3, spread: [0.8, 1.25] }), { axes: seed }));
  const pairing = makePairing(rig, character);
  const time = { frames: FRAMES, of: (frame: number): number => frame / FPS };
  const run = (list: readonly TouchUp[], settings: Partial<SolveSettings> = {}): Transfer =>
    solve(pairing, clip, { ...DEFAULT_SOLVE, ...settings }, { touchUps: layTouchUps(pairing, list, time) });
  return { pairing, run };
}

const placesOf = ({ pairing, clip }: Transfer, role: string): readonly number[][] => {
  const reader = new ClipReader(pairing.character.skeleton, clip);
  const j = pairing.character.roles.get(role)! * 3;
  return Array.from({ length: clip.frames }, (_, f) => [...reader.at(f).positions.slice(j, j + 3)]);
};

describe('another way over the floor', () => {
  const cases = [3, 4].map((seed) => ({ seed, ...walker(seed) }));

  it('that is turned all along turns everything: the same motion in another direction', () => {
    for (const { run } of cases) {
      const straight = run([]);
      const turned = run([makeTouchUp({ kind: 'heading', value: 90 })]);
      for (const role of ['hips', 'left.foot', 'right.hand', 'head']) {
        const [a, b] = [placesOf(straight, role), placesOf(turned, role)];
        const hips = placesOf(straight, 'hips')[0];
        const hips2 = placesOf(turned, 'hips')[0];
        for (let f = 0; f < FRAMES; f += 11) {
          // To the left by a right angle: what lay ahead lies to the left.
          const [x, y, z] = a[f].map((v, c) => v - hips[c]);
          [z, y, -x].forEach((v, c) =>
            expect(Math.abs(b[f][c] - hips2[c] - v))
              .withContext(`${role} ${f}`)
              .toBeLessThan(4e-3),
          );
        }
      }
      for (const id of ['held.feet', 'likeness.legs', 'likeness.arms'] as const) {
        expect(Math.abs(figureOf(turned, id) - figureOf(straight, id)))
          .withContext(id)
          .toBeLessThan(0.6);
      }
    }
  });

  it('that is keyed ends where it is sent, facing there, and feet hold on the way', () => {
    for (const { run, pairing } of cases) {
      const keys = [
        { at: 1, value: 0 },
        { at: 2.4, value: 60 },
      ];
      const bent = run([makeTouchUp({ kind: 'heading', value: 0, keys })]);
      const straight = run([]);
      const across = (transfer: Transfer): number => {
        const [l, r] = [placesOf(transfer, 'left.upperLeg')[FRAMES - 1], placesOf(transfer, 'right.upperLeg')[FRAMES - 1]];
        return Math.atan2(-(l[2] - r[2]), l[0] - r[0]);
      };
      const turn = ((across(bent) - across(straight)) * 180) / Math.PI;
      expect(Math.abs(((turn + 540) % 360) - 180 - 60)).toBeLessThan(2);
      expect(figureOf(bent, 'held.feet')).toBeGreaterThan(95);
      const aside = run([makeTouchUp({ kind: 'placeLeft', value: 50 })]);
      const [a, b] = [placesOf(aside, 'left.foot'), placesOf(straight, 'left.foot')];
      a.forEach((place, f) => {
        for (let c = 0; c < 3; c++) expect(place[c] - b[f][c]).toBeCloseTo(0.5 * pairing.performer.left[c], 3);
      });
    }
  });
});

describe('a longer way', () => {
  const cases = [3, 4].map((seed) => ({ seed, ...walker(seed) }));
  const wayOf = (places: readonly number[][], from: number, to: number): number =>
    Math.hypot(places[to][0] - places[from][0], places[to][2] - places[from][2]);

  it('is longer in the part of the take that is asked for, and as it was before and behind; feet hold', () => {
    for (const { seed, run } of cases) {
      const straight = run([]);
      const given = placesOf(straight, 'hips');
      for (const value of [-40, 25]) {
        const longer = run([makeTouchUp({ kind: 'travel', value, mask: { from: 1, to: 2, fade: 0 } })]);
        const went = placesOf(longer, 'hips');
        // A second and a third: the hips' own sway and what they give way by are small beside the way itself.
        expect(wayOf(went, 60, 120) / wayOf(given, 60, 120))
          .withContext(`${seed} ${value}`)
          .toBeCloseTo(1 + value / 100, 1);
        for (const [from, to] of [
          [0, 55],
          [130, 199],
        ]) {
          expect(wayOf(went, from, to) / wayOf(given, from, to))
            .withContext(`${seed} ${value} ${from}`)
            .toBeCloseTo(1, 1);
        }
        expect(figureOf(longer, 'held.feet')).withContext(`${seed} ${value}`).toBeGreaterThan(95);
        expect(figureOf(longer, 'slide'))
          .withContext(`${seed} ${value}`)
          .toBeLessThan(figureOf(straight, 'slide') + 2);
        expect(figureOf(longer, 'jumps')).withContext(`${seed} ${value}`).toBeLessThan(15);
      }
    }
  });

  it('is none where nothing is left of it, and the same where nothing is added', () => {
    const [{ run }] = cases;
    const stays = placesOf(run([makeTouchUp({ kind: 'travel', value: -100 })]), 'hips');
    expect(Math.max(...stays.map((place) => Math.hypot(place[0] - stays[0][0], place[2] - stays[0][2])))).toBeLessThan(0.12);
    expect(run([makeTouchUp({ kind: 'travel', value: 0 })]).clip.rotations).toEqual(run([]).clip.rotations);
  });
});

describe('settings of a solve', () => {
  const { pairing, run } = walker(8);

  it('let one leg go with the pose and hold the other', () => {
    const held = run([]);
    const free = run([], { follow: { ...DEFAULT_SOLVE.follow, leftLeg: 0 } });
    const plain = run([], { plain: true });
    const way = (transfer: Transfer, side: string): number => {
      const places = placesOf(transfer, `${side}.foot`);
      return Math.max(
        ...transfer.contacts.plants
          .filter((plant) => plant.side === side && plant.part === 'heel')
          .map(({ first, last }) => Math.hypot(...[0, 2].map((c) => places[last][c] - places[first][c]))),
      );
    };
    expect(way(held, 'left')).toBeLessThan(2e-3);
    expect(way(free, 'right')).toBeLessThan(2e-3);
    if (way(plain, 'left') > 0.01) expect(way(free, 'left')).toBeGreaterThan(0.5 * way(plain, 'left'));
  });

  it('take the weight over the feet as far as is asked, and not at all on the same body', () => {
    const hips = (transfer: Transfer): number[][] => placesOf(transfer, 'hips') as number[][];
    const [none, half, all] = [0, 0.5, 1].map((balance) => hips(run([], { balance })));
    const moved = (a: number[][]): number => Math.max(...a.map((place, f) => Math.hypot(place[0] - none[f][0], place[2] - none[f][2])));
    expect(moved(all)).toBeGreaterThan(1e-3);
    expect(moved(half)).toBeLessThan(moved(all));
    const shape = randomShape(8, { clavicles: true, spine: 2, neck: 1 });
    const { rig, clip } = performerOf(shape, walk(shape, { seed: 8, frames: 60, fps: FPS }));
    const twin = makePairing(rig, prepareRig(makeFile(shape, { axes: 3, names: (role) => `x_${role}` })));
    const [a, b] = [0, 1].map((balance) => hips(solve(twin, clip, { ...DEFAULT_SOLVE, balance })));
    a.forEach((place, f) => place.forEach((v, c) => expect(Math.abs(b[f][c] - v)).toBeLessThan(1e-4)));
  });

  it('carry shoulders, palms and thumbs by a share between their own rest and the performer’s', () => {
    const { performer } = pairing;
    const file = makeFile(randomShape(68, { clavicles: true, spine: 3 }));
    const character = prepareRig(file, 0, { ...DEFAULT_SKELETON, turns: { 'left.clavicle': [0, 0, 20] } });
    const joint = character.roles.get('left.clavicle')!;
    const at = (clavicles: number | 'keep' | 'match'): Float64Array =>
      makePairing(performer, character, { ...DEFAULT_PAIRING, clavicles }).match.pose.rotations.slice(joint * 4, joint * 4 + 4);
    const apart = (a: Float64Array, b: Float64Array): number =>
      2 * Math.acos(Math.min(1, Math.abs(a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3])));
    const [keep, match, quarter] = [at('keep'), at('match'), at(0.25)];
    expect(apart(keep, match)).toBeGreaterThan(0.02);
    expect(apart(keep, quarter)).toBeCloseTo(0.25 * apart(keep, match), 3);
    expect(at(0)).toEqual(keep);
    expect(apart(at(1), match)).toBeLessThan(1e-6);
  });
});
