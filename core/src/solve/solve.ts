import { makeContinuous, resample, type Clip } from '../clip/clip';
import type { Pairing } from '../match';
import { rotate, unrotate } from '../math/quat';
import { planFootPath, type FootPath } from './footPath';
import { solveLeg } from './limbs';
import { pelvisDrop } from './pelvis';
import { findPlants, type Contacts } from './plants';
import { DEFAULT_SOLVE, type SolveSettings, type StageId } from './settings';
import { planStances, type FootPlan } from './stances';
import { transferPose } from './transfer';
import { LEG, type Transferred } from './tracks';
import { shareTwist } from './twist';
import { relieveWrists } from './wrists';

/** A take solved through a pairing. */
export interface Transfer {
  readonly pairing: Pairing;
  readonly settings: SolveSettings;
  /** The take as it was solved: metres, Y up, at the result's frame rate. */
  readonly take: Clip;
  /** The character's motion: metres, Y up. */
  readonly clip: Clip;
  readonly contacts: Contacts;
  /** Height of the character's floor. */
  readonly floor: number;
  readonly footPlans: readonly FootPlan[];
  /** Metres that the hips give way, one per frame. */
  readonly drop: Float64Array;
  readonly stretched: number;
  readonly worstMiss: number;
}

/**
 * Solves a take through a pairing. Bit for bit the same for the same input, in a browser and on a server.
 * @param clip on the performer's skeleton, metres, Y up (`clipOf`)
 * @param onStage called when a stage is done, for progress and for timing
 * @param known contacts found before on the same take, so that they are not found again
 */
export function solve(
  pairing: Pairing,
  clip: Clip,
  settings: SolveSettings = DEFAULT_SOLVE,
  onStage: (stage: StageId) => void = () => undefined,
  known?: Contacts,
): Transfer {
  const take = settings.fps === undefined ? clip : resample(pairing.performer.skeleton, clip, 1 / settings.fps);
  const moved = transferPose(pairing, take);
  onStage('root');
  const contacts = known ?? findPlants(moved.probes, take.frames, take.frameTime, pairing.performer.legLength);
  onStage('plants');
  let floor = contacts.floor * pairing.scale.lift;
  if (settings.floor === 'zero') {
    raise(moved, -floor);
    floor = 0;
  }
  const { character } = pairing;
  const joints = character.skeleton.parents.length;
  let footPlans: FootPlan[] = [];
  let drop = new Float64Array(take.frames);
  let stretched = 0;
  let worstMiss = 0;
  if (!settings.plain) {
    footPlans = moved.legs.map((leg, i) => planStances(contacts.plants, leg, character.feet[i]));
    const paths: FootPath[] = moved.legs.map((leg, i) => planFootPath(leg, character.feet[i], footPlans[i], floor, take.frameTime));
    onStage('feet');
    drop = pelvisDrop(moved.legs, paths, take.frameTime, settings.softReach) as Float64Array<ArrayBuffer>;
    lower(moved, drop);
    onStage('pelvis');
    moved.legs.forEach((leg, i) => {
      const misses = solveLeg(leg, paths[i], kneeAxis(pairing, leg.upper), drop, settings.softReach, character.skeleton, moved.rotations);
      stretched += misses.stretched;
      worstMiss = Math.max(worstMiss, misses.worst);
    });
    onStage('limbs');
  }
  relieveWrists(pairing, take, moved.rotations);
  shareTwist(character, moved.rotations);
  onStage('twist');
  if (settings.inPlace) removeTravel(moved);
  makeContinuous(moved.rotations, joints);
  onStage('finish');
  const moves = [{ joint: moved.mover, values: moved.moves }];
  if (moved.ground) moves.unshift({ joint: moved.ground.joint, values: moved.ground.moves });
  const result: Clip = { name: take.name, frameTime: take.frameTime, frames: take.frames, rotations: moved.rotations, moves };
  return { pairing, settings, take, clip: result, contacts, floor, footPlans, drop, stretched, worstMiss };
}

/** The axis of the knee in the upper leg's frame: the body's left at the matched rest, square to the bone. */
function kneeAxis({ match, performer }: Pairing, upper: number): Float64Array {
  const axis = performer.left.slice();
  unrotate(axis, 0, match.pose.rotations, upper * 4, axis, 0);
  return axis;
}

function raise(moved: Transferred, by: number): void {
  const v = new Float64Array(3);
  for (let f = 0; f < moved.frames; f++) {
    v[0] = 0;
    v[1] = by;
    v[2] = 0;
    unrotate(v, 0, moved.moverParentQ, 0, v, 0);
    for (let c = 0; c < 3; c++) moved.moves[f * 3 + c] += v[c];
    for (const { data } of moved.legs) {
      const o = f * LEG.stride;
      for (const part of [LEG.hip, LEG.knee, LEG.hock, LEG.ankle]) data[o + part + 1] += by;
    }
  }
}

/** Lowers the hips in the result; the leg records keep the plain places. */
function lower(moved: Transferred, drop: Float64Array): void {
  const v = new Float64Array(3);
  for (let f = 0; f < moved.frames; f++) {
    if (drop[f] === 0) continue;
    v[0] = 0;
    v[1] = -drop[f];
    v[2] = 0;
    unrotate(v, 0, moved.moverParentQ, 0, v, 0);
    for (let c = 0; c < 3; c++) moved.moves[f * 3 + c] += v[c];
  }
}

/** Takes the straight way from the first frame to the last out of the path, and keeps the sway about it. */
function removeTravel(moved: Transferred): void {
  const { frames } = moved;
  if (moved.ground) {
    const m = moved.ground.moves;
    for (let f = 0; f < frames; f++) {
      m[f * 3] = 0;
      m[f * 3 + 2] = 0;
    }
    return;
  }
  const world = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) rotate(world, f * 3, moved.moverParentQ, 0, moved.moves, f * 3);
  const from = world.slice(0, 3);
  const to = world.slice((frames - 1) * 3);
  for (let f = 0; f < frames; f++) {
    const t = frames > 1 ? f / (frames - 1) : 0;
    for (const c of [0, 2]) world[f * 3 + c] -= from[c] + (to[c] - from[c]) * t;
  }
  for (let f = 0; f < frames; f++) unrotate(moved.moves, f * 3, moved.moverParentQ, 0, world, f * 3);
}
