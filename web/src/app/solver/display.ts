import type { MotionFile, Rig, Side } from '@hollow-stride/core';
import type { DisplayBody } from './messages';

const ENDS: readonly { readonly role: string; readonly side: Side | undefined }[] = [
  ...(['left', 'right'] as const).flatMap((side) => ['foot', 'hand'].map((part) => ({ role: `${side}.${part}`, side }))),
  { role: 'hips', side: undefined },
];

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
    ends: ENDS.flatMap(({ role, side }) => (roles.has(role) ? [{ joint: roles.get(role)!, side }] : [])),
    height: high - (restPose.positions[(roles.get('left.foot') ?? 0) * 3 + 1] - 0.09),
    mesh:
      layout.format === 'glb' && skin
        ? { file: source, nodes: layout.nodes, scales: layout.ownScales.map((s) => s * basis.metres) }
        : undefined,
  };
}
