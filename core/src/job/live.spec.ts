import { ClipReader, type Clip } from '../clip';
import { FaultError } from '../errors';
import type { MotionFile } from '../formats';
import { sendable, type Sendable, type StreamFrame } from '../live';
import { random } from '../math/random';
import { DEFAULT_RECIPE, type Recipe } from '../recipe';
import { makeFile, randomShape, walk, type WalkOptions } from '../testing';
import { judgeTransfer, prepare, solveReady, type Ready } from './job';
import { LiveTransfer, type TransferredFrame } from './live';

interface Streamed {
  readonly file: MotionFile;
  readonly take: Sendable;
  readonly character: MotionFile;
}

/** A walker that is sent, and another body to go onto. */
function streamed(seed: number, options: WalkOptions): Streamed {
  const shape = randomShape(seed, { spine: 3, neck: 1, clavicles: true });
  const file = makeFile(shape, { metres: 0.01 }, walk(shape, { seed, ...options }));
  return {
    file,
    take: sendable(file, 0, { name: 'walker', session: `session-${seed}`, metres: 0.01 }),
    character: makeFile(randomShape(seed + 1, { spine: 2, neck: 1, clavicles: true, spread: [0.75, 1.35] }), { axes: seed }),
  };
}

/** All frames of a stream, transferred as they come: so many at once, some of them never. */
function transferred(
  { take, character }: Streamed,
  { atOnce = 1, isLost = () => false }: { atOnce?: number; isLost?: (number: number) => boolean } = {},
): { frames: TransferredFrame[]; live: LiveTransfer } {
  const live = new LiveTransfer(take.opening, character, DEFAULT_RECIPE);
  const frames: TransferredFrame[] = [];
  for (let number = 0; number < take.frames; number++) {
    if (!isLost(number)) live.push(take.frame(number));
    if (number % atOnce === 0) frames.push(...live.solve());
  }
  frames.push(...live.solve(true));
  return { frames, live };
}

/** The same take solved afterwards, and the live frames as a clip beside it. */
function beside({ file, character }: Streamed, frames: readonly TransferredFrame[]): { ready: Ready; live: Clip } {
  const ready = prepare({
    take: file,
    clip: 0,
    character,
    recipe: { ...DEFAULT_RECIPE, performer: { ...DEFAULT_RECIPE.performer, unit: 0.01 } },
  });
  const rotations = Float32Array.from(frames.flatMap((frame) => [...frame.rotations]));
  const moves = frames[0].moves.map(({ joint }, i) => ({
    joint,
    values: Float32Array.from(frames.flatMap((frame) => [...frame.moves[i].place])),
  }));
  return { ready, live: { name: 'live', frameTime: ready.take.frameTime, frames: frames.length, rotations, moves } };
}

const faultsOf = (ready: Ready, clip: Clip): string[] =>
  judgeTransfer(ready, { ...solveReady(ready), clip })
    .figures.filter(({ mark }) => mark === 'fault')
    .map(({ id, value, frame }) => `${id} ${value.toFixed(1)} in ${frame}`);

describe('a stream that is transferred live', () => {
  it('is without a fault where the same take solved afterwards is, whatever the bodies, noise and rate', () => {
    for (const [seed, atOnce, options] of [
      [811, 2, {}],
      [821, 1, { noise: 0.002, roll: 20 }],
      [831, 3, { fps: 120, frames: 480, roll: 25, heading: 130 }],
      [841, 2, { pace: 0.6, crouch: 0.06, noise: 0.001 }],
    ] as const) {
      const given = streamed(seed, options);
      const { frames } = transferred(given, { atOnce });
      expect(frames.map(({ number }) => number)).toEqual(Array.from({ length: given.take.frames }, (_, i) => i));
      const { ready, live } = beside(given, frames);
      expect(faultsOf(ready, solveReady(ready).clip))
        .withContext(`${seed} afterwards`)
        .toEqual([]);
      expect(faultsOf(ready, live)).withContext(`${seed} live`).toEqual([]);
    }
  });

  it('keeps what stands in one place for as long as it stands, measured from the file that was sent and the frames that came out', () => {
    for (const seed of [851, 852, 853]) {
      const given = streamed(seed, {});
      const { frames } = transferred(given, { atOnce: 3 });
      const { ready, live } = beside(given, frames);
      const places = (role: 'left.foot' | 'right.foot', of: 'character' | 'performer'): number[][] => {
        const reader = new ClipReader(ready[of].skeleton, of === 'character' ? live : ready.take);
        const joint = ready[of].roles.get(role)! * 3;
        return Array.from({ length: live.frames }, (_, f) => [...reader.at(f).positions.slice(joint, joint + 3)]);
      };
      const way = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((v, c) => v - b[c]));
      let stances = 0;
      let worst = 0;
      for (const role of ['left.foot', 'right.foot'] as const) {
        const [mine, theirs] = [places(role, 'character'), places(role, 'performer')];
        for (let first = 62, last = first; first < live.frames; first = last + 1) {
          last = first;
          while (last + 1 < live.frames && way(theirs[last + 1], theirs[first]) < 1e-4) last++;
          // Landing takes a few frames; from then on nothing moves.
          if (last - first < 20) continue;
          stances++;
          for (let f = first + 6; f <= last; f++) worst = Math.max(worst, way(mine[f], mine[last]));
        }
      }
      expect(stances).withContext(`${seed}`).toBeGreaterThan(3);
      expect(worst).withContext(`${seed}`).toBeLessThan(5e-4);
    }
  });

  it('says each frame once and never again, however many come at once', () => {
    const given = streamed(861, {});
    for (const atOnce of [2, 7, 23]) {
      const { frames } = transferred(given, { atOnce });
      expect(frames.map(({ number }) => number)).toEqual(Array.from({ length: given.take.frames }, (_, i) => i));
      const { ready, live } = beside(given, frames);
      expect(faultsOf(ready, live)).withContext(`${atOnce} at once`).toEqual([]);
    }
  });

  it('waits for a twentieth of a second, and no longer', () => {
    const { take, character } = streamed(871, { frames: 120 });
    const live = new LiveTransfer(take.opening, character, DEFAULT_RECIPE);
    let latest = -1;
    for (let number = 0; number < 120; number++) {
      live.push(take.frame(number));
      latest = Math.max(latest, ...live.solve().map((frame) => frame.number));
      expect(latest).toBe(number < 59 ? -1 : number - 3);
    }
  });

  it('bridges a short gap, begins anew after a long one, and counts what it could not bridge', () => {
    const given = streamed(881, { frames: 300 });
    const bridged = transferred(given, { atOnce: 3, isLost: (n) => n > 100 && n <= 108 });
    expect(bridged.live.lost).toEqual({ gaps: 0, frames: 0 });
    expect(bridged.frames.map(({ number }) => number)).toEqual(Array.from({ length: 300 }, (_, i) => i));
    const anew = transferred(given, { atOnce: 3, isLost: (n) => n > 100 && n <= 160 });
    expect(anew.live.lost).toEqual({ gaps: 1, frames: 60 });
    const numbers = anew.frames.map(({ number }) => number);
    expect(new Set(numbers).size).toBe(numbers.length);
    expect(numbers).toContain(161);
    expect(numbers.some((number) => number > 100 && number <= 160)).toBeFalse();
    expect(numbers.at(-1)).toBe(299);
  });

  it('stays finite through frames of noise alone', () => {
    const { take, character } = streamed(891, { frames: 90 });
    const chance = random(891);
    const wild = (frame: StreamFrame): StreamFrame => {
      const turns = frame.turns.map(() => chance.normal());
      for (let i = 0; i < turns.length; i += 4) {
        const size = Math.hypot(turns[i], turns[i + 1], turns[i + 2], turns[i + 3]);
        for (let c = 0; c < 4; c++) turns[i + c] /= size;
      }
      return { ...frame, turns, place: frame.place.map((v) => v + 50 * chance.normal()) };
    };
    const live = new LiveTransfer(take.opening, character, DEFAULT_RECIPE);
    for (let number = 0; number < 90; number++) {
      live.push(number < 65 ? take.frame(number) : wild(take.frame(number)));
      for (const { rotations, moves } of live.solve()) {
        expect(rotations.every(Number.isFinite) && moves.every(({ place }) => place.every(Number.isFinite)))
          .withContext(`frame ${number}`)
          .toBeTrue();
      }
    }
  });

  it('says so where it cannot be: a pairing joint by joint, a stream that is no body', () => {
    const { take, character } = streamed(901, { frames: 70 });
    const byJoint = { ...DEFAULT_RECIPE, pairing: { ...DEFAULT_RECIPE.pairing, byJoint: { scheme: [] } } } as unknown as Recipe;
    const codeOf = (act: () => unknown): string => {
      try {
        act();
      } catch (error) {
        return error instanceof FaultError ? error.fault.code : String(error);
      }
      return 'none';
    };
    expect(codeOf(() => new LiveTransfer(take.opening, character, byJoint))).toBe('option');
    const rope = { ...take.opening, joints: take.opening.joints.map((joint, j) => ({ ...joint, parent: j - 1 })) };
    const live = new LiveTransfer(rope, character, DEFAULT_RECIPE);
    const code = codeOf(() => {
      for (let number = 0; number < 70; number++) live.push(take.frame(number));
    });
    expect(code).toMatch(/^label\//);
  });
});
