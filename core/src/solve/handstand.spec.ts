import { carryingHands, findContacts } from '../contact';
import { makePairing } from '../match';
import { smoothstep } from '../math/filter';
import { fromAxisAngle, mul, rotate } from '../math/quat';
import { prepareRig } from '../rig';
import { figureOf, judged, makeFile, performerOf, randomShape, reaching, walk, type Reach } from '../testing';
import { solve } from './solve';

const FRAMES = 300;
/** Upside down, from 0 to 1: over by the one frame, and back from the other. */
const overAt = (f: number): number => smoothstep((f - 70) / 50) * (1 - smoothstep((f - 190) / 50));
const downAt = (f: number): number => smoothstep((f - 90) / 30) * (1 - smoothstep((f - 190) / 30));

/** Someone who stands, goes over ahead onto both hands, stands on them, and comes back. */
function handstand(seed: number) {
  const shape = randomShape(seed, { clavicles: true, spine: 2, neck: 1, spread: [0.9, 1.1] });
  const standing = walk(shape, { seed, frames: FRAMES, fps: 60, pace: 0, noise: 2e-4 });
  const count = shape.joints.length;
  const turns = standing.turns.slice();
  const hips = standing.hips.slice();
  const q = new Float64Array(4);
  const length = (role: string): number => Math.hypot(...shape.joints.find((joint) => joint.role === role)!.offset);
  const arm = length('left.lowerArm') + length('left.hand');
  const leg = length('left.lowerLeg') + length('left.foot');
  // From the hips to the shoulders, about, and down to the floor on arms that are a little bent.
  const trunk = shape.joints
    .filter(({ role }) => /^spine|clavicle/.test(role))
    .reduce((sum, { role, offset }) => sum + (role.startsWith('right') ? 0 : offset[1]), 0);
  for (let f = 0; f < FRAMES; f++) {
    fromAxisAngle(q, 0, 1, 0, 0, Math.PI * overAt(f));
    for (let j = 0; j < count; j++) mul(turns, (f * count + j) * 4, q, 0, turns, (f * count + j) * 4);
    hips[f * 3 + 2] += 0.8 * leg * overAt(f);
    hips[f * 3 + 1] += (trunk + 0.95 * arm - hips[f * 3 + 1]) * overAt(f);
  }
  const hanging = new Float64Array(3);
  const onto =
    (s: number): Reach =>
    (f, shoulder) => {
      fromAxisAngle(q, 0, 1, 0, 0, Math.PI * overAt(f));
      hanging.set([s * 0.3 * arm, -0.93 * arm, 0]);
      rotate(hanging, 0, q, 0, hanging, 0);
      const there = [standing.hips[0] + s * (0.2 + 0.3 * arm), 0.03 * leg, standing.hips[2] + 0.8 * leg];
      return there.map((x, c) => x * downAt(f) + (shoulder[c] + hanging[c]) * (1 - downAt(f))) as unknown as ReturnType<Reach>;
    };
  return performerOf(shape, reaching(shape, { ...standing, turns, hips }, { left: onto(1), right: onto(-1) }));
}

describe('a body on its hands', () => {
  const cases = [1, 2, 3, 4, 5].map((seed) => {
    const { rig, clip } = handstand(seed);
    const body = prepareRig(makeFile(randomShape(seed + 40, { clavicles: true, spine: 3, neck: 1, spread: [0.8, 1.2] }), { axes: seed }));
    return { seed, rig, clip, transfer: solve(makePairing(rig, body), clip) };
  });

  it('is found to be carried by them while nothing else of it is on the floor', () => {
    for (const { seed, rig, clip } of cases) {
      const contacts = findContacts(rig, clip);
      const carrying = carryingHands(contacts, rig.legLength);
      expect(new Set(carrying.map(({ hand }) => hand)).size)
        .withContext(`${seed}`)
        .toBe(2);
      for (const { first, last } of carrying) {
        expect(first).withContext(`${seed}`).toBeGreaterThan(85);
        expect(last).withContext(`${seed}`).toBeLessThan(225);
      }
      // One who stands again carries itself.
      const heel = { side: 'left', part: 'heel', first: 0, last: FRAMES - 1 } as const;
      expect(carryingHands({ ...contacts, plants: [heel] }, rig.legLength)).toEqual([]);
    }
  });

  it('has its hands on the floor, whatever its legs are, its feet over it as the performer’s, and does not fly', () => {
    for (const { seed, transfer } of cases) {
      const verdict = judged(transfer);
      for (const id of ['hover', 'flips', 'held.hands', 'jumps', 'likeness.feet', 'hips'] as const) {
        const { mark, words, value } = verdict.figures.find((figure) => figure.id === id)!;
        expect(mark).withContext(`${id} of ${seed}: ${value}, ${words}`).toBe('good');
      }
      expect(figureOf(transfer, 'flight', verdict))
        .withContext(`${seed}`)
        .toBeNaN();
    }
  });
});
