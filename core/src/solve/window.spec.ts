import { findContacts } from '../contact';
import { prepareRig } from '../rig';
import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { makeTouchUp } from '../recipe';
import { layTouchUps } from '../touchup';
import { smoothstep } from '../math/filter';
import {
  makeFile,
  performerOf,
  randomShape,
  reaching,
  walk,
  type Place,
  type Reach,
  type ShapeOptions,
  type WalkOptions,
} from '../testing';
import { solve, solveWindow, DEFAULT_SOLVE, type Transfer } from '.';

/** A preview is where the whole solve is to within this, metres. */
const SAME = 0.001;

/** How far the joints of a frame are apart in a solve of a window and in one of the whole take, metres. */
function apart(whole: Transfer, { transfer, first }: { transfer: Transfer; first: number }, frame: number): number {
  const { skeleton } = whole.pairing.character;
  const a = new ClipReader(skeleton, whole.clip).at(frame).positions.slice();
  const b = new ClipReader(skeleton, transfer.clip).at(frame - first).positions;
  return a.reduce((worst, x, i) => Math.max(worst, Math.abs(x - b[i])), 0);
}

describe('the solve of a window', () => {
  const shape = randomShape(21, { clavicles: true });
  const { rig, clip } = performerOf(shape, walk(shape, { seed: 4, frames: 700, noise: 0.002, roll: 25, crouch: 0.05 }));
  const pairing = makePairing(rig, prepareRig(makeFile(randomShape(22))));
  const whole = solve(pairing, clip, DEFAULT_SOLVE);
  const contacts = findContacts(rig, clip);

  it('shows the frame that it is about as the whole solve does: level, uphill, on stairs, with stiff feet, and while feet creep', () => {
    const walks: readonly (readonly [string, WalkOptions, ShapeOptions?])[] = [
      ['level', { roll: 25, noise: 0.002 }],
      ['slope', { slope: 0.15, crouch: 0.12, noise: 0.001 }],
      ['stairs', { climb: 0.1, crouch: 0.15, roll: 15 }],
      ['stiff feet and no clavicles', { roll: 20, noise: 0.001 }, { toes: false, clavicles: false, spine: 1 }],
      ['creeping', { pace: 0.3, roll: 15 }],
      ['on the spot', { pace: 0, noise: 0.001 }],
    ];
    let crept = 0;
    walks.forEach(([name, options, body], i) => {
      for (const seed of [31, 32]) {
        const shape = randomShape(seed, { clavicles: true });
        const performer = performerOf(shape, walk(shape, { seed, frames: 700, ...options }));
        const paired = makePairing(performer.rig, prepareRig(makeFile(randomShape(seed + 7 * i, { spread: [0.7, 1.4], ...body }))));
        const all = solve(paired, performer.clip);
        crept += all.contacts.plants.reduce((sum, { creep }) => sum + creep!.before.length + creep!.after.length, 0);
        for (const frame of [0, 203, 350, 411, 699]) {
          const part = solveWindow(paired, performer.clip, DEFAULT_SOLVE, all.contacts, { frame, around: 24 });
          expect(apart(all, part, frame))
            .withContext(`${name}, ${seed}, frame ${frame}`)
            .toBeLessThan(SAME);
        }
      }
    });
    expect(crept).toBeGreaterThan(500);
  });

  it('shows a body that is sent another way where the whole solve has it', () => {
    const time = { frames: clip.frames, of: (frame: number) => frame * clip.frameTime };
    const touchUps = layTouchUps(
      pairing,
      [makeTouchUp({ kind: 'heading', value: 70, mask: { from: 1, to: 9, fade: 0.5 } }), makeTouchUp({ kind: 'travel', value: 12 })],
      time,
    );
    const all = solve(pairing, clip, DEFAULT_SOLVE, { touchUps });
    expect(apart(all, { transfer: whole, first: 0 }, 400)).toBeGreaterThan(0.5);
    for (const frame of [60, 380, 640]) {
      const part = solveWindow(pairing, clip, DEFAULT_SOLVE, contacts, { frame, around: 24, touchUps });
      expect(apart(all, part, frame))
        .withContext(`frame ${frame}`)
        .toBeLessThan(SAME);
    }
  });

  it('shows touch-ups as they are in those frames', () => {
    const lean = makeTouchUp({ kind: 'lean', value: 12, mask: { from: 2, to: 3, fade: 0.2 } });
    const raised = makeTouchUp({ kind: 'hips', value: -6 });
    const time = { frames: clip.frames, of: (frame: number) => frame * clip.frameTime };
    const touchUps = layTouchUps(pairing, [lean, raised], time);
    const all = solve(pairing, clip, DEFAULT_SOLVE, { touchUps });
    for (const frame of [60, 150, 262]) {
      const part = solveWindow(pairing, clip, DEFAULT_SOLVE, contacts, { frame, around: 24, touchUps });
      expect(apart(all, part, frame))
        .withContext(`frame ${frame}`)
        .toBeLessThan(SAME);
      expect(apart(whole, part, frame)).toBeGreaterThan(0.04);
    }
  });

  it('holds a hand where the whole solve does, wherever in the take it rests', () => {
    const stand = walk(shape, { seed: 5, frames: 400, pace: 0, crouch: 0.05 });
    for (let f = 0; f < 400; f++) stand.hips[f * 3] += 0.03 * Math.sin(f / 25);
    const rests: Reach = (f, shoulder, arm) => {
      const there = smoothstep((f - 200) / 40) * (1 - smoothstep((f - 340) / 40));
      const hanging = [shoulder[0], shoulder[1] - 0.9 * arm, shoulder[2] + 0.2 * arm];
      return hanging.map((x, c) => x + ([0.25, 1.2, 0.3][c] - x) * there) as unknown as Place;
    };
    const performer = performerOf(shape, reaching(shape, stand, { left: rests }));
    const paired = makePairing(performer.rig, pairing.character);
    const all = solve(paired, performer.clip);
    const found = findContacts(performer.rig, performer.clip);
    expect(found.hands!.touches.some(({ first, last }) => first > 180 && last > 300)).toBeTrue();
    for (const frame of [40, 260, 300]) {
      const part = solveWindow(paired, performer.clip, DEFAULT_SOLVE, found, { frame, around: 24 });
      expect(apart(all, part, frame))
        .withContext(`frame ${frame}`)
        .toBeLessThan(SAME);
    }
  });
});
