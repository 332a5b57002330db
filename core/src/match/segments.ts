import { SIDES, type Role } from '../label';
import { unrotate } from '../math/quat';
import { vec } from '../math/vec';
import type { Rig } from '../rig';
import type { Pose } from '../skeleton';

/** Where a bone of a labelled joint ends. */
export interface SegmentEnd {
  /** The role at the far end, or `tip`. */
  readonly role: Role;
  readonly joint: number;
}

/** For each labelled joint the labelled joints next below it, the one that its bone points at first; leaves have a tip. */
export function segmentEnds(body: Rig, wholeLegs: boolean): Map<Role, SegmentEnd[]> {
  const { skeleton } = body;
  const roleOf = new Map<number, Role>();
  for (const [role, joint] of body.roles) if (!role.includes('twist') && role !== 'ground') roleOf.set(joint, role);
  const out = new Map<Role, SegmentEnd[]>();
  for (const [joint, role] of roleOf) {
    let up = skeleton.parents[joint];
    while (up >= 0 && !roleOf.has(up)) up = skeleton.parents[up];
    if (up < 0) continue;
    const above = roleOf.get(up)!;
    const list = out.get(above) ?? [];
    list.push({ role, joint });
    out.set(above, list);
  }
  if (wholeLegs) {
    for (const side of SIDES) {
      const foot = body.roles.get(`${side}.foot`);
      if (foot !== undefined && body.roles.has(`${side}.upperLeg`)) out.set(`${side}.upperLeg`, [{ role: `${side}.foot`, joint: foot }]);
    }
  }
  const rank = (role: Role): number => {
    if (/^(spine|neck|head)/.test(role)) return 0;
    if (/middle/.test(role)) return 0;
    if (/index/.test(role)) return 1;
    if (/thumb/.test(role)) return 9;
    return 2;
  };
  for (const list of out.values()) list.sort((x, y) => rank(x.role) - rank(y.role));
  for (const [joint, role] of roleOf) {
    if (!out.has(role) && Number.isFinite(skeleton.tips[joint * 3])) out.set(role, [{ role: 'tip', joint: -1 }]);
  }
  return out;
}

/** The direction to a segment's end in the joint's own frame at rest. */
export function localDirection(body: Rig, joint: number, end: SegmentEnd): Float64Array {
  const d = vec();
  if (end.joint < 0) {
    for (let c = 0; c < 3; c++) d[c] = body.skeleton.tips[joint * 3 + c];
    return d;
  }
  const p = body.restPose.positions;
  for (let c = 0; c < 3; c++) d[c] = p[end.joint * 3 + c] - p[joint * 3 + c];
  unrotate(d, 0, body.restPose.rotations, joint * 4, d, 0);
  return d;
}

/** From one joint of a pose to another. */
export function segmentBetween(pose: Pose, from: number, to: number): Float64Array {
  const p = pose.positions;
  return Float64Array.of(p[to * 3] - p[from * 3], p[to * 3 + 1] - p[from * 3 + 1], p[to * 3 + 2] - p[from * 3 + 2]);
}
