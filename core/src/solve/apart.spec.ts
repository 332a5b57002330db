import { makePairing } from '../match';
import { random } from '../math/random';
import { prepareRig, type Rig } from '../rig';
import { makeFile, performerOf, randomShape, walk } from '../testing';
import { keepApart } from './apart';
import type { LimbTrack } from './limbTrack';
import { traceLimbs } from './limbTrack';
import { planPose } from './plan';
import { posePerformance } from './pose';
import { steadyHips } from './steady';
import { placeRoot } from './root';

/** Legs of a walker through its pose, on a body whose thighs and shins are as thick as is said. */
function legsOf(seed: number, thick: number): { rig: Rig; legs: LimbTrack[]; frameTime: number } {
  const shape = randomShape(seed, { clavicles: true, spine: 2 });
  const { rig, clip } = performerOf(shape, walk(shape, { seed, frames: 120, fps: 60 }));
  const character = prepareRig(makeFile(randomShape(seed + 5, { spine: 2 })));
  const pairing = makePairing(rig, character);
  const plan = planPose(pairing);
  const posed = posePerformance(pairing, plan, clip, steadyHips(pairing, clip));
  const legs = traceLimbs(pairing, plan, posed, placeRoot(pairing, plan, posed), plan.limbs.slice(0, 2));
  const thickness = new Float64Array(character.skeleton.parents.length);
  for (const side of ['left', 'right']) {
    for (const part of ['upperLeg', 'lowerLeg']) thickness[character.roles.get(`${side}.${part}`)!] = thick * character.legLength;
  }
  return { rig: { ...character, thickness }, legs, frameTime: clip.frameTime };
}

/** Least distance between points of both shins in a frame, told by sampling them. */
function gap(legs: readonly LimbTrack[], f: number): number {
  const points = legs.map(({ data, stride, at }) =>
    Array.from({ length: 21 }, (_, i) =>
      [0, 1, 2].map((c) => data[f * stride + at.mid + c] + (i / 20) * (data[f * stride + at.end + c] - data[f * stride + at.mid + c])),
    ),
  );
  let least = Infinity;
  for (const a of points[0]) for (const b of points[1]) least = Math.min(least, Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]));
  return least;
}

describe('legs', () => {
  it('that are thin go as they are posed', () => {
    const { rig, legs, frameTime } = legsOf(1, 0.01);
    expect(keepApart(rig, legs, frameTime)).toBe(legs);
  });

  it('that would be in each other part, keep their bones, and leave feet turned as they were', () => {
    // Of a body without a mesh no thickness is known: it has lean legs.
    for (const [seed, thick] of [
      [2, 0.03],
      [3, 0.03],
      [4, 0.03],
      [2, 0],
      [3, 0],
    ]) {
      const { rig, legs, frameTime } = legsOf(seed, thick);
      // Crossed on purpose: the left leg goes over to the right by a third of the way and more.
      const rng = random(seed);
      const [{ data, stride, at }] = legs;
      for (let f = 30; f < 90; f++) {
        const by = Math.sin(((f - 30) / 60) * Math.PI) * rng.range(0.99, 1.01);
        for (const from of [at.mid, at.end]) {
          const other = legs[1].data[f * legs[1].stride + (from === at.mid ? legs[1].at.mid : legs[1].at.end)];
          data[f * stride + from] += (other - data[f * stride + from]) * 0.97 * by;
        }
      }
      const parted = keepApart(rig, legs, frameTime);
      expect(parted).not.toBe(legs);
      const frames = Array.from({ length: 40 }, (_, i) => 40 + i);
      const before = Math.min(...frames.map((f) => gap(legs, f)));
      const after = Math.min(...frames.map((f) => gap(parted, f)));
      expect(after)
        .withContext(`${seed}, ${thick}`)
        .toBeGreaterThan(before + (thick === 0 ? 0.04 : 0.018) * rig.legLength);
      parted.forEach((leg, k) => {
        for (let f = 0; f < leg.frames; f += 9) {
          const o = f * leg.stride;
          const length = (track: LimbTrack): number =>
            Math.hypot(...[0, 1, 2].map((c) => track.data[o + at.mid + c] - track.data[o + at.end + c]));
          expect(length(leg)).toBeCloseTo(length(legs[k]), 9);
          for (let c = 0; c < 4; c++) expect(leg.data[o + at.endQ + c]).toBe(legs[k].data[o + at.endQ + c]);
        }
      });
    }
  });
});
