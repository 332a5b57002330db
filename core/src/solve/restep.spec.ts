import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { makeTouchUp, type TouchUp } from '../recipe';
import { prepareRig } from '../rig';
import { figureOf, makeFile, performerOf, randomShape, walk } from '../testing';
import { layTouchUps } from '../touchup';
import { DEFAULT_SOLVE, solve, type Transfer } from '.';

const FRAMES = 220;
const FPS = 60;

function walker(seed: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 2 });
  const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: FRAMES, fps: FPS, crouch: 0.06 }));
  const pairing = makePairing(rig, prepareRig(makeFile(randomShape(seed + 40, { clavicles: true, spread: [0.85, 1.2] }))));
  const time = { frames: FRAMES, of: (frame: number): number => frame / FPS };
  const run = (list: readonly TouchUp[]): Transfer => solve(pairing, clip, DEFAULT_SOLVE, { touchUps: layTouchUps(pairing, list, time) });
  return { run, pairing };
}

/** Place and heading of a foot over the floor. */
function footAt({ pairing, clip }: Transfer, side: string, frame: number): { x: number; z: number; hx: number; hz: number } {
  const { positions } = new ClipReader(pairing.character.skeleton, clip).at(frame);
  const [foot, toes] = ['foot', 'toes'].map((part) => pairing.character.roles.get(`${side}.${part}`)! * 3);
  const [dx, dz] = [positions[toes] - positions[foot], positions[toes + 2] - positions[foot + 2]];
  const n = Math.hypot(dx, dz);
  return { x: positions[foot], z: positions[foot + 2], hx: dx / n, hz: dz / n };
}

/** The middle of the longest heel plant of a side that has neighbours. */
function standOf({ contacts }: Transfer, side: string): { first: number; last: number } {
  const own = contacts.plants.filter(
    (plant) => plant.side === side && plant.part === 'heel' && plant.first > 20 && plant.last < FRAMES - 20,
  );
  return own.sort((a, b) => b.last - b.first - (a.last - a.first))[0];
}

describe('steps that a person moves', () => {
  for (const seed of [21, 22, 23]) {
    const { run } = walker(seed);
    const before = run([]);

    it(`stand where they are put, as long as they stand, and no other step moves (body ${seed})`, () => {
      const stand = standOf(before, 'left');
      const mask = { from: (stand.first - 2) / FPS, to: (stand.last + 2) / FPS, fade: 0 };
      const after = run([
        makeTouchUp({ kind: 'stepsOut', side: 'left', value: 4, mask }),
        makeTouchUp({ kind: 'stepsAhead', side: 'left', value: 6, mask }),
      ]);
      for (const frame of [stand.first + 1, (stand.first + stand.last) >> 1, stand.last - 1]) {
        const [a, b] = [footAt(before, 'left', frame), footAt(after, 'left', frame)];
        const [dx, dz] = [b.x - a.x, b.z - a.z];
        expect(dx * a.hx + dz * a.hz).toBeCloseTo(0.06, 2);
        // Out is to the left of a left foot: facing +Z that is +X.
        expect(dx * a.hz - dz * a.hx).toBeCloseTo(0.04, 2);
      }
      const others = before.contacts.plants.filter(
        ({ side, part, first, last }) => part === 'heel' && (side !== 'left' || last < stand.first || first > stand.last),
      );
      for (const { side, first, last } of others) {
        const frame = (first + last) >> 1;
        const [a, b] = [footAt(before, side, frame), footAt(after, side, frame)];
        expect(Math.hypot(b.x - a.x, b.z - a.z))
          .withContext(`${side} ${first}`)
          .toBeLessThan(1e-3);
      }
      expect(figureOf(after, 'held.feet')).toBeGreaterThan(97);
      expect(figureOf(after, 'slide')).toBeLessThan(2);
    });

    it(`turn about their own middle, the mirror image on the other side (body ${seed})`, () => {
      const after = run([makeTouchUp({ kind: 'stepsTurned', value: 20 })]);
      for (const [side, way] of [
        ['left', 1],
        ['right', -1],
      ] as const) {
        const { first, last } = standOf(before, side);
        const flat = before.contacts.plants.find(
          (plant) => plant.side === side && plant.part === 'ball' && plant.first < last && plant.last > first,
        )!;
        const frame = (Math.max(first, flat.first) + Math.min(last, flat.last)) >> 1;
        const [a, b] = [footAt(before, side, frame), footAt(after, side, frame)];
        const turn = (Math.atan2(b.hx * a.hz - b.hz * a.hx, b.hx * a.hx + b.hz * a.hz) * 180) / Math.PI;
        expect(turn * way)
          .withContext(side)
          .toBeGreaterThan(18);
        expect(turn * way)
          .withContext(side)
          .toBeLessThan(22);
      }
      expect(figureOf(after, 'held.feet')).toBeGreaterThan(97);
    });
  }
});
