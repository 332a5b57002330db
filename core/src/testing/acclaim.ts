/** Acclaim text for tests: the skeleton and motion of a shape, each bone with axes of its own. */
import { conjugateBy, eulerXyz, randomAxes } from './euler';
import { invMul } from '../math/quat';
import { random } from '../math/random';
import type { Shape } from './bodies';
import type { Motion } from './motion';

const INCH = 0.0254;
const name = (role: string): string => role.replaceAll('.', '_');

/**
 * States a shape and its motion as ASF and AMC. A joint becomes the bone from itself to its first child, so joints with more
 * children get a bone for each; every bone turns about axes drawn by a seed.
 */
export function writeAcclaim(shape: Shape, motion: Motion, seed: number): { asf: string; amc: string } {
  const { joints } = shape;
  const rng = random(seed);
  const count = joints.length;
  const tip = (j: number): readonly [number, number, number] => {
    const child = joints.find(({ parent }) => parent === j);
    return child?.offset ?? shape.tips.get(joints[j].role) ?? [0, 0, 0];
  };
  // A bone runs from joint to joint: brothers that start elsewhere than the first need a bone that leads to them.
  const lines: string[] = [];
  const tree: string[] = [];
  const axes = joints.map(() => randomAxes(rng));
  const bone = (label: string, [x, y, z]: readonly [number, number, number], axis: readonly number[], dof: string): void => {
    const n = Math.hypot(x, y, z) / INCH;
    const d = n === 0 ? [0, 0, 0] : [x, y, z].map((v) => v / INCH / n);
    lines.push('  begin', `     id ${lines.length}`, `     name ${label}`, `     direction ${d.join(' ')}`, `     length ${n}`);
    lines.push(`     axis ${axis.join(' ')} XYZ`, ...(dof ? [`    dof ${dof}`] : []), '  end');
  };
  const children = joints.map((_, j) => joints.flatMap(({ parent }, c) => (parent === j ? [c] : [])));
  for (let j = 0; j < count; j++) {
    const label = j === 0 ? 'root' : name(joints[j].role);
    if (j > 0) bone(label, children[j].length > 1 ? [0, 0, 0] : tip(j), axes[j].degrees, 'rx ry rz');
    for (const c of children[j]) {
      const own = name(joints[c].role);
      // The root has no length, and a joint with several children ends where it begins: a bare bone leads to each child.
      if (j === 0 || children[j].length > 1) {
        bone(`${own}_way`, joints[c].offset, [0, 0, 0], '');
        tree.push(`    ${label} ${own}_way`, `    ${own}_way ${own}`);
      } else tree.push(`    ${label} ${own}`);
    }
  }
  const asf = [
    '# made for tests',
    ':version 1.10',
    ':name test',
    ':units',
    '  mass 1.0',
    '  length 1',
    '  angle deg',
    ':documentation',
    '  none',
    ':root',
    '   order TX TY TZ RX RY RZ',
    '   axis XYZ',
    '   position 0 0 0',
    '   orientation 0 0 0',
    ':bonedata',
    ...lines,
    ':hierarchy',
    '  begin',
    ...tree,
    '  end',
    '',
  ].join('\n');
  const out = [':FULLY-SPECIFIED', ':DEGREES'];
  const q = new Float64Array(4);
  for (let f = 0; f < motion.frames; f++) {
    out.push(String(f + 1));
    for (let j = 0; j < count; j++) {
      const o = (f * count + j) * 4;
      if (j === 0) q.set(motion.turns.subarray(o, o + 4));
      else invMul(q, 0, motion.turns, (f * count + joints[j].parent) * 4, motion.turns, o);
      const place = j === 0 ? [0, 1, 2].map((c) => (motion.hips[f * 3 + c] / INCH).toFixed(6)) : [];
      const turns = eulerXyz(j === 0 ? q : conjugateBy(q, axes[j].q)).map((d) => d.toFixed(6));
      out.push([j === 0 ? 'root' : name(joints[j].role), ...place, ...turns].join(' '));
    }
  }
  return { asf, amc: `${out.join('\n')}\n` };
}
