import { mainPath, type Shape } from './structure';
import { FINGERS, type Finger } from './roles';
import { hypot } from '../math/numbers';

/** The joints of each finger of one hand, base to tip, at most four. */
export type Fingers = Partial<Record<Finger, readonly number[]>>;

/**
 * Finds the fingers below a hand: by name where names say so, else by place: the thumb is the branch whose base lies
 * nearest the wrist and apart from the rest, the others follow in order across the palm, away from the thumb.
 * @param positions world positions of a pose in which the hand is open, 3 per joint
 */
export function findFingers(shape: Shape, hand: number, positions: Float64Array): Fingers {
  const chains = branches(shape, hand)
    .map((top) => fingerJoints(shape, top))
    .filter((joints) => joints.length > 0);
  const fingers: Partial<Record<Finger, readonly number[]>> = {};
  const unnamed: number[][] = [];
  for (const joints of chains) {
    const finger = joints.map((j) => shape.hints[j].finger).find((f) => f !== undefined);
    if (finger !== undefined && fingers[finger] === undefined) fingers[finger] = joints;
    else if (
      finger === undefined &&
      joints.length >= 2 &&
      joints.every((j) => !shape.hints[j].isTwist && shape.hints[j].fit.prop === undefined)
    ) {
      unnamed.push(joints);
    }
  }
  if (Object.keys(fingers).length > 0 || unnamed.length < 2) return fingers;
  return byPlace(hand, unnamed, positions);
}

/** Tops of the branches below the hand; helper joints that only gather fingers (palm bones) are passed through. */
function branches(shape: Shape, hand: number): number[] {
  const tops: number[] = [];
  const visit = (joint: number, depth: number): void => {
    for (const child of shape.children[joint]) {
      const hint = shape.hints[child];
      const gathers = depth < 2 && shape.children[child].length >= 2 && hint.finger === undefined;
      const helper = depth < 2 && hint.finger === undefined && shape.lengths[child] === 0 && shape.children[child].length >= 1;
      if (gathers || helper) visit(child, depth + 1);
      else tops.push(child);
    }
  };
  visit(hand, 0);
  return tops;
}

function fingerJoints(shape: Shape, top: number): number[] {
  let path = mainPath(shape, top).filter((j) => !shape.hints[j].isEnd);
  const first = path.find((j) => shape.hints[j].finger !== undefined);
  if (first !== undefined) path = path.slice(path.indexOf(first));
  // A metacarpal inside the palm is not the first of the finger's own joints when four follow.
  if (path.length > 4) path = path.slice(path.length - 4);
  return path.slice(0, 4);
}

function byPlace(hand: number, chains: readonly (readonly number[])[], positions: Float64Array): Fingers {
  const at = (joint: number): [number, number, number] => [positions[joint * 3], positions[joint * 3 + 1], positions[joint * 3 + 2]];
  const wrist = at(hand);
  const far = (p: readonly number[], q: readonly number[]): number => hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);
  const bases = chains.map((c) => at(c[0]));
  const near = bases.map((b) => far(b, wrist));
  const thumb = chains.length >= 3 ? near.indexOf(Math.min(...near)) : -1;
  const order = chains.map((_, i) => i).filter((i) => i !== thumb);
  const from = thumb >= 0 ? bases[thumb] : bases[order[0]];
  order.sort((a, b) => far(bases[a], from) - far(bases[b], from));
  const names: readonly Finger[] =
    order.length >= 4
      ? FINGERS.slice(1)
      : order.length === 3
        ? ['index', 'middle', 'ring']
        : order.length === 2
          ? ['index', 'middle']
          : ['index'];
  const fingers: Partial<Record<Finger, readonly number[]>> = {};
  if (thumb >= 0) fingers.thumb = chains[thumb];
  order.slice(0, names.length).forEach((i, k) => (fingers[names[k]] = chains[i]));
  return fingers;
}
