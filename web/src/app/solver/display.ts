import type { Body } from '@hollow-stride/core';
import type { DisplayBody } from './messages';

/** What the stage needs of a body to draw it. */
export function displayBody(body: Body, file: string): DisplayBody {
  const { skeleton, roles, basis, restPose } = body;
  const labelled = new Uint8Array(skeleton.names.length);
  for (const joint of roles.values()) labelled[joint] = 1;
  const { layout } = body.file;
  let high = -Infinity;
  for (let j = 1; j < restPose.positions.length; j += 3) high = Math.max(high, restPose.positions[j]);
  return {
    skeleton,
    labelled,
    hips: roles.get('hips') ?? 0,
    height: high - (restPose.positions[(roles.get('left.foot') ?? 0) * 3 + 1] - 0.09),
    mesh:
      layout.format === 'glb' && body.file.skin
        ? { file, nodes: layout.nodes, scales: layout.ownScales.map((s) => s * basis.metres) }
        : undefined,
  };
}
