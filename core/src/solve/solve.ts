import type { Clip } from '../clip';
import type { Contacts } from '../contact';
import type { Pairing } from '../match';
import { NO_TOUCH_UPS, type LaidTouchUps } from '../touchup';
import { DEFAULT_SOLVE, type SolveSettings } from './settings';
import type { Parts } from './parts';
import type { Past } from './past';
import { STAGES, type StageId } from './stages';

/** A take solved through a pairing. */
export interface Transfer {
  readonly pairing: Pairing;
  readonly settings: SolveSettings;
  /** The take as it was solved: metres, Y up. */
  readonly take: Clip;
  /** The character's motion: metres, Y up. */
  readonly clip: Clip;
  readonly contacts: Contacts;
  /** Height of the character's floor. */
  readonly floor: number;
  /** How far the body was sent another way, to the left, radians, frame by frame. */
  readonly heading: Float64Array | undefined;
  /** Targets that the solve could not reach, limb by limb. */
  readonly misses: readonly Miss[];
}

/** A foot or hand that could not come to its place. */
export interface Miss {
  readonly limb: string;
  /** Metres that it stayed away. */
  readonly distance: number;
  /** Where it is worst, from 0. */
  readonly frame: number;
  /** Its whole stance was moved nearer, or it only stays behind in some frames. */
  readonly kind: 'moved' | 'short';
}

interface Kept {
  readonly from: readonly unknown[];
  readonly result: unknown;
}

/** Results of the stages by their inputs: a solve with the same memory runs only the stages whose inputs have changed. */
export class SolveMemory {
  private readonly kept = new Map<StageId, Kept>();

  recall(id: StageId, from: readonly unknown[]): { readonly result: unknown } | undefined {
    const kept = this.kept.get(id);
    return kept && kept.from.length === from.length && kept.from.every((value, i) => Object.is(value, from[i])) ? kept : undefined;
  }

  keep(id: StageId, from: readonly unknown[], result: unknown): void {
    this.kept.set(id, { from, result });
  }
}

export interface SolveOptions {
  /** Called when a stage has run, for progress and for timing; stages whose result was kept are not named. */
  readonly onStage?: (stage: StageId) => void;
  readonly memory?: SolveMemory;
  /** Contacts known already: found before, or edited. */
  readonly contacts?: Contacts;
  readonly touchUps?: LaidTouchUps;
  /** What is final already, where frames are solved as they come. */
  readonly past?: Past;
}

/** What is asked for once all stages have run. */
const RESULTS: readonly (keyof Parts)[] = ['contacts', 'feet', 'lean', 'arms', 'tails', 'finish'];
/** By part, the last stage that needs it; behind it only a memory keeps the part. */
const LAST = new Map(STAGES.flatMap(({ id, needs }) => needs.filter((need) => !RESULTS.includes(need)).map((need) => [need, id] as const)));

/**
 * Solves a take through a pairing. Bit for bit the same for the same input, in a browser and on a server.
 * @param take on the performer's skeleton, metres, Y up
 */
export function solve(pairing: Pairing, take: Clip, settings: SolveSettings = DEFAULT_SOLVE, options: SolveOptions = {}): Transfer {
  const { contacts, finish, misses } = runStages(pairing, take, settings, options);
  return {
    pairing,
    settings,
    take,
    clip: finish.clip,
    contacts,
    floor: finish.floor,
    heading: options.touchUps?.steer?.heading,
    misses,
  };
}

/** Results of the stages that are asked for once all have run. */
export interface Solved extends Pick<Parts, 'contacts' | 'feet' | 'lean' | 'arms' | 'tails' | 'finish'> {
  readonly misses: readonly Miss[];
}

/** Runs the stages of a solve. */
export function runStages(pairing: Pairing, take: Clip, settings: SolveSettings, options: SolveOptions): Solved {
  const { memory, onStage, touchUps = NO_TOUCH_UPS, past } = options;
  const misses: Miss[] = [];
  const parts: Partial<Record<keyof Parts, unknown>> = { pairing, take, contacts: options.contacts, past, ...touchUps };
  for (const stage of STAGES) {
    if (parts[stage.id] !== undefined) continue;
    // Each stage has found by then what it needs: the order of the list says so.
    const given = parts as unknown as Parts;
    if (settings.plain && stage.plain) parts[stage.id] = stage.plain(given);
    else {
      const from = [...stage.needs.map((need) => parts[need]), ...stage.settings.map((name) => valueOf(settings[name]))];
      const kept = memory?.recall(stage.id, from);
      parts[stage.id] = kept ? kept.result : stage.run(given, settings);
      if (!kept) {
        memory?.keep(stage.id, from, parts[stage.id]);
        onStage?.(stage.id);
      }
    }
    if (stage.id === 'legs') misses.push(...movedIn(given.plan, given.feet), ...shortLimbs('leg', 'foot', given.plan, given.legs));
    if (stage.id === 'arms') misses.push(...shortLimbs('arm', 'hand', given.plan, given.arms));
    for (const need of stage.needs) if (LAST.get(need) === stage.id) parts[need] = undefined;
  }
  const { contacts, feet, lean, arms, tails, finish } = parts as unknown as Parts;
  return { contacts, feet, lean, arms, tails, finish, misses };
}

/** A setting of several parts is the same while all of them are, whoever made it. */
function valueOf(setting: SolveSettings[keyof SolveSettings]): unknown {
  return typeof setting === 'object' ? JSON.stringify(setting) : setting;
}

/** Ends of limbs that stay away by less than this are where they should be, metres. */
const REACHED = 5e-4;

/** Limbs of a kind that stay short of their places. */
function shortLimbs(kind: 'leg' | 'arm', end: string, { limbs }: Parts['plan'], solved: Parts['legs']): Miss[] {
  const sides = limbs.filter((limb) => limb.kind === kind).map(({ side }) => side);
  return solved
    .map(({ miss }, i): Miss => ({ limb: `${sides[i]} ${end}`, distance: miss.distance, frame: miss.frame, kind: 'short' }))
    .filter(({ distance }) => distance > REACHED);
}

/** The stance of each foot that stands farthest from where the take puts it. */
function movedIn({ limbs }: Parts['plan'], { moved }: Parts['feet']): Miss[] {
  return limbs
    .filter(({ kind }) => kind === 'leg')
    .flatMap(({ side }, leg): Miss[] => {
      const worst = moved.filter((stance) => stance.leg === leg).sort((a, b) => b.by - a.by)[0] as (typeof moved)[number] | undefined;
      return worst && worst.by > REACHED ? [{ limb: `${side} foot`, distance: worst.by, frame: worst.first, kind: 'moved' }] : [];
    });
}
