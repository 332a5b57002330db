import {
  copyPose,
  extraChains,
  laddersOf,
  limbSegments,
  sharedProps,
  solveWindow,
  unlikeLegs,
  type Rig,
  type MotionFile,
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
  const { transfer, first } = solveWindow(pairing, take, settings, contacts, Math.min(frame, take.frames - 1), AROUND, touchUps);
  const { performer, character, match, scale } = pairing;
  return {
    pair: request,
    performer: matchBody(performer, job.take, request.take.file),
    character: matchBody(character, job.character, request.character.file),
    matched: copyPose(match.pose),
    segments: segmentsOf(performer, character, match.residuals),
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
