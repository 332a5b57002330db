import { writePuppet, type Material } from '../glb';
import { MeshBuilder, type Ring, type Weights } from '../mesh';
import { buildRig, type RigJoint } from '../rig';
import { mix, type V3 } from '../vectors';

/**
 * The Little Crane: a twin of the Harbour Crane at a third of its size, as another workshop built it: other names, axes along its bones, a mast
 * of two parts, and its rails across the quay.
 */
const K = 0.34;
const by = ([x, y, z]: V3): V3 => [z * K, y * K, -x * K];
const JOINTS: readonly RigJoint[] = (
  [
    ['kran:gantryFrame', undefined, [0, 0, 0]],
    ['kran:mastLower', 'kran:gantryFrame', [0, 2.4, 0]],
    ['kran:mastUpper', 'kran:mastLower', [0, 3.9, 0]],
    ['kran:slewRing', 'kran:mastUpper', [0, 5.1, 0]],
    ['kran:counterWeight', 'kran:slewRing', [0, 5.35, -1.5]],
    ['kran:boom', 'kran:slewRing', [0, 5.5, 0.45]],
    ['kran:trolleyCar', 'kran:boom', [0, 5.85, 3.3]],
    ['kran:rope', 'kran:trolleyCar', [0, 5.75, 3.3]],
    ['kran:hookBlock', 'kran:rope', [0, 3.5, 3.3]],
    ['kran:claw.left', 'kran:hookBlock', [0.12, 3.35, 3.3]],
    ['kran:claw.right', 'kran:hookBlock', [-0.12, 3.35, 3.3]],
  ] as const
).map(([name, parent, at]) => ({ name, parent, at: by(at as V3) }));
const TIPS = new Map<string, V3>([
  ['kran:claw.left', by([0.3, 3, 3.3])],
  ['kran:claw.right', by([-0.3, 3, 3.3])],
  ['kran:counterWeight', by([0, 5.1, -2.2])],
]);
const JIB_END: V3 = [0, 6.15, 5.6];

const COLOURS: Readonly<Record<string, Material>> = {
  frame: { colour: [0.2, 0.29, 0.27], rough: 0.7 },
  mast: { colour: [0.24, 0.36, 0.33], rough: 0.65 },
  boom: { colour: [0.62, 0.24, 0.12], rough: 0.6 },
  iron: { colour: [0.13, 0.13, 0.14], rough: 0.4 },
  weight: { colour: [0.31, 0.29, 0.26], rough: 0.9 },
};

const bar = (mesh: MeshBuilder, colour: string, a: V3, b: V3, width: number, joint: string, sides = 4): void => {
  const weights: Weights = [[joint, 1]];
  const ring = (t: number, k: number): Ring => ({ at: mix(by(a), by(b), t), across: width * K * k, deep: width * K * k, weights });
  mesh.tube(colour, [ring(0, 0.9), ring(0.001, 1), ring(0.999, 1), ring(1, 0.9)], [0, 0.3, 1], sides);
};

export async function littleCrane(): Promise<Uint8Array> {
  const rig = buildRig(JOINTS, 'bones', TIPS);
  const m = new MeshBuilder();
  for (const x of [-1, 1]) {
    for (const z of [-0.9, 0.9]) bar(m, 'frame', [x, 0.15, z], [x * 0.35, 2.4, z * 0.35], 0.12, 'kran:gantryFrame');
    bar(m, 'frame', [x, 0.2, -1.2], [x, 0.2, 1.2], 0.13, 'kran:gantryFrame');
    for (const z of [-1, 1]) m.ball('iron', by([x, 0.14, z]), [0.14 * K, 0.14 * K, 0.14 * K], [['kran:gantryFrame', 1]], 8);
  }
  bar(m, 'frame', [-0.5, 2.35, 0], [0.5, 2.35, 0], 0.3, 'kran:gantryFrame');
  bar(m, 'mast', [0, 2.4, 0], [0, 3.9, 0], 0.24, 'kran:mastLower', 6);
  bar(m, 'mast', [0, 3.9, 0], [0, 5.1, 0], 0.2, 'kran:mastUpper', 6);
  bar(m, 'iron', [0, 5.05, 0], [0, 5.2, 0], 0.42, 'kran:slewRing', 14);
  bar(m, 'mast', [0, 5.2, 0], [0, 5.7, 0.2], 0.3, 'kran:slewRing');
  bar(m, 'mast', [0, 5.35, 0], [0, 5.35, -1.6], 0.14, 'kran:slewRing');
  bar(m, 'weight', [0, 5.5, -1.5], [0, 4.9, -1.9], 0.45, 'kran:counterWeight');
  for (const x of [-0.16, 0.16]) bar(m, 'boom', [x, 5.5, 0.45], [x * 0.5, JIB_END[1], JIB_END[2]], 0.07, 'kran:boom');
  bar(m, 'boom', [0, 5.85, 0.5], [0, JIB_END[1] + 0.08, JIB_END[2]], 0.05, 'kran:boom');
  for (const z of [1.2, 2, 2.8, 3.6, 4.4]) bar(m, 'boom', [-0.14, 5.5 + z * 0.11, z], [0.14, 5.5 + z * 0.11, z], 0.04, 'kran:boom');
  bar(m, 'iron', [0, 5.78, 3.05], [0, 5.84, 3.55], 0.2, 'kran:trolleyCar');
  // The rope is as long as the hook is low: its lower end goes with it.
  const rope = (y: number, joint: string): Ring => ({ at: by([0, y, 3.3]), across: 0.03 * K, deep: 0.03 * K, weights: [[joint, 1]] });
  m.tube(
    'iron',
    [rope(5.75, 'kran:rope'), rope(5.7, 'kran:rope'), rope(3.55, 'kran:hookBlock'), rope(3.5, 'kran:hookBlock')],
    [0, 0, 1],
    6,
  );
  m.ball('boom', by([0, 3.45, 3.3]), [0.2 * K, 0.2 * K, 0.2 * K], [['kran:hookBlock', 1]], 8);
  for (const [side, x] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    bar(m, 'iron', [x * 0.12, 3.35, 3.3], [x * 0.34, 3.1, 3.3], 0.05, `kran:claw.${side}`);
    bar(m, 'iron', [x * 0.34, 3.1, 3.3], [x * 0.16, 2.85, 3.3], 0.045, `kran:claw.${side}`);
  }
  return writePuppet('Little Crane', rig, m, COLOURS);
}
