import type { Role } from '../label';
import { DEG } from '../math/trig';
import { gripOf } from './grip';
import { hoverOf } from './hover';
import { insideOf } from './inside';
import { calmOf, usualOf, type Calm } from './calm';
import type { Case } from './case';
import { holdingOf, lyingFrames, middle, slidingOf, type Holding, type Standing } from './holding';
import { jumpOf } from './jumps';
import { faultsOf, restsBeside } from './known';
import { lagsOf, pacesOf } from './lag';
import { isRising, LIMITS, markBy, type FigureId, type Limit, type Mark, type Thresholds } from './limits';
import { look, type JerkKind } from './look';
import { meetingOf } from './meets';
import { onBodyOf } from './onBody';
import { partingOf } from './parting';
import type { PointKind } from './points';
import { heightAtRest, pullOf } from './pull';
import { restsIn, type Rest } from './rests';
import { heightOver, levelFloors } from './slope';
import { makeSkin, type Skin } from './skin';
import { flipsOf, frozenOf } from './still';
import { floorUnder } from './under';
import { unlikeness } from './unlike';

/** One figure of a verdict. */
export interface Figure {
  readonly id: FigureId;
  readonly name: string;
  readonly unit: string;
  /** NaN where there was nothing to look at. */
  readonly value: number;
  /** The performer's own, where it has one. */
  readonly performer: number | undefined;
  readonly mark: Mark;
  /** The limits that it was marked by: where they are relative to the performer, what they came to. */
  readonly limit: Thresholds;
  /** How much was looked at: "14.0 s of 23 rests". */
  readonly looked: string;
  /** Observation in words; where and when it is worst. */
  readonly words: string;
  /** Worst frame, from 0. */
  readonly frame: number | undefined;
}

/** A rest of the performer, as lanes and marks show it. */
export interface RestSeen extends Rest {
  /** The point that rests: "left heel". */
  readonly name: string;
  /** Seconds of it that the character does not hold. */
  readonly lost: number;
  /** Metres over the performer's floor right under it. */
  readonly height: number;
}

/** The judge's verdict on a transfer. */
export interface Verdict {
  readonly frames: number;
  readonly frameTime: number;
  readonly figures: readonly Figure[];
  readonly rests: readonly RestSeen[];
  readonly skin: Skin['known'];
}

/** Rests of less than this in all are too little to praise, seconds. */
const ENOUGH = 0.3;
/** Hands that meet for less than this in all are too little to praise, seconds. */
const MET = 0.1;
/** Accelerations that nobody sees, radians and metres a second squared; and a frame, below which they are rounding. */
const UNSEEN_TURN = 200 * DEG;
const UNSEEN_WAY = 0.08;
const STILL_TURN = 0.02 * DEG;
const STILL_WAY = 2e-5;
/** Arms may stand off by so many degrees while hands meet. */
const MET_LIKENESS = 10;
/** Legs may stand off by so many degrees while the body lies or kneels: its own thickness lifts the hips. */
const LYING_LIKENESS = 8;
/** A hand that keeps its turn while the arm is bent otherwise turns at the wrist: by so much of what the elbow does. */
const WITH_ELBOW = 0.5;
/** Frames around a known fault of the take that are left out. */
const AROUND = 2;
/** A mirror image must fit this much better, and the straight one this badly (mean square of unit directions). */
const MIRROR = 0.6;
const APART = 0.02;

/** Judges a motion beside the take that it came from. Costs about as much as the solve. */
export function judge(given: Case): Verdict {
  const { performer, character, take, scale } = given;
  const { frameTime, frames } = take;
  const skin = makeSkin(character, given.skin);
  const seen = look(given, skin);
  const faults = faultsOf(given);
  const left = new Uint8Array(frames);
  for (const { kind, from, to } of faults) {
    if (kind !== 'drift') left.fill(1, Math.max(0, from - AROUND), Math.min(frames, to + AROUND + 1));
  }
  const count = seen.points.length;
  const legs = unlikeness(performer, character);
  const rests = restsBeside(restsIn(take, performer, seen.theirs, seen.points), left)
    .map((rest): Standing => ({ ...rest, mine: middle(seen.mine, count, rest), theirs: middle(seen.theirs, count, rest) }))
    .filter((rest) => legs.isShared(rest, seen.points[rest.point].name, seen.ownDeepest));
  const at = (frame: number): string => `${(frame * frameTime).toFixed(1)} s`;
  const figure = (id: FigureId, value: number, looked: string, words: string, frame?: number, theirs?: number, loosen = 0): Figure => {
    const { name, unit, good, fault } = LIMITS[id] as Limit;
    const by = isRising(id) ? 0 : loosen;
    const limit = { good: good + by, fault: fault + by };
    return { id, name, unit, value, performer: theirs, mark: markBy(id, value, limit), limit, looked, words, frame };
  };
  const floor = floorUnder(seen, rests);
  const level = seen.tilts && levelFloors(rests, seen.tilts, given);
  const overFloor = (place: Standing['theirs']): number =>
    seen.tilts && level ? heightOver(place, 0, seen.tilts.theirs) - level.theirs : place[1] - floor;
  const ground = floor * scale.lift + given.raised;
  const named: number[] = [];
  const lost = new Map<Standing, number>();
  const figures: Figure[] = [];

  for (const kind of ['feet', 'hands', 'body'] as const) figures.push(held(kind));
  const met = meetingOf(performer, character, seen.points, seen.mine, seen.theirs, left);
  const gripped = gripOf(given, seen.points, seen.mine, seen.theirs);
  const onBody = onBodyOf(given, seen.points, seen.mine, seen.theirs, left);
  figures.push(meet(), touch(), inside(), grip(), slide(), sink(), float(), hover());
  for (const kind of ['knees', 'elbows', 'hips', 'wrists', 'neck'] as const) figures.push(calm(kind));
  figures.push(
    jumps(),
    flips(),
    twist(),
    likeness('likeness.arms', /upperArm|lowerArm/),
    likeness('likeness.legs', /Leg|hock|fetlock/),
    mirrored(),
    pull(),
    parting(),
  );
  figures.push(lag(), frozen(), stretched());
  return {
    frames,
    frameTime,
    figures,
    rests: rests.map((rest) => {
      const { point, kind, first, last } = rest;
      return { point, kind, first, last, name: seen.points[point].name, lost: lost.get(rest) ?? 0, height: overFloor(rest.theirs) };
    }),
    skin: skin.known,
  };

  function held(kind: PointKind): Figure {
    const id = `held.${kind}` as const;
    // Taken out of travel, nothing stays where the performer's stays.
    const holding: Holding = given.inPlace
      ? { rested: 0, held: 0, worst: undefined, notHeld: 0, lost: new Map() }
      : holdingOf(rests, kind, seen.points, seen.mine, seen.theirs, scale, frameTime, character.legLength);
    holding.lost.forEach((seconds, rest) => lost.set(rest, seconds));
    const share = holding.rested >= ENOUGH ? (100 * holding.held) / holding.rested : NaN;
    const { worst, notHeld } = holding;
    const all = `held ${holding.held.toFixed(1)} of ${holding.rested.toFixed(1)} s`;
    const missed =
      worst && notHeld > 0
        ? `; ${notHeld} ${notHeld === 1 ? 'rest' : 'rests'} not held, the worst the ${seen.points[worst.rest.point].name} for ${worst.seconds.toFixed(1)} s at ${at(worst.rest.first)}, ${mm(worst.away)} away`
        : '';
    if (worst) named.push(worst.rest.first);
    const looked = given.inPlace
      ? 'not looked at in place'
      : `${holding.rested.toFixed(1)} s of ${rests.filter((rest) => rest.kind === kind).length} rests`;
    return figure(id, share, looked, all + missed, notHeld > 0 ? worst?.rest.first : undefined);
  }

  function meet(): Figure {
    const enough = met.frames * frameTime >= MET && !given.inPlace;
    const words = met.first < 0 ? 'the hands meet as the performer’s do' : `${mm(met.away)} off from ${at(met.first)} on`;
    return figure(
      'meet',
      enough ? met.away * 1000 : NaN,
      `${(met.frames * frameTime).toFixed(1)} s`,
      words,
      met.first < 0 ? undefined : met.first,
    );
  }

  function touch(): Figure {
    if (!onBody) return figure('touch', NaN, 'no mesh to look at', 'the character has no mesh');
    const { seconds, away, frame, what } = onBody;
    const enough = seconds >= ENOUGH && !given.inPlace;
    const words = what === '' ? 'the hands come to the body as the performer’s do' : `most the ${what} at ${at(frame)}`;
    return figure('touch', enough ? away * 1000 : NaN, `${seconds.toFixed(1)} s`, words, enough && frame >= 0 ? frame : undefined);
  }

  function inside(): Figure {
    const found = insideOf(character, given.skin, seen.points, seen.mine, given.result);
    if (!found) return figure('inside', NaN, 'no mesh to look at', 'the character has no mesh');
    const { depth, frame, what, looked } = found;
    const words = what === '' ? 'no hand is in it' : `deepest the ${what} at ${at(frame)}`;
    return figure('inside', Math.max(0, depth) * 1000, `${looked} frames`, words, depth > 0.002 ? frame : undefined);
  }

  function grip(): Figure {
    if (!gripped) return figure('grip', NaN, 'no prop on both bodies', 'nothing beside the body is held');
    const { seconds, away, frame, what } = gripped;
    const words = what === '' ? 'the hands keep to what they hold' : `most ${what} from ${at(frame)} on`;
    return figure('grip', seconds >= ENOUGH ? away * 1000 : NaN, `${seconds.toFixed(1)} s`, words, frame < 0 ? undefined : frame);
  }

  function slide(): Figure {
    const { way, own, seconds, worst } = slidingOf(rests, seen.points, seen.mine, seen.theirs, scale.stride, frameTime);
    const enough = seconds >= ENOUGH && !given.inPlace;
    const rate = enough ? (1000 * way) / seconds : NaN;
    const theirs = enough ? (1000 * own) / seconds : NaN;
    const words =
      worst && worst.way > 0.002
        ? `worst the ${seen.points[worst.rest.point].name} at ${at(worst.rest.first)}: ${mm(worst.way)} more than the performer`
        : 'no foot slides more than the performer’s';
    // Motion of the performer's feet may be followed.
    return figure(
      'slide',
      rate,
      `${seconds.toFixed(1)} s of rests`,
      words,
      worst?.rest.first,
      theirs,
      Math.max(0, theirs - LIMITS.slide.good) || 0,
    );
  }

  function sink(): Figure {
    const under = level ?? { mine: ground, theirs: floor };
    const parts = (['feet', 'hands', 'body'] as const).map((part) => ({
      part,
      ...seen.deepest[part],
      depth: under.mine - seen.deepest[part].height,
    }));
    const worst = parts.reduce((a, b) => (b.depth > a.depth ? b : a));
    const depth = Math.max(0, worst.depth) * 1000;
    if (depth > 0) named.push(worst.frame);
    const own = Math.max(0, under.theirs - seen.ownLowest) * scale.lift * 1000;
    const words = parts
      .filter((part) => part.depth > 0.0005)
      .map(({ part, depth: d, frame, joint }) => `${part} ${mm(d)} at ${at(frame)} (${character.skeleton.names[joint]})`)
      .join('; ');
    const looked = `${seen.skinFrames} frames, ${skin.count} points of ${skin.known === 'mesh' ? 'the skin' : 'capsules'}`;
    return figure('sink', depth, looked, words === '' ? 'nothing below the floor' : words, depth > 0.5 ? worst.frame : undefined, own);
  }

  function float(): Figure {
    let sum = 0;
    let looked = 0;
    let worst = { away: 0, frame: -1 };
    for (const rest of rests) {
      if (rest.kind !== 'feet') continue;
      const on = (rest.theirs[1] - floor) * scale.lift + ground;
      for (let f = rest.first; f <= rest.last; f++) {
        const away = Math.abs(seen.mine[(f * count + rest.point) * 3 + 1] - on);
        sum += away;
        looked++;
        if (away > worst.away) worst = { away, frame: f };
      }
    }
    const value = looked * frameTime >= ENOUGH ? (sum / looked) * 1000 : NaN;
    const words = worst.frame < 0 ? 'no foot rests' : `at most ${mm(worst.away)}, at ${at(worst.frame)}`;
    return figure('float', value, `${(looked * frameTime).toFixed(1)} s of rests`, words, worst.frame < 0 ? undefined : worst.frame);
  }

  function hover(): Figure {
    if (seen.tilts) return figure('hover', NaN, 'the floor slopes', 'not looked at on a slope');
    const { seconds, away, what, frame } = hoverOf(given, skin, seen.points, rests, ({ theirs }) => overFloor(theirs), ground);
    const words = what === '' ? 'what lies on the floor lies on it' : `${mm(away)} under the ${what} at ${at(frame)}`;
    return figure('hover', seconds >= ENOUGH ? away * 1000 : NaN, `${seconds.toFixed(1)} s of rests`, words, frame < 0 ? undefined : frame);
  }

  function calm(kind: JerkKind): Figure {
    const series = [...seen.jerks].filter(([, jerks]) => jerks.kind === kind).map(([name, jerks]) => ({ name, ...jerks }));
    const squared = frameTime * frameTime;
    const unseen = kind === 'hips' ? Math.max(STILL_WAY, UNSEEN_WAY * squared) : Math.max(STILL_TURN, UNSEEN_TURN * squared);
    const elbows = [...seen.jerks.values()].filter((jerks) => kind === 'wrists' && jerks.kind === 'elbows');
    const found: Calm = calmOf(series, left, Math.max(unseen, WITH_ELBOW * usualOf(elbows, left)));
    if (found.frame !== undefined && kind === 'knees') named.push(found.frame);
    const words = found.frame === undefined ? 'as calm as the performer' : `most at ${at(found.frame)}, ${found.where}`;
    const out = left.reduce((sum, v) => sum + v, 0);
    return figure(kind, found.ratio, `${frames - out} frames${out > 0 ? `, ${out} known faults left out` : ''}`, words, found.frame);
  }

  function jumps(): Figure {
    const { away, point, frame } = jumpOf(seen.mine, seen.theirs, count, Math.max(scale.lift, scale.stride), left, frameTime);
    const words = point < 0 ? 'nothing leaves its way' : `most the ${seen.points[point].name} at ${at(frame)}`;
    return figure('jumps', frames > 2 ? away * 1000 : NaN, `${count} points, ${frames} frames`, words, point < 0 ? undefined : frame);
  }

  function flips(): Figure {
    const { count: flipped, role, frame } = flipsOf(seen.roles, seen.myTurns, seen.theirTurns);
    return figure(
      'flips',
      frames > 1 ? flipped : NaN,
      `${seen.roles.length} joints`,
      flipped === 0 ? 'none' : `first ${role} at ${at(frame)}`,
      flipped > 0 ? frame : undefined,
    );
  }

  function twist(): Figure {
    const { degrees, joint, frame } = seen.twist;
    const words = joint < 0 ? 'no more than the performer’s' : `${character.skeleton.names[joint]} at ${at(frame)}`;
    return figure('twist', degrees, `${frames} frames`, words, joint < 0 ? undefined : frame);
  }

  function likeness(id: 'likeness.arms' | 'likeness.legs', pattern: RegExp): Figure {
    const list = [...seen.angles].filter(([role]) => pattern.test(role));
    const worst = list.reduce<[Role, number] | undefined>((a, b) => (a === undefined || b[1] > a[1] ? b : a), undefined);
    const mean = list.length === 0 ? NaN : list.reduce((sum, [, angle]) => sum + angle, 0) / list.length / DEG;
    return figure(
      id,
      mean,
      `${list.length} segments, ${seen.compared} frames`,
      worst ? `most ${worst[0]}, ${(worst[1] / DEG).toFixed(1)}°` : 'nothing alike',
      undefined,
      undefined,
      // Hands that meet each other or the body, or hold a thing of its own size, bend arms of other proportions otherwise.
      id === 'likeness.arms'
        ? MET_LIKENESS * Math.min(1, (met.frames + ((onBody?.seconds ?? 0) + (gripped?.seconds ?? 0)) / frameTime) / frames)
        : (LYING_LIKENESS * lyingFrames(rests, floor, performer.legLength)) / frames,
    );
  }

  function mirrored(): Figure {
    const size = Math.max(1, seen.compared * seen.angles.size);
    const is = seen.apart.straight / size > APART && seen.apart.mirrored < MIRROR * seen.apart.straight;
    return figure(
      'mirrored',
      seen.angles.size === 0 ? NaN : is ? 1 : 0,
      `${seen.angles.size} segments`,
      is ? 'left and right are exchanged' : 'no',
    );
  }

  function pull(): Figure {
    const found = pullOf(given, skin, named);
    if (!found) return figure('pull', NaN, 'no mesh to look at', 'the character has no mesh');
    const height = heightAtRest(character.restPose.positions);
    const words = found.most <= 0 ? 'nothing is drawn out' : `${mm(found.most)} at ${at(found.frame)} (${found.joint ?? ''})`;
    return figure('pull', (100 * found.most) / height, `${found.edges} edges in ${found.frames} frames`, words, found.frame);
  }

  function parting(): Figure {
    const found = partingOf(given);
    const words = found.joint === undefined ? 'every joint is at its place' : `${found.joint} at ${at(found.frame ?? 0)}`;
    return figure('parting', found.most * 1000, `${found.looked} joints`, words, found.frame);
  }

  function lag(): Figure {
    const lags = lagsOf(pacesOf(seen), frameTime);
    const worst = lags.reduce((a, b) => (Math.abs(b.frames) > Math.abs(a.frames) ? b : a), { name: '', frames: 0 });
    const words =
      worst.frames === 0 ? 'none' : `${worst.name} ${worst.frames > 0 ? 'comes late' : 'comes early'} by ${Math.abs(worst.frames)} frames`;
    return figure('lag', frames > 20 ? Math.abs(worst.frames) : NaN, `${lags.length} limbs`, words);
  }

  function frozen(): Figure {
    const list = frozenOf(seen.roles, seen.myTurns, seen.theirTurns, frameTime).filter(
      ({ role, first, last }) =>
        legs.isCompared(role) && !(/\.(lowerArm|hand)$/.test(role) && onBody?.isOn(role.split('.')[0], first, last)),
    );
    const words =
      list.length === 0
        ? 'none'
        : list
            .slice(0, 3)
            .map(({ role, first, last }) => `${role} from ${at(first)} to ${at(last)}`)
            .join('; ');
    return figure('frozen', frames > 20 ? list.length : NaN, `${seen.roles.length} joints`, words, list[0]?.first);
  }

  function stretched(): Figure {
    const { frames: locked, first, limb } = seen.stretched;
    return figure(
      'stretched',
      (100 * locked) / frames,
      `${frames} frames`,
      locked === 0 ? 'none' : `first the ${limb} at ${at(first)}`,
      locked === 0 ? undefined : first,
    );
  }
}

const mm = (metres: number): string => `${(metres * 1000).toFixed(metres < 0.01 ? 1 : 0)} mm`;
