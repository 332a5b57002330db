import { DEFAULT_DETECTION } from '../recipe';
import { performerOf, randomShape, walk, type WalkOptions } from '../testing';
import { DEG, sin, cos } from '../math/trig';
import { editPlants } from './edits';
import { findContacts } from './index';
import { slopeInDegrees, slopeOf } from './slope';

describe('a floor that slopes', () => {
  const walking = (seed: number, options: WalkOptions) => {
    const shape = randomShape(seed);
    return performerOf(shape, walk(shape, { seed, frames: 360, heading: 47 * seed, crouch: 0.1, ...options }));
  };

  it('is found from the rests of the feet: how steep, and toward where', () => {
    for (const slope of [0.06, 0.15, 0.3, -0.2]) {
      for (const seed of [1, 2, 3, 4]) {
        const { rig, clip } = walking(seed, { slope, roll: seed % 2 ? 25 : 0, noise: 0.0008 });
        const { ground } = findContacts(rig, clip);
        const context = `${slope} of ${seed}`;
        expect(ground).withContext(context).toBeDefined();
        const ahead = [sin(47 * seed * DEG) * slope, cos(47 * seed * DEG) * slope];
        expect(ground!.x).withContext(context).toBeCloseTo(ahead[0], 1.7);
        expect(ground!.z).withContext(context).toBeCloseTo(ahead[1], 1.7);
      }
    }
  });

  it('holds the feet in the frames in which a level one would', () => {
    for (const seed of [2, 5, 8]) {
      const level = walking(seed, {});
      const rising = walking(seed, { slope: 0.2 });
      const spans = ({ rig, clip }: typeof level): Map<string, number> => {
        const out = new Map<string, number>();
        for (const { side, part, first, last } of findContacts(rig, clip).plants)
          for (let f = first; f <= last; f++) out.set(`${side} ${part} ${f}`, 1);
        return out;
      };
      const [flat, steep] = [spans(level), spans(rising)];
      const shared = [...flat.keys()].filter((key) => steep.has(key)).length;
      expect(shared / Math.max(flat.size, steep.size))
        .withContext(`seed ${seed}`)
        .toBeGreaterThan(0.93);
    }
  });

  it('is no stair, and no level floor', () => {
    for (const seed of [1, 2, 3, 4, 5, 6]) {
      for (const options of [{}, { climb: 0.16 }, { climb: 0.07, noise: 0.001 }, { pace: 0.1 }]) {
        const { rig, clip } = walking(seed, options);
        expect(findContacts(rig, clip).ground)
          .withContext(`${seed} ${JSON.stringify(options)}`)
          .toBeUndefined();
      }
    }
  });

  it('may be set by hand, level too, and a height with it', () => {
    const { rig, clip } = walking(3, { slope: 0.2 });
    const found = findContacts(rig, clip);
    const slope = slopeInDegrees(found.ground!);
    expect(slope.degrees).toBeCloseTo(11.3, 0);
    const set = findContacts(rig, clip, { ...DEFAULT_DETECTION, slope });
    expect(set.plants.map(({ first, last }) => [first, last])).toEqual(found.plants.map(({ first, last }) => [first, last]));
    const level = findContacts(rig, clip, { ...DEFAULT_DETECTION, slope: { degrees: 0, toward: 0 } });
    expect(level.ground).toBeUndefined();
    const sunk = findContacts(rig, clip, { ...DEFAULT_DETECTION, slope, floor: found.floor - 0.2 });
    for (const [i, { height = 0 }] of sunk.plants.entries()) expect(height - found.plants[i].height!).toBeCloseTo(0.2, 2);
    // A height alone leaves the slope to be found.
    const raised = findContacts(rig, clip, { ...DEFAULT_DETECTION, floor: found.floor - 0.02 });
    expect(raised.floor).toBe(found.floor - 0.02);
    expect(raised.ground!.z).toBeCloseTo(found.ground!.z, 2);
    expect(slopeOf(DEFAULT_DETECTION)).toBeUndefined();
  });

  it('carries a plant that a person adds at its own height there', () => {
    const { rig, clip } = walking(4, { slope: 0.2 });
    const found = findContacts(rig, clip);
    const { side, part, first, last, height } = found.plants.find((plant) => plant.height! > 0.2)!;
    const span = { side, part, from: first, to: last };
    const frames = (seconds: number): number => seconds;
    const without = editPlants(found, [{ kind: 'remove', ...span, height: null }], frames, clip.frames);
    const again = editPlants(without, [{ kind: 'add', ...span, height: null }], frames, clip.frames);
    expect(again.plants.find((plant) => plant.side === side && plant.part === part && plant.first === first)!.height).toBeCloseTo(
      height!,
      2,
    );
  });
});
