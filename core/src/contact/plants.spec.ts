import { random } from '../math/random';
import { DEFAULT_DETECTION, type Detection } from '../recipe';
import { findPlants } from './plants';
import { emptyTrack, type ProbeTrack } from './probes';

const FPS = 100;

function put(places: Float64Array, frame: number, ...place: [x: number, y: number, z: number]): void {
  places.set(place, frame * 3);
}

/** Probes of a foot that steps: down, up and over, down again; heel and ball alike. */
function stepping(frames: number, noise: number, seed = 1): ProbeTrack {
  const rng = random(seed);
  const foot = emptyTrack('left', frames);
  for (let f = 0; f < frames; f++) {
    const cycle = Math.floor(f / 100);
    const u = (f % 100) / 100;
    const e = u < 0.6 ? 0 : (u - 0.6) / 0.4;
    const z = cycle * 0.7 + 0.7 * e * e * (3 - 2 * e);
    const y = 0.12 * Math.sin(Math.PI * e) ** 2;
    for (const [part, ahead] of [
      ['heel', -0.05],
      ['ball', 0.13],
      ['tip', 0.2],
    ] as const) {
      put(foot[part], f, 0.1 + noise * rng.normal(), 0.02 + y + noise * rng.normal(), z + ahead + noise * rng.normal());
    }
  }
  return foot;
}

describe('plants', () => {
  it('are found more readily, or less, as a person sets', () => {
    const held = (detection: Partial<Detection>): number =>
      findPlants([stepping(400, 0.001)], 400, 1 / FPS, 0.9, { ...DEFAULT_DETECTION, ...detection }).plants.reduce(
        (sum, { first, last }) => sum + last - first + 1,
        0,
      );
    expect(held({ feetHeight: 2, feetSpeed: 2 })).toBeGreaterThan(held({}));
    expect(held({ feetSpeed: 0.2 })).toBeLessThan(held({}));
  });

  it('stand on the floor that a person sets: what rests above it stands on something as high', () => {
    const track = [stepping(400, 0.0005)];
    const found = findPlants(track, 400, 1 / FPS, 0.9);
    const low = findPlants(track, 400, 1 / FPS, 0.9, { ...DEFAULT_DETECTION, floor: found.floor - 0.25 });
    expect(low.floor).toBe(found.floor - 0.25);
    expect(low.plants.length).toBeGreaterThan(4);
    for (const { height = 0 } of low.plants) expect(height).toBeCloseTo(0.25, 2);
    expect(found.plants.every(({ height = 0 }) => height === 0)).toBeTrue();
  });

  it('finds each stance, and the floor, through noise', () => {
    for (const noise of [0, 0.0005, 0.002]) {
      const { plants, floor } = findPlants([stepping(400, noise)], 400, 1 / FPS, 0.9);
      expect(floor).withContext(`noise ${noise}`).toBeCloseTo(0.02, 2);
      for (const part of ['heel', 'ball']) {
        const own = plants.filter((p) => p.part === part);
        expect(own.length).withContext(`noise ${noise} ${part}`).toBe(4);
        own.forEach((p, i) => {
          expect(p.first).toBeGreaterThanOrEqual(i * 100 - 8);
          expect(p.first).toBeLessThanOrEqual(i * 100 + 4);
          expect(p.last).toBeGreaterThanOrEqual(i * 100 + 55);
          expect(p.last).toBeLessThanOrEqual(i * 100 + 70);
        });
      }
    }
  });

  it('keeps not one moving frame of a foot that stands perfectly still', () => {
    const { plants } = findPlants([stepping(300, 0)], 300, 1 / FPS, 0.9);
    const foot = stepping(300, 0);
    for (const { first, last, part } of plants) {
      for (let f = first; f <= last; f++) expect(foot[part][f * 3 + 2]).toBeCloseTo(foot[part][(first + 3) * 3 + 2], 4);
    }
  });

  it('keeps a foot that creeps a little in one plant, and gives one that creeps far the time to move', () => {
    /** A foot that stands, creeps to the side in the middle second, and stands again. */
    const creeping = (way: number): ProbeTrack => {
      const foot = emptyTrack('left', 300);
      for (let f = 0; f < 300; f++) foot.ball[f * 3] = way * Math.min(1, Math.max(0, (f - 100) / 100));
      return foot;
    };
    const balls = (way: number) => findPlants([creeping(way)], 300, 1 / FPS, 0.9).plants.filter((p) => p.part === 'ball');
    expect(balls(0.06).length).toBe(1);
    const far = balls(0.2);
    expect(far.length).toBeGreaterThan(1);
    for (let i = 1; i < far.length; i++) {
      const { ball } = creeping(0.2);
      const at = (f: number): number => ball[f * 3];
      const middle = (p: { first: number; last: number }): number => at((p.first + p.last) >> 1);
      const seconds = (far[i].first - far[i - 1].last) / FPS;
      expect(Math.abs(middle(far[i]) - middle(far[i - 1])) / seconds).toBeLessThan(1.5);
    }
  });

  it('does not take a step for a rest that is as low and as slow as a knee’s on all fours', () => {
    const rng = random(5);
    const foot = emptyTrack('left', 220);
    // Nearly as fast all the way.
    const way = (f: number): number => 0.3 * Math.min(1, Math.max(0, (f - 60) / 80));
    for (let f = 0; f < 220; f++) {
      for (const part of ['heel', 'ball'] as const) {
        put(foot[part], f, 5e-4 * rng.normal(), 0.02 * Math.sin((Math.PI * way(f)) / 0.3) + 5e-4 * rng.normal(), way(f));
      }
    }
    const { plants } = findPlants([foot], 220, 1 / FPS, 0.9);
    expect(plants.length).toBe(4);
    for (const { part, first, last } of plants) {
      const rests = way(first) < 0.15 ? 0 : 0.3;
      for (let f = first; f <= last; f++)
        expect(Math.abs(way(f) - rests))
          .withContext(`${part} ${f}`)
          .toBeLessThan(0.03);
    }
  });

  it('finds a ball that rolls from the moment it stands to the moment it goes, where it is stillest', () => {
    const foot = emptyTrack('left', 200);
    // Comes down, turns aside ever faster over its stand of a seventh of a second, and is gone.
    for (let f = 0; f < 200; f++) {
      const u = f - 100;
      const away = u < 0 ? -0.03 * u : u > 14 ? 0.03 * (u - 14) : 0;
      const aside = u < 0 ? 0 : 0.0000003 * Math.min(u, 14) ** 4;
      put(foot.ball, f, aside, away, 0.5 * away);
      put(foot.heel, f, 0, 0.3, 0.05 * f);
    }
    const { plants } = findPlants([foot], 200, 1 / FPS, 0.9, { ...DEFAULT_DETECTION, floor: 0 });
    const balls = plants.filter(({ part, height = 0 }) => part === 'ball' && height === 0);
    expect(balls.length).toBe(1);
    expect(balls[0].first).toBeGreaterThanOrEqual(98);
    expect(balls[0].last).toBeLessThanOrEqual(113);
    expect(balls[0].last - balls[0].first).toBeGreaterThanOrEqual(5);
  });

  it('gives a foot time between a stand on the floor and one on something just behind it', () => {
    const foot = emptyTrack('left', 300);
    for (let f = 0; f < 300; f++) for (const part of ['heel', 'ball'] as const) put(foot[part], f, 0, f < 150 ? 0 : 0.08, 0);
    const { plants } = findPlants([foot], 300, 1 / FPS, 0.9);
    const heels = plants.filter(({ part }) => part === 'heel');
    expect(heels.length).toBe(2);
    expect(heels[1].height).toBeCloseTo(0.08, 2);
    expect((heels[1].first - heels[0].last) / FPS).toBeGreaterThan(0.08 / (0.9 * 0.9));
  });

  it('finds none on a foot in the air, and all of one that never moves', () => {
    expect(findPlants([emptyTrack('right', 50)], 50, 1 / FPS, 0.9).plants.map((p) => [p.first, p.last])).toEqual([
      [0, 49],
      [0, 49],
    ]);
    const flying = stepping(200, 0);
    for (let f = 0; f < 200; f++) flying.heel[f * 3 + 2] = f * 0.05;
    expect(findPlants([flying], 200, 1 / FPS, 0.9).plants.some((p) => p.part === 'heel')).toBeFalse();
    expect(findPlants([], 0, 1 / FPS, 0.9)).toEqual(jasmine.objectContaining({ plants: [], floor: 0 }));
  });
});

describe('plants above the floor', () => {
  /** A foot that climbs: a step up each second, still between, level or on a slope. */
  const climbing = (noise: number, slope = 0): ProbeTrack => {
    const rng = random(2);
    const foot = emptyTrack('left', 500);
    for (let f = 0; f < 500; f++) {
      const step = Math.floor(f / 100);
      const u = Math.max(0, ((f % 100) - 60) / 40);
      const e = u * u * u * (u * (6 * u - 15) + 10);
      for (const [part, ahead] of [
        ['heel', 0],
        ['ball', 0.18],
        ['tip', 0.25],
      ] as const) {
        const y = 0.2 * (step + e) + slope * ahead + 0.05 * Math.sin(Math.PI * e);
        put(foot[part], f, noise * rng.normal(), y + noise * rng.normal(), 0.3 * (step + e) + ahead + noise * rng.normal());
      }
    }
    return foot;
  };

  it('are found on each step at its own height, through noise', () => {
    for (const noise of [0, 0.0005, 0.001]) {
      const { plants, floor } = findPlants([climbing(noise)], 500, 1 / FPS, 0.9);
      const heels = plants.filter(({ part }) => part === 'heel');
      expect(heels.length).withContext(`noise ${noise}`).toBe(5);
      expect(floor).toBeCloseTo(0, 2);
      heels.forEach(({ first, last, height = 0 }, i) => {
        expect(height)
          .withContext(`step ${i}`)
          .toBeCloseTo(0.2 * i, 2);
        expect(first).toBeLessThanOrEqual(i * 100 + 8);
        expect(last).toBeGreaterThanOrEqual(i * 100 + 55);
        expect(last).toBeLessThan(i * 100 + 72);
      });
    }
  });

  it('are not made of what drifts on slowly in its swing, as a toe does that is held up while the heel comes down', () => {
    const drifting = (speed: number): number => {
      const foot = emptyTrack('left', 300);
      for (let f = 0; f < 300; f++) {
        // A quarter of a second at 12 cm, between two stands.
        const up = Math.max(0, Math.min(1, (f - 100) / 20, (170 - f) / 20));
        put(foot.ball, f, 0, 0.12 * up, (speed / FPS) * Math.min(Math.max(f - 100, 0), 70));
        put(foot.heel, f, 0, 0.12 * up, (speed / FPS) * Math.min(Math.max(f - 100, 0), 70));
      }
      return findPlants([foot], 300, 1 / FPS, 0.9).plants.filter(({ part, height = 0 }) => part === 'ball' && height > 0.1).length;
    };
    expect(drifting(0)).toBe(1);
    expect(drifting(0.09)).toBe(0);
  });

  it('are not made of what only slows down at the top of its swing', () => {
    const foot = emptyTrack('left', 400);
    for (let f = 0; f < 400; f++) {
      const t = (f % 100) / 100;
      for (const part of ['heel', 'ball'] as const) put(foot[part], f, 0, 0.35 * Math.sin(Math.PI * t) ** 2, Math.floor(f / 100) + t);
    }
    expect(findPlants([foot], 400, 1 / FPS, 0.9).plants.filter(({ height = 0 }) => height > 0)).toEqual([]);
  });
});

describe('what comes behind a plant', () => {
  it('is followed while it is slow, by the probe’s own way from where it rests', () => {
    // Stands for a second, creeps for a third of one, and is gone.
    const foot = emptyTrack('left', 200);
    const way = (f: number): number => (f < 100 ? 0 : f < 133 ? 0.0006 * (f - 100) : 0.0198 + 0.02 * (f - 133));
    for (let f = 0; f < 200; f++) foot.ball[f * 3 + 2] = way(f);
    const { plants } = findPlants([foot], 200, 1 / FPS, 0.9);
    const [ball] = plants.filter(({ part }) => part === 'ball');
    const { before, after } = ball.creep!;
    expect([before.length, ball.first]).toEqual([0, 0]);
    expect(ball.last + after.length / 3).toBeGreaterThan(125);
    expect(ball.last + after.length / 3).toBeLessThan(136);
    for (let k = 0; k < after.length / 3; k++) {
      expect(after[k * 3 + 2]).toBeCloseTo(way(ball.last + 1 + k) - way(ball.last), 9);
    }
  });
});
