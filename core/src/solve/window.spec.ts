import { findContacts } from '../contact';
import { prepareRig } from '../rig';
import { ClipReader } from '../clip';
import { makePairing } from '../match';
import { makeFile, performerOf, randomShape, walk } from '../testing';
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
