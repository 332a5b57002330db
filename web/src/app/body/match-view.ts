import {
  compareRoles,
  copyPose,
  extraChains,
  laddersOf,
  limbSegments,
  sharedProps,
  solveWindow,
  unlikeLegs,
  type Rig,
  type MotionFile,
  type Pose,
  type Ready,
  type Residual,
} from '@hollow-stride/core';
import { displayBody } from '../solver/display';
import type { PairRequest } from '../solver/messages';
import type { MatchBody, MatchView, SegmentView } from './messages';
import { copyClip } from '../solver/clips';

/** Frames on each side of the one that is looked at. */
const AROUND = 24;

/**
 * A pairing as it stands, with the frames about one frame solved.
 */
export function matchViewOf(request: PairRequest, { job, pairing, take, contacts, settings, touchUps }: Ready, frame: number): MatchView {
  const window = { frame: Math.min(frame, take.frames - 1), around: AROUND, touchUps };
  const { transfer, first } = solveWindow(pairing, take, settings, contacts, window);
  const { performer, character, match, scale } = pairing;
  return {
    pair: request,
    performer: matchBody(performer, job.take, request.take.file),
    character: matchBody(character, job.character, request.character.file),
    matched: copyPose(match.pose),
    segments: [...segmentsOf(performer, character, match.residuals), ...otherSegments(performer, character, match.pose, match.residuals)],
    method: match.method,
    scale,
    ladders: laddersOf(pairing, request.choices.links),
    extras: pairing.extras.map(({ name, partnerName }) => ({ name, partner: partnerName })),
    props: sharedProps(pairing).map(({ joint }) => pairing.extras.find(({ joints }) => joints[0] === joint)!.name),
    propSize: pairing.propSize,
    performerExtras: [...extraChains(performer.roles).keys()],
    warnings: pairing.warnings,
    window: { clip: copyClip(transfer.clip), first, floor: transfer.floor },
    frames: take.frames,
    frameTime: take.frameTime,
  };
}

function matchBody(body: Rig, motion: MotionFile, file: string): MatchBody {
  const { restPose, roles, left, forward, legLength, rest, isRestClean, unit } = body;
  const display = displayBody(body, motion, file);
  const triple = (v: Float64Array): [number, number, number] => [v[0], v[1], v[2]];
  return {
    display,
    roles: Object.fromEntries(roles),
    rest: restPose,
    left: triple(left),
    forward: triple(forward),
    height: display.height,
    legLength,
    unit: unit.unit,
    unitReason: unit.reason,
    restReason: rest.reason,
    isRestClean,
  };
}

function segmentsOf(performer: Rig, character: Rig, residuals: readonly Residual[]): SegmentView[] {
  const whole = unlikeLegs(performer, character);
  const theirs = new Map(limbSegments(performer, whole).map((s) => [s.role, s]));
  const own = new Map(limbSegments(character, whole).map((s) => [s.role, s]));
  return residuals.map((residual) => {
    const a = theirs.get(residual.role);
    const b = own.get(residual.role);
    return { ...residual, performer: [a?.joint ?? -1, a?.end ?? -1], character: [b?.joint ?? -1, b?.end ?? -1] };
  });
}

/**
 * Segments beside those of the limbs: trunk, neck, hands, fingers and feet, from each to the next below it; what has nothing below it, as
 * a head, can be turned all the same. Angles are between directions seen from the body's own left, up and ahead.
 */
function otherSegments(performer: Rig, character: Rig, matched: Pose, limbs: readonly Residual[]): SegmentView[] {
  const known = new Set(limbs.map(({ role }) => role));
  return [...character.roles.keys()]
    .filter((role) => !known.has(role) && TURNED.test(role))
    .sort(compareRoles)
    .map((role): SegmentView => {
      const [theirs, own] = [performer, character].map(({ roles }): [number, number] => {
        const end = nextBelow(roles, role);
        return [roles.get(role) ?? -1, (end === undefined ? undefined : roles.get(end)) ?? -1];
      });
      const before = angleOff(performer, performer.restPose, theirs, character, character.restPose, own);
      const after = angleOff(performer, performer.restPose, theirs, character, matched, own);
      return {
        role,
        before,
        after,
        reason: 'not matched: its shape may differ; turn it if it is only posed',
        performer: theirs,
        character: own,
      };
    });
}

const TURNED = /^(spine|neck)\.\d|^head$|\.(hand|foot|(thumb|index|middle|ring|little|pinky)\.\d)$/;

/** The role at the far end of a role's segment. */
function nextBelow(roles: ReadonlyMap<string, number>, role: string): string | undefined {
  const [, name, number] = /^(.*\.)?(\d+)$/.exec(role) ?? [];
  if (name !== undefined) {
    const next = `${name}${Number(number) + 1}`;
    if (roles.has(next)) return next;
    if (name === 'spine.') return roles.has('neck.1') ? 'neck.1' : 'head';
    return name === 'neck.' ? 'head' : undefined;
  }
  const side = role.split('.')[0];
  if (role.endsWith('.foot')) return `${side}.toes`;
  if (role.endsWith('.hand')) return ['middle', 'index', 'ring'].map((finger) => `${side}.${finger}.1`).find((finger) => roles.has(finger));
  return undefined;
}

/** Degrees between the directions of two bodies' segments; 0 where one of them has none. */
function angleOff(
  a: Rig,
  aPose: Pose,
  [aFrom, aTo]: readonly [number, number],
  b: Rig,
  bPose: Pose,
  [bFrom, bTo]: readonly [number, number],
): number {
  if ([aFrom, aTo, bFrom, bTo].some((joint) => joint < 0)) return 0;
  const seen = (rig: Rig, { positions }: Pose, from: number, to: number): number[] => {
    const d = [0, 1, 2].map((c) => positions[to * 3 + c] - positions[from * 3 + c]);
    const along = (axis: Float64Array): number => d[0] * axis[0] + d[1] * axis[1] + d[2] * axis[2];
    return [along(rig.left), d[1], along(rig.forward)];
  };
  const [p, q] = [seen(a, aPose, aFrom, aTo), seen(b, bPose, bFrom, bTo)];
  const dot = p[0] * q[0] + p[1] * q[1] + p[2] * q[2];
  const size = Math.hypot(...p) * Math.hypot(...q);
  return size > 0 ? (Math.acos(Math.max(-1, Math.min(1, dot / size))) * 180) / Math.PI : 0;
}
