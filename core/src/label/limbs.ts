import { length } from '../math/vec';
import { rotate } from '../math/quat';
import { acos, log } from '../math/trig';
import type { Shape } from './structure';
import type { NamePart } from './lexicon';
import type { ARM_PARTS, LEG_PARTS } from './roles';

/** Joint index of each part of one limb. */
export type LimbParts = Partial<Record<(typeof ARM_PARTS | typeof LEG_PARTS)[number], number>>;

/** Distance of each joint of a path from the path's first, along the bones. */
function arcLengths(shape: Shape, path: readonly number[]): number[] {
  let sum = 0;
  return path.map((j, i) => (sum += i === 0 ? 0 : shape.lengths[j]));
}

const NAME_WEIGHT = 3;

interface Candidate {
  readonly parts: LimbParts;
  readonly score: number;
}

/** The sum of name fits of the parts, with a loss for twist joints, bone ends and props. */
function nameScore(shape: Shape, parts: readonly (readonly [NamePart, number])[]): number {
  let sum = 0;
  for (const [part, joint] of parts) {
    const hint = shape.hints[joint];
    sum += hint.fit[part] ?? 0;
    // A name that clearly says another part speaks against this one.
    const other = Math.max(0, ...Object.entries(hint.fit).map(([p, s]) => (p === part ? 0 : s)));
    if ((hint.fit[part] ?? 0) < other) sum -= 0.4 * other;
    if (hint.isTwist) sum -= 1;
    if (hint.isEnd) sum -= 1;
    if (hint.finger !== undefined) sum -= 1;
  }
  return sum * NAME_WEIGHT;
}

/** How unlike in length two segments are, as the size of the log ratio, held to 3. */
function unlike(a: number, b: number): number {
  return Math.min(3, Math.abs(log(Math.max(a, 1e-9) / Math.max(b, 1e-9))));
}

/** Best joints for clavicle, upper arm, fore arm and hand on the main path of an arm. */
export function findArm(shape: Shape, path: readonly number[]): LimbParts {
  const s = arcLengths(shape, path);
  const end = s[s.length - 1] + tipLength(shape, path[path.length - 1]) || 1e-9;
  let best: Candidate = { parts: {}, score: -Infinity };
  const n = Math.min(path.length, 12);
  const inPlace = shape.lengths[path[0]] === 0 ? 1 : 0;
  for (let u = 0; u < n - 1; u++) {
    for (let l = u + 1; l < n; l++) {
      for (let h = l + 1; h <= n; h++) {
        const hasHand = h < n;
        const handAt = hasHand ? s[h] : end;
        const upper = s[l] - s[u];
        const lower = handAt - s[l];
        if (upper <= 0.02 * end || lower <= 0.02 * end) continue;
        const named: [NamePart, number][] = [
          ['upperArm', path[u]],
          ['lowerArm', path[l]],
        ];
        let score = -1.5 * unlike(upper, lower * 1.05) + (2.5 * (upper + lower)) / end;
        if (hasHand) {
          named.push(['hand', path[h]]);
          if (branchesOut(shape, path[h])) score += 1;
          score -= passedOver(shape, path, s, l, h);
          score += 0.2 * Math.min(2, fingersBeyond(shape, path, h, lower));
          // Of two joints in one place the upper is the wrist, the lower a helper.
          if (h - 1 > l && s[h] === s[h - 1]) score -= 0.6;
          if (shape.children[path[h]].length === 0 && tipLength(shape, path[h]) === 0) score -= 0.2;
          // A hand is short beside the arm.
          score -= Math.max(0, (end - handAt) / (upper + lower) - 0.7) * 2;
        } else score -= 2.5;
        const skipped = h - u - 2;
        score -= 0.4 * Math.max(0, skipped);
        const parts: LimbParts = { upperArm: path[u], lowerArm: path[l], ...(hasHand ? { hand: path[h] } : {}) };
        if (u > 0) {
          // The clavicle is the first joint before the arm that is no helper.
          const c = clavicleIndex(shape, path, u);
          parts.clavicle = path[c];
          named.push(['clavicle', path[c]]);
          const length = s[u] - s[c];
          score += 0.4 - Math.min(0.6, 1.2 * Math.max(0, length / upper - 0.85)) - (length < 0.03 * end ? 0.3 : 0);
          score -= 0.3 * Math.max(0, u - 1 - inPlace);
        }
        // A joint in the very place of its parent is where both arms meet, not a shoulder.
        if (u < inPlace) score -= 1;
        score += nameScore(shape, named);
        if (score > best.score) best = { parts, score };
      }
    }
  }
  return best.parts;
}

/** A joint inside a segment lies on it straight and well inside; one at which the way bends, or that ends it nearly, is a joint. */
function passedOver(shape: Shape, path: readonly number[], s: readonly number[], from: number, to: number): number {
  let loss = 0;
  for (let i = from + 1; i < to; i++) {
    if (bendAt(shape, path, i) > BENT) loss += 0.8;
    else if (s[to] - s[i] < 0.3 * (s[to] - s[from]) && s[i] > s[from] && s[to] > s[i]) loss += 0.35;
  }
  return loss;
}

/** 35°, radians. */
const BENT = 0.61;

/** How far the way down a limb turns at a joint as its file has it at rest, radians; 0 where it cannot be told. */
function bendAt({ skeleton, lengths }: Shape, path: readonly number[], i: number): number {
  const [joint, next] = [path[i], path[i + 1]];
  if (next === undefined || !(lengths[joint] > 0) || !(lengths[next] > 0)) return 0;
  const out = new Float64Array(3);
  rotate(out, 0, skeleton.restR, joint * 4, skeleton.restT, next * 3);
  let dot = 0;
  for (let c = 0; c < 3; c++) dot += skeleton.restT[joint * 3 + c] * out[c];
  return acos(Math.max(-1, Math.min(1, dot / (lengths[joint] * lengths[next]))));
}

/** How many short segments follow a hand in a row: the one chain of all its fingers. */
function fingersBeyond(shape: Shape, path: readonly number[], hand: number, lower: number): number {
  let count = 0;
  for (let i = hand + 1; i < path.length && shape.lengths[path[i]] < 0.45 * lower; i++) if (shape.lengths[path[i]] > 0) count++;
  return count;
}

/** True for a joint on which several branches hang, itself or by a helper in the same place. */
function branchesOut(shape: Shape, joint: number): boolean {
  const children = shape.children[joint];
  return children.length >= 2 || children.some((c) => shape.lengths[c] === 0 && shape.children[c].length >= 2);
}

function clavicleIndex(shape: Shape, path: readonly number[], before: number): number {
  let best = 0;
  for (let i = 0; i < before; i++) {
    if ((shape.hints[path[i]].fit.clavicle ?? 0) > (shape.hints[path[best]].fit.clavicle ?? 0)) best = i;
  }
  return best;
}

/** Best joints for upper leg, lower leg, hock, fetlock, foot and toes on the main path of a leg. A fetlock is told by its name alone. */
export function findLeg(shape: Shape, path: readonly number[]): LimbParts {
  const s = arcLengths(shape, path);
  const end = s[s.length - 1] + tipLength(shape, path[path.length - 1]) || 1e-9;
  let best: Candidate = { parts: {}, score: -Infinity };
  const n = Math.min(path.length, 12);
  for (let u = 0; u < n - 1; u++) {
    for (let l = u + 1; l < n; l++) {
      for (let f = l + 1; f < n; f++) {
        const upper = s[l] - s[u];
        const lower = s[f] - s[l];
        if (upper <= 0.02 * end || lower <= 0.02 * end) continue;
        for (let k = l; k < f; k++) {
          const hock = k > l ? k : undefined;
          const named: [NamePart, number][] = [
            ['upperLeg', path[u]],
            ['lowerLeg', path[l]],
            ['foot', path[f]],
          ];
          const parts: LimbParts = { upperLeg: path[u], lowerLeg: path[l], foot: path[f] };
          let score = 0;
          if (hock === undefined) score -= 1.5 * unlike(upper, lower);
          else {
            const shank = s[hock] - s[l];
            const fetlock = fetlockIn(shape, path, hock + 1, f);
            const cannon = s[fetlock ?? f] - s[hock];
            if (shank <= 0.02 * end || cannon <= 0.02 * end) continue;
            parts.hock = path[hock];
            named.push(['hock', path[hock]]);
            if (fetlock !== undefined) {
              parts.fetlock = path[fetlock];
              named.push(['fetlock', path[fetlock]]);
            }
            // Three segments of like length; a hock must earn its place against a foot of two.
            score -= 1.0 * (unlike(upper, shank) + unlike(shank, cannon * 1.3)) + (bendAt(shape, path, hock) > 0.3 ? 0.6 : 1.2);
          }
          score += (2.5 * (s[f] - s[u])) / end;
          const footLength = end - s[f];
          score -= 2 * Math.max(0, footLength / (upper + lower) - 0.45) + 6 * Math.max(0, 0.12 - footLength / (upper + lower));
          // A joint in the very place of its parent is where both legs meet, not a hip; of two further down the lower one turns.
          if (u === 0 && shape.lengths[path[0]] === 0) score -= 2.5;
          if (shape.lengths[path[u + 1]] === 0) score -= 0.6;
          score -= passedOver(shape, path, s, u, l) + passedOver(shape, path, s, l, hock ?? f);
          if (hock !== undefined && parts.fetlock === undefined) score -= passedOver(shape, path, s, hock, f);
          const toes = toesIndex(shape, path, s, f);
          if (toes !== undefined) {
            parts.toes = path[toes];
            named.push(['toes', path[toes]]);
            score += 0.15;
          }
          if (shape.children[path[f]].length === 0 && tipLength(shape, path[f]) === 0) score -= 0.4;
          score -= 0.15 * (f - u - (hock === undefined ? 2 : parts.fetlock === undefined ? 3 : 4)) + 0.1 * u;
          score += nameScore(shape, named);
          if (score > best.score) best = { parts, score };
        }
      }
    }
  }
  return best.parts;
}

/** The joint of a way that is named a fetlock, if one is. */
function fetlockIn(shape: Shape, path: readonly number[], from: number, to: number): number | undefined {
  for (let i = from; i < to; i++) if ((shape.hints[path[i]].fit.fetlock ?? 0) > 0) return i;
  return undefined;
}

/** The joint where the toes bend: named so, or the first one away from the ankle that has something beyond it. */
function toesIndex(shape: Shape, path: readonly number[], s: readonly number[], foot: number): number | undefined {
  let first: number | undefined;
  for (let i = foot + 1; i < path.length; i++) {
    const hint = shape.hints[path[i]];
    if (hint.isEnd) continue;
    if (hint.fit.toes !== undefined) return i;
    if (first === undefined && s[i] > s[foot]) first = i;
  }
  if (first === undefined) return undefined;
  const beyond = shape.reach[path[first]];
  return beyond > 0 || first < path.length - 1 || shape.children[path[first]].length > 0 ? first : undefined;
}

export function tipLength({ skeleton }: Shape, joint: number): number {
  const o = joint * 3;
  const n = length(skeleton.tips, o);
  return Number.isFinite(n) ? n : 0;
}
