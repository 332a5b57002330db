import type { MotionFile, Rig } from '@hollow-stride/core';
import type { DisplayBody } from './messages';

/** What the stage needs of a body to draw it. @param source hash of the file that its mesh is in */
export function displayBody({ skeleton, roles, basis, restPose }: Rig, { layout, skin }: MotionFile, source: string): DisplayBody {
  const labelled = new Uint8Array(skeleton.names.length);
  for (const joint of roles.values()) labelled[joint] = 1;
  let high = -Infinity;
  for (let j = 1; j < restPose.positions.length; j += 3) high = Math.max(high, restPose.positions[j]);
  return {
    skeleton,
    labelled,
    hips: roles.get('hips') ?? 0,
    height: high - (restPose.positions[(roles.get('left.foot') ?? 0) * 3 + 1] - 0.09),
    mesh:
      layout.format === 'glb' && skin
        ? { file: source, nodes: layout.nodes, scales: layout.ownScales.map((s) => s * basis.metres) }
        : undefined,
  };
}
