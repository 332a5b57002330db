import { clipOf, prepareBody } from '../body';
import { ClipReader } from '../clip/clip';
import { makePairing } from '../match';
import { makeFile, randomShape, walk } from '../testing';
import { contactsOf, solve, solveWindow, DEFAULT_SOLVE } from '.';

describe('the solve of a window', () => {
  const shape = randomShape(21, { clavicles: true });
  const pairing = makePairing(
    prepareBody(makeFile(shape, {}, walk(shape, { seed: 4, frames: 400 }))),
    prepareBody(makeFile(randomShape(22))),
  );
  const clip = clipOf(pairing.performer);
  const whole = solve(pairing, clip, DEFAULT_SOLVE);
  const contacts = contactsOf(pairing, clip);

  it('finds the same plants as the whole solve', () => {
    expect(contacts.plants).toEqual(whole.contacts.plants);
  });

  it('shows the frame that it is about as the whole solve does', () => {
    for (const frame of [0, 130, 262, 399]) {
      const { transfer, first } = solveWindow(pairing, clip, DEFAULT_SOLVE, contacts, frame, 60);
      const all = new ClipReader(pairing.character.skeleton, whole.clip).at(frame).positions.slice();
      const part = new ClipReader(pairing.character.skeleton, transfer.clip).at(frame - first).positions;
      let worst = 0;
      for (let i = 0; i < all.length; i++) worst = Math.max(worst, Math.abs(all[i] - part[i]));
      // The pelvis path is smoothed over the take's ends; a few millimetres are what a preview may differ by.
      expect(worst).withContext(`frame ${frame}`).toBeLessThan(0.02);
    }
  });
});
