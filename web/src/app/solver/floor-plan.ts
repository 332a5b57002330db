import { ClipReader, traceProbes, type Clip, type Plant, type Rig, type Side } from '@hollow-stride/core';

/** A stance seen from above; metres over the character's floor, x to +X, z to +Z. */
export interface Footprint {
  readonly side: Side;
  readonly first: number;
  readonly last: number;
  /** The frames in which any part of the foot is down. */
  readonly from: number;
  readonly to: number;
  /** Heights of heel and ball, metres in the world. */
  readonly heights: readonly [heel: number, ball: number];
  readonly heel: readonly [x: number, z: number];
  readonly ball: readonly [x: number, z: number];
  /** Way of the ball over the floor in the stance, as x and z by turns. */
  readonly smear: Float32Array;
}

/** Where a body goes over the floor: its footprints, and the way of its hips as x and z by turns, one pair every `step` frames. */
export interface FloorPlan {
  readonly prints: readonly Footprint[];
  readonly hips: Float32Array;
  readonly step: number;
}

const HIP_POINTS = 600;
const SMEAR_POINTS = 40;

/** Sees a body's motion from above. @param scale over the floor: 1 for the character, the stride for the performer beside it */
export function floorPlan(rig: Rig, clip: Clip, plants: readonly Plant[], scale = 1): FloorPlan {
  const probes = traceProbes(rig, clip);
  const step = Math.max(1, Math.ceil(clip.frames / HIP_POINTS));
  const hips = new Float32Array(Math.ceil(clip.frames / step) * 2);
  const reader = new ClipReader(rig.skeleton, clip);
  const [l, r] = (['left', 'right'] as const).map((side) => rig.roles.get(`${side}.upperLeg`)! * 3);
  for (let i = 0; i * step < clip.frames; i++) {
    const { positions } = reader.at(i * step);
    hips[i * 2] = (scale * (positions[l] + positions[r])) / 2;
    hips[i * 2 + 1] = (scale * (positions[l + 2] + positions[r + 2])) / 2;
  }
  const prints = stancesOf(plants).flatMap(({ side, first, last, from, end }): Footprint[] => {
    const foot = probes.find((probe) => probe.side === side);
    if (!foot) return [];
    const mean = (places: Float64Array): [number, number, number] => {
      const sum: [number, number, number] = [0, 0, 0];
      for (let f = first; f <= last; f++) for (const c of [0, 1, 2]) sum[c] += places[f * 3 + c];
      return sum.map((v) => (scale * v) / (last - first + 1)) as typeof sum;
    };
    const [heel, ball] = [mean(foot.heel), mean(foot.ball)];
    const every = Math.max(1, Math.ceil((last - first + 1) / SMEAR_POINTS));
    const smear: number[] = [];
    for (let f = first; f <= last; f += every) {
      smear.push(scale * foot.ball[f * 3], scale * foot.ball[f * 3 + 2]);
    }
    return [
      {
        side,
        first,
        last,
        from,
        to: end,
        heel: [heel[0], heel[2]],
        ball: [ball[0], ball[2]],
        heights: [heel[1], ball[1]],
        smear: Float32Array.from(smear),
      },
    ];
  });
  return { prints, hips, step };
}

interface Stance {
  readonly side: Side;
  first: number;
  last: number;
  readonly from: number;
  end: number;
}

/** The frames in which both parts of a foot are down, or the one that is; a stance for each stand of a foot. */
function stancesOf(plants: readonly Plant[]): Stance[] {
  const out: Stance[] = [];
  for (const { side, first, last } of [...plants].sort((a, b) => a.first - b.first)) {
    const before = out.filter((stance) => stance.side === side).at(-1);
    if (!before || first > before.end) out.push({ side, first, last, from: first, end: last });
    else {
      // Heel alone and ball alone roll: where both are down the foot shows how it stands.
      const [from, to] = [Math.max(before.first, first), Math.min(before.last, last)];
      if (from <= to) [before.first, before.last] = [from, to];
      before.end = Math.max(before.end, last);
    }
  }
  return out;
}
