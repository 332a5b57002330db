import { findContacts } from '../contact';
import * as v from 'valibot';
import { ClipReader } from '../clip';
import { makePairing, type Pairing } from '../match';
import { makeTouchUp, TOUCH_UP_KINDS, touchUpSchema, type TouchUp } from '../recipe';
import { prepareRig } from '../rig';
import { DEFAULT_SOLVE, solve, SolveMemory } from '../solve';
import { makeFile, performerOf, randomShape, walk } from '../testing';
import { curveOf } from './curve';
import { layTouchUps } from './lay';

const FPS = 60;
const FRAMES = 180;

const touchUp = makeTouchUp;

/** A walker and a body of other proportions, with all fingers. */
function pairOf(seed: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 3, neck: 1, fingers: 5 });
  const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: FRAMES, fps: FPS, crouch: 0.04 }));
  const target = prepareRig(
    makeFile(randomShape(seed + 70, { clavicles: true, spine: 2, neck: 1, fingers: 5, spread: [0.8, 1.3] }), { axes: seed }),
  );
  const pairing = makePairing(rig, target);
  const time = { frames: FRAMES, of: (frame: number): number => frame / FPS };
  const run = (list: readonly TouchUp[], plain = false) =>
    new ClipReader(target.skeleton, solve(pairing, clip, { ...DEFAULT_SOLVE, plain }, { touchUps: layTouchUps(pairing, list, time) }).clip);
  return { pairing, clip, time, run };
}

type Reader = ClipReader;

/** Where a role's joint is in a frame, in the body's own axes: to its left, up, ahead; from another role's joint. */
function place(reader: Reader, { character, performer }: Pairing, role: string, frame: number, from?: string): number[] {
  const { positions } = reader.at(frame);
  const j = character.roles.get(role)! * 3;
  const o = from === undefined ? undefined : character.roles.get(from)! * 3;
  const d = [0, 1, 2].map((c) => positions[j + c] - (o === undefined ? 0 : positions[o + c]));
  const along = (axis: Float64Array): number => d[0] * axis[0] + d[1] * axis[1] + d[2] * axis[2];
  return [along(performer.left), d[1], along(performer.forward)];
}

function eachFrame(check: (frame: number) => void): void {
  for (let f = 0; f < FRAMES; f += 7) check(f);
}

function feetOf(reader: Reader, { character }: Pairing, frame: number): number[] {
  const { positions } = reader.at(frame);
  return character.feet.flatMap(({ foot }) => [...positions.slice(foot * 3, foot * 3 + 3)]);
}

const cases = [3, 4, 5].map((seed) => ({ seed, ...pairOf(seed) }));

describe('touch-ups', () => {
  it('of which nothing is laid on change no bit', () => {
    for (const { run } of cases) {
      const before = run([]);
      const none: Partial<TouchUp>[] = [{ on: false }, { strength: 0 }, { mask: { from: 500, to: 501, fade: 0 } }];
      const after = run(none.map((change) => touchUp({ kind: 'lean', value: 20, ...change })));
      expect(after.clip.rotations.every((x, i) => x === before.clip.rotations[i])).toBeTrue();
    }
  });

  it('of the upper body never move a foot', () => {
    for (const { seed, run, pairing } of cases) {
      const before = run([]);
      const above = [
        'shoulders',
        'shouldersAhead',
        'arms',
        'armsAhead',
        'elbows',
        'thumbs',
        'fingers',
        'lean',
        'leanAside',
        'trunk',
        'head',
        'headTurn',
        'headTilt',
      ] as const;
      for (const kind of above) {
        const after = run([touchUp({ kind, value: 17 })]);
        let changed = 0;
        eachFrame((f) => {
          expect(feetOf(after, pairing, f))
            .withContext(`${kind} of ${seed}`)
            .toEqual(feetOf(before, pairing, f));
          changed += Math.abs(after.at(f).rotations.reduce((s, x, i) => s + Math.abs(x - before.at(f).rotations[i]), 0));
        });
        expect(changed).withContext(`${kind} of ${seed} does something`).toBeGreaterThan(1);
      }
    }
  });

  it('raise shoulders, and arms keep their turn', () => {
    for (const { run, pairing } of cases) {
      const [before, after] = [run([], true), run([touchUp({ kind: 'shoulders', value: 20 })], true)];
      for (const side of ['left', 'right']) {
        const hand = pairing.character.roles.get(`${side}.hand`)! * 4;
        eachFrame((f) => {
          // The performer faces its own way the whole time; the trunk's sway leaves up for the most part up.
          const height = (reader: Reader): number => place(reader, pairing, `${side}.upperArm`, f, `${side}.clavicle`)[1];
          expect(height(after)).toBeGreaterThan(height(before) + 0.01);
          for (let c = 0; c < 4; c++) expect(after.at(f).rotations[hand + c]).toBeCloseTo(before.at(f).rotations[hand + c], 5);
        });
      }
    }
  });

  it('take elbows and knees out, and hands and feet stay', () => {
    for (const { run, pairing } of cases) {
      const before = run([], true);
      for (const [kind, top, mid, end] of [
        ['elbows', 'upperArm', 'lowerArm', 'hand'],
        ['knees', 'upperLeg', 'lowerLeg', 'foot'],
      ] as const) {
        const after = run([touchUp({ kind, value: 25, side: 'left' })], true);
        eachFrame((f) => {
          const [a, b] = [place(before, pairing, `left.${end}`, f, `left.${top}`), place(after, pairing, `left.${end}`, f, `left.${top}`)];
          a.forEach((x, c) => expect(b[c]).toBeCloseTo(x, 5));
          const [r, s] = [place(before, pairing, `right.${mid}`, f), place(after, pairing, `right.${mid}`, f)];
          expect(s).toEqual(r);
        });
        if (kind === 'knees')
          eachFrame((f) =>
            expect(place(after, pairing, 'left.lowerLeg', f)[0]).toBeGreaterThan(place(before, pairing, 'left.lowerLeg', f)[0]),
          );
      }
    }
  });

  it('let the hips down while planted feet stay', () => {
    for (const { run, pairing, clip } of cases) {
      const { plants } = findContacts(pairing.performer, clip);
      const [before, after] = [run([]), run([touchUp({ kind: 'hips', value: -8 })])];
      eachFrame((f) => {
        expect(place(after, pairing, 'hips', f)[1]).toBeLessThan(place(before, pairing, 'hips', f)[1] - 0.05);
        // A swing may follow the hips a little, a planted foot may not.
        const isPlanted = (side: string): boolean => plants.some((plant) => plant.side === side && plant.first <= f && plant.last >= f);
        feetOf(before, pairing, f).forEach((x, i) => {
          const side = pairing.character.feet[Math.floor(i / 3)].side;
          expect(Math.abs(feetOf(after, pairing, f)[i] - x)).toBeLessThan(isPlanted(side) ? 2e-4 : 0.015);
        });
      });
    }
  });

  it('curl fingers to the inside of the hand and open thumbs away from it, on both sides', () => {
    for (const { run, pairing } of cases) {
      const { roles } = pairing.character;
      const spread = (reader: Reader, side: string, a: string, b: string): number => {
        const { positions: P } = reader.at(40);
        return Math.hypot(...[0, 1, 2].map((c) => P[roles.get(`${side}.${a}`)! * 3 + c] - P[roles.get(`${side}.${b}`)! * 3 + c]));
      };
      const [before, curled, open] = [
        run([]),
        run([touchUp({ kind: 'fingers', value: 60 })]),
        run([touchUp({ kind: 'thumbs', value: 30 })]),
      ];
      for (const side of ['left', 'right']) {
        expect(spread(curled, side, 'middle.2', 'hand')).toBeLessThan(spread(before, side, 'middle.2', 'hand'));
        expect(spread(open, side, 'thumb.2', 'index.1')).toBeGreaterThan(spread(before, side, 'thumb.2', 'index.1'));
      }
    }
  });

  it('run only what follows from them', () => {
    const { pairing, clip, time } = cases[0];
    const memory = new SolveMemory();
    const keep = new Map<string, unknown>();
    const remember = <T>(name: string, from: readonly unknown[], make: () => T): T => {
      const key = name + JSON.stringify(from);
      if (!keep.has(key)) keep.set(key, make());
      return keep.get(key) as T;
    };
    const contacts = solve(pairing, clip).contacts;
    const stages = (list: readonly TouchUp[]): string[] => {
      const ran: string[] = [];
      const touchUps = layTouchUps(pairing, list, time, remember);
      solve(pairing, clip, DEFAULT_SOLVE, { memory, contacts, touchUps, onStage: (stage) => ran.push(stage) });
      return ran;
    };
    const knees = touchUp({ kind: 'knees', value: 10 });
    stages([knees]);
    for (const forbidden of ['pose', 'bearing', 'root', 'limbs', 'feet', 'pelvis', 'legs']) {
      expect(stages([knees, touchUp({ kind: 'shoulders', value: forbidden.length })])).not.toContain(forbidden);
    }
    expect(stages([touchUp({ kind: 'knees', value: 11 })])).toContain('legs');
  });
});

describe('amounts of a touch-up over time', () => {
  const at = (change: Partial<TouchUp>): number[] => [...curveOf(touchUp({ kind: 'head', ...change }), 11, (f) => f / 10)];

  it('are those of its keys at its keys, and go from the one to the other', () => {
    const keys = [
      { at: 0.8, value: -20 },
      { at: 0.2, value: 10 },
    ];
    const smooth = at({ keys });
    expect(smooth[0]).toBe(10);
    expect(smooth[2]).toBe(10);
    expect(smooth[5]).toBeCloseTo(-5, 9);
    expect(smooth[8]).toBeCloseTo(-20, 9);
    expect(smooth[10]).toBe(-20);
    expect(at({ keys, ease: 'even' })[3]).toBeCloseTo(5, 9);
    expect(at({ keys, ease: 'step' })[7]).toBe(10);
    expect(at({ keys, strength: 0.5 })[2]).toBe(5);
  });

  it('fade at the edges of a mask', () => {
    const masked = at({ value: 8, mask: { from: 0.4, to: 0.6, fade: 0.2 } });
    expect(masked.slice(4, 7)).toEqual([8, 8, 8]);
    expect(masked[3]).toBeCloseTo(4, 9);
    expect(masked[2]).toBe(0);
    expect(masked[9]).toBe(0);
  });

  it('are refused beyond what a body can do, and a joint without a name', () => {
    for (const kind of TOUCH_UP_KINDS.filter((k) => k !== 'joint')) {
      expect(v.safeParse(touchUpSchema, { kind, value: 1001 }).success).toBeFalse();
      expect(v.safeParse(touchUpSchema, { kind, value: 1, role: 'hips' }).success).toBeFalse();
    }
    expect(v.safeParse(touchUpSchema, { kind: 'joint', value: 1 }).success).toBeFalse();
    expect(v.safeParse(touchUpSchema, { kind: 'joint', value: 1, role: 'left.hand' }).success).toBeTrue();
  });
});
