import { copyPose, rangeCheck, type BoundMesh, type LaidMesh } from '@hollow-stride/core';
import { displayBody } from '../solver/display';
import type { BoneLine, BoundView, FitSource, LaidView } from './messages';

/** A mesh as the page shows it. */
export function laidViewOf({ mesh, body, found, landmarks, fitted, sections }: LaidMesh): LaidView {
  const { skeleton, places, ends } = fitted;
  const at = (list: Float64Array, j: number): [number, number, number] => [list[j * 3], list[j * 3 + 1], list[j * 3 + 2]];
  const bones = skeleton.names.flatMap((name, j): BoneLine[] => {
    const parent = skeleton.parents[j];
    const own = parent < 0 ? [] : [{ name: skeleton.names[parent], from: at(places, parent), to: at(places, j) }];
    return Number.isNaN(ends[j * 3]) ? own : [...own, { name, from: at(places, j), to: at(ends, j) }];
  });
  return {
    facts: mesh.facts,
    guessed: mesh.guessed,
    low: [body.low[0], body.low[1], body.low[2]],
    high: [body.high[0], body.high[1], body.high[2]],
    height: body.height,
    middle: found.middle,
    likeness: sections.solid.likeness,
    landmarks,
    confidence: found.confidence,
    hasHocks: 'left.hock' in landmarks,
    bones,
    parts: [...new Set(mesh.surface.parts.map(({ name }) => name))],
  };
}

/** A bound mesh as the page shows it. */
export function boundViewOf(source: FitSource, { glb, file, rig, weights, names, doubts, pull }: BoundMesh): BoundView {
  const total = names.map(() => 0);
  for (let i = 0; i < weights.joints.length; i++) total[weights.joints[i]] += (4 * weights.values[i]) / weights.joints.length;
  return {
    source,
    glb: glb.slice(),
    display: displayBody(rig, file, ''),
    rest: copyPose(rig.restPose),
    range: rangeCheck(rig.skeleton, rig.restPose, rig.roles, rig),
    names,
    weights: total,
    doubts,
    pull,
  };
}
