import { propsOf, shinEnd, SIDES, watchedPoints, type MotionFile, type Rig, type Side } from '@hollow-stride/core';
import type { Capsule, DisplayBody } from './messages';

const ENDS: readonly { readonly role: string; readonly side: Side | undefined }[] = [
  ...(['left', 'right'] as const).flatMap((side) => ['foot', 'hand'].map((part) => ({ role: `${side}.${part}`, side }))),
  { role: 'hips', side: undefined },
];

/** Everything the stage needs to draw a body. @param source hash of the file that its mesh is in */
export function displayBody(rig: Rig, { layout, skin }: MotionFile, source: string): DisplayBody {
  const { skeleton, roles, basis, restPose } = rig;
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
    props: propsOf(rig).map(({ joint }) => joint),
    about: { points: watchedPoints(rig), volumes: rig.volumes, capsules: capsulesOf(rig), parts: partsOf(rig) },
    mesh:
      layout.format === 'glb' && skin
        ? { file: source, nodes: layout.nodes, scales: layout.ownScales.map((s) => s * basis.metres) }
        : undefined,
  };
}

/** Thighs and shins as the legs are kept apart by. */
function capsulesOf({ roles, thickness }: Rig): Capsule[] {
  return SIDES.flatMap((side) =>
    [
      ['upperLeg', 'lowerLeg'],
      ['lowerLeg', shinEnd(roles, side)],
    ].flatMap(([a, b]) => {
      const [from, to] = [roles.get(`${side}.${a}`), roles.get(`${side}.${b}`)];
      return from === undefined || to === undefined || thickness[from] === 0 ? [] : [{ from, to, radius: thickness[from] }];
    }),
  );
}

/** Parts that the view can be framed on. */
const FRAMED: Readonly<Record<string, string>> = {
  head: 'head',
  'left hand': 'left.hand',
  'right hand': 'right.hand',
  'left foot': 'left.foot',
  'right foot': 'right.foot',
  hips: 'hips',
};

function partsOf({ roles }: Rig): Record<string, number> {
  return Object.fromEntries(Object.entries(FRAMED).flatMap(([name, role]) => (roles.has(role) ? [[name, roles.get(role)!]] : [])));
}
