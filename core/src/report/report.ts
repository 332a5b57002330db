import type { Figures } from '../check';
import type { Fault } from '../errors';
import type { Transfer } from '../solve';
import { STAGES } from '../solve';

/** The report of a transfer: what was decided, what came out, in plain data. Lengths in mm where not said otherwise. */
export interface Report {
  readonly take: { readonly file: string; readonly frames: number; readonly fps: number };
  readonly character: { readonly file: string };
  readonly settings: Transfer['settings'];
  readonly pairing: {
    readonly restMatch: string;
    readonly performerRest: string;
    readonly characterRest: string;
    readonly lift: number;
    readonly stride: number;
    readonly reason: string;
    readonly residuals: readonly { role: string; before: number; after: number }[];
  };
  /** Metres. */
  readonly floor: number;
  readonly figures: Figures;
  /** The same figures for the plain pose transfer, nothing pinned. */
  readonly plain: Figures | undefined;
  /** `overPlainPass`: the solve's time over that of a plain forward-kinematics pass of the same clip. */
  readonly cost: { readonly solveMs: number; readonly jointFramesPerSecond: number; readonly overPlainPass: number } | undefined;
  readonly stages: readonly string[];
  readonly warnings: readonly Fault[];
}

/** Builds the report of a transfer. @param time how long the solve and a plain pass took, when they were timed, in milliseconds */
export function reportOf(
  transfer: Transfer,
  figures: Figures,
  plain: Figures | undefined,
  time: { readonly solve: number; readonly plainPass: number } | undefined,
): Report {
  const { pairing, take, clip, settings } = transfer;
  const { performer, character, match, scale } = pairing;
  const jointFrames = clip.frames * character.skeleton.names.length;
  return {
    take: { file: performer.file.name, frames: take.frames, fps: 1 / take.frameTime },
    character: { file: character.file.name },
    settings,
    pairing: {
      restMatch: match.method,
      performerRest: performer.rest.reason,
      characterRest: character.rest.reason,
      lift: scale.lift,
      stride: scale.stride,
      reason: scale.reason,
      residuals: match.residuals,
    },
    floor: transfer.floor,
    figures,
    plain,
    cost: time && {
      solveMs: time.solve,
      jointFramesPerSecond: jointFrames / (time.solve / 1000),
      overPlainPass: time.solve / time.plainPass,
    },
    stages: STAGES.filter((s) => !settings.plain || ['pose', 'root', 'twist', 'finish'].includes(s.id)).map((s) => s.name),
    warnings: [...performer.warnings, ...character.warnings, ...pairing.warnings],
  };
}
