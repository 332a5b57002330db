import { findContacts } from '../contact';
import { prepareRig } from '../rig';
import { ClipReader, type Clip } from '../clip';
import { makePairing } from '../match';
import { makeTouchUp } from '../recipe';
import { layTouchUps } from '../touchup';
import { smoothstep } from '../math/filter';
import { makeFile, performerOf, randomShape, reaching, walk, type Place, type Reach } from '../testing';
import { solve, solveWindow, DEFAULT_SOLVE } from '.';

describe('the solve of a window', () => {
  const shape = randomShape(21, { clavicles: true });
  const { rig, clip } = performerOf(shape, walk(shape, { seed: 4, frames: 400 }));
  const pairing = makePairing(rig, prepareRig(makeFile(randomShape(22))));
  const whole = solve(pairing, clip, DEFAULT_SOLVE);
  const contacts = findContacts(rig, clip);

  it('finds the same plants as the whole solve', () => {
    expect(contacts.plants).toEqual(whole.contacts.plants);
  });

  it('shows the frame that it is about as the whole solve does', () => {
    for (const frame of [0, 130, 262, 399]) {
      const { transfer, first } = solveWindow(pairing, clip, DEFAULT_SOLVE, contacts, { frame, around: 60 });
      const all = new ClipReader(pairing.character.skeleton, whole.clip).at(frame).positions.slice();
      const part = new ClipReader(pairing.character.skeleton, transfer.clip).at(frame - first).positions;
      let worst = 0;
      for (let i = 0; i < all.length; i++) worst = Math.max(worst, Math.abs(all[i] - part[i]));
      // The pelvis path is smoothed over the take's ends; a few millimetres are what a preview may differ by.
      expect(worst).withContext(`frame ${frame}`).toBeLessThan(0.02);
    }
  });

  it('shows touch-ups as they are in those frames', () => {
    const lean = makeTouchUp({ kind: 'lean', value: 12, mask: { from: 2, to: 3, fade: 0.2 } });
    const raised = makeTouchUp({ kind: 'hips', value: -6 });
    const time = { frames: clip.frames, of: (frame: number) => frame * clip.frameTime };
    const touchUps = layTouchUps(pairing, [lean, raised], time);
    const all = solve(pairing, clip, DEFAULT_SOLVE, { touchUps });
    const head = pairing.character.roles.get('head')! * 3;
    const placeOf = (motion: Clip, frame: number) =>
      new ClipReader(pairing.character.skeleton, motion).at(frame).positions.slice(head, head + 3);
    for (const frame of [60, 150, 262]) {
      const { transfer, first } = solveWindow(pairing, clip, DEFAULT_SOLVE, contacts, { frame, around: 60, touchUps });
      const [a, b, plain] = [placeOf(all.clip, frame), placeOf(transfer.clip, frame - first), placeOf(whole.clip, frame)];
      expect(Math.hypot(...[0, 1, 2].map((c) => a[c] - b[c])))
        .withContext(`frame ${frame}`)
        .toBeLessThan(0.02);
      expect(Math.hypot(...[0, 1, 2].map((c) => plain[c] - b[c]))).toBeGreaterThan(0.04);
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
    const hand = paired.character.roles.get('left.hand')! * 3;
    for (const frame of [40, 260, 300]) {
      const { transfer, first } = solveWindow(paired, performer.clip, DEFAULT_SOLVE, found, { frame, around: 30 });
      const [a, b] = [new ClipReader(paired.character.skeleton, all.clip), new ClipReader(paired.character.skeleton, transfer.clip)];
      const p = a.at(frame).positions.slice(hand, hand + 3);
      const q = b.at(frame - first).positions.slice(hand, hand + 3);
      expect(Math.hypot(...[0, 1, 2].map((c) => p[c] - q[c])))
        .withContext(`frame ${frame}`)
        .toBeLessThan(0.02);
    }
  });
});
