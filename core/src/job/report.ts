import type { Clip } from '../clip';
import type { Fault } from '../errors';
import { LIMITS, verdictOf, worstFirst, type Figure, type Verdict } from '../judge';
import { figureRecordOf, rateOf, sheetFigure } from '../sheet';
import { STAGES, type Transfer } from '../solve';
import { PROGRAM } from '../version';

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
  readonly plants: Transfer['contacts']['plants'];
  readonly verdict: Verdict;
  /** The same for the plain pose transfer, nothing held. */
  readonly plain: Verdict | undefined;
  /** `overPlainPass`: the solve's time over that of a plain forward-kinematics pass of the same clip. */
  readonly cost: { readonly solveMs: number; readonly jointFramesPerSecond: number; readonly overPlainPass: number } | undefined;
  readonly stages: readonly string[];
  /** Everything that a person should know before using the result. */
  readonly cautions: readonly Fault[];
}

/**
 * Builds the report of a transfer.
 * @param time how long the solve and a plain pass took, when they were timed, in milliseconds
 */
export function reportOf(
  transfer: Transfer,
  verdict: Verdict,
  plain: Verdict | undefined,
  cautions: readonly Fault[],
  time: { readonly solve: number; readonly plainPass: number } | undefined,
): Report {
  const { pairing, take, clip, settings } = transfer;
  const { performer, character, match, scale } = pairing;
  return {
    take: { file: performer.name, frames: take.frames, fps: 1 / take.frameTime },
    character: { file: character.name },
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
    plants: transfer.contacts.plants,
    verdict,
    plain,
    cost: time && {
      solveMs: time.solve,
      jointFramesPerSecond: jointFrames(clip, character.skeleton.names.length) / (time.solve / 1000),
      overPlainPass: time.solve / time.plainPass,
    },
    stages: STAGES.filter(({ plain }) => !settings.plain || !plain).map(({ name }) => name),
    cautions: [
      ...cautions,
      ...worstFirst(verdict.figures)
        .filter(({ mark }) => mark === 'fault' || mark === 'caution')
        .map(cautionOf(performer.name)),
    ],
  };
}

const jointFrames = (clip: Clip, joints: number): number => clip.frames * joints;

/** A figure over its limit, in words. */
const cautionOf =
  (file: string) =>
  ({ id, name, value, unit, mark, words, frame }: Figure): Fault => ({
    code: mark === 'fault' ? 'judge/fault' : 'judge/caution',
    message: `${name} is ${value.toFixed(LIMITS[id].places)}${unit === '' ? '' : ` ${unit}`}${mark === 'fault' ? ', a fault' : ''}: ${words}`,
    where: frame === undefined ? { file } : { file, frame: frame + 1 },
  });

/** A report as it is written into a file: figures as records have them, frames counted from 1, nothing that JSON has no word for. */
export function reportRecord({ verdict, plain, plants, settings, ...report }: Report): object {
  const figures = verdict.figures.map(sheetFigure);
  const before = plain?.figures.map(sheetFigure) ?? [];
  return {
    program: PROGRAM,
    ...report,
    take: { ...report.take, fps: rateOf(report.take.fps) },
    settings,
    firstFrame: 1,
    plants: plants.map(({ side, part, first, last, height, rolls }) => ({ side, part, first: first + 1, last: last + 1, height, rolls })),
    verdict: verdictOf(figures),
    figures: figures.map((figure) => figureRecordOf(figure, before)),
  };
}
