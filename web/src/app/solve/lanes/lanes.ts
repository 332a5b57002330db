import { BODY_PARTS, type BodyPart, type BodyRest, type Plant, type RestSeen, type Role, type Side, type Touch } from '@hollow-stride/core';
import type { Solved } from '../../solver/messages';

/** A lane: what a foot or a hand does over time. */
export type LaneOf =
  | { readonly kind: 'plant'; readonly side: Side; readonly part: 'heel' | 'ball' }
  | { readonly kind: 'touch'; readonly side: Side; readonly on: 'rest' | 'hand' }
  | { readonly kind: 'touch'; readonly side: Side; readonly on: 'body' | 'prop'; readonly part: Role }
  | { readonly kind: 'body'; readonly part: BodyPart };

/** A span of frames in a lane, both ends included. */
export interface Bar {
  readonly first: number;
  readonly last: number;
  readonly text: string;
}

/** A rest that the judge saw. */
export interface RestBar extends Bar {
  readonly isLost: boolean;
  /** Metres over the performer's floor. */
  readonly height: number;
}

export interface Lane {
  readonly key: string;
  readonly of: LaneOf;
  readonly name: string;
  readonly isLeft: boolean;
  /** The contact that is held. */
  readonly bars: readonly Bar[];
  readonly rests: readonly RestBar[];
}

export interface LaneGroup {
  readonly name: string;
  readonly lanes: readonly Lane[];
  /** The side whose foot's height and speed run behind the lanes. */
  readonly curve: Side | undefined;
}

/** A rest of which more than this is not held, seconds, is marked. */
const LOST = 0.06;

const PLANTS: readonly LaneOf[] = (['left', 'right'] as const).flatMap((side) =>
  (['heel', 'ball'] as const).map((part) => ({ kind: 'plant' as const, side, part })),
);
const TOUCHES: readonly LaneOf[] = [
  { kind: 'touch', side: 'left', on: 'rest' },
  { kind: 'touch', side: 'right', on: 'rest' },
  { kind: 'touch', side: 'left', on: 'hand' },
];

/** Name of a role for people: "left thigh". */
const PARTS: Readonly<Record<string, string>> = { hips: 'trunk', upperLeg: 'thigh', upperArm: 'upper arm', lowerArm: 'forearm' };
export const partName = (role: string): string =>
  role
    .replace(/^extra\.(.+)\.\d+$/, '$1')
    .split('.')
    .map((word) => PARTS[word] ?? word)
    .join(' ');

export function keyOf(of: LaneOf): string {
  if (of.kind === 'plant') return `${of.side} ${of.part}`;
  if (of.kind === 'body') return partName(of.part);
  if (of.on === 'body' || of.on === 'prop') return `${of.side} hand on ${partName(of.part)}`;
  return of.on === 'hand' ? 'hands' : `${of.side} hand`;
}

/** Name in front of a lane. */
function nameOf(of: LaneOf): string {
  if (of.kind === 'plant') return of.part;
  if (of.kind === 'body') return partName(of.part);
  // An arm that is touched is always the other one.
  if (of.on === 'prop') return `${of.side} on ${partName(of.part)}`;
  if (of.on === 'body') return `${of.side} on ${partName(of.part.replace(`${of.side}.`, '').replace(/^(left|right)\.(?=.*Arm)/, ''))}`;
  return of.on === 'hand' ? 'together' : `${of.side} hand rests`;
}

/** Text of a bar: "left heel planted", "hands together". */
function verbOf(of: LaneOf): string {
  if (of.kind === 'plant') return 'planted';
  if (of.kind === 'body') return 'on the floor';
  return { hand: 'together', body: 'touching', prop: 'holding', rest: 'at rest' }[of.on];
}

function isIn(of: LaneOf, one: Plant | Touch | BodyRest): boolean {
  if (of.kind === 'body') return !('side' in one) && one.part === of.part;
  if (!('side' in one) || one.side !== of.side) return false;
  if (of.kind === 'plant') return !('on' in one) && one.part === of.part;
  return 'on' in one && one.on === of.on && !('part' in of && one.part !== of.part);
}

/** The points whose rests stand in a lane. */
function pointsOf(of: LaneOf): readonly string[] {
  if (of.kind === 'plant') return [`${of.side} ${of.part}`];
  if (of.kind === 'body') return [of.part.replace('.', ' ')];
  return of.on === 'rest' ? [`${of.side} palm`] : [];
}

/** Lanes of what a hand touches of the own body, and of parts of the body on the floor: those that there is anything in; and of props. */
function furtherLanes(solved: Solved | undefined): { readonly touches: readonly LaneOf[]; readonly body: readonly LaneOf[] } {
  const touches = new Map<string, LaneOf>();
  for (const { side, on, part } of solved?.touches ?? []) {
    if ((on === 'body' || on === 'prop') && part !== undefined) touches.set(`${side} ${part}`, { kind: 'touch', side, on, part });
  }
  for (const { role } of solved?.props ?? []) {
    for (const side of ['left', 'right'] as const) touches.set(`${side} ${role}`, { kind: 'touch', side, on: 'prop', part: role });
  }
  const parts = new Set(solved?.lying.map(({ part }) => part));
  return { touches: [...touches.values()], body: BODY_PARTS.filter((part) => parts.has(part)).map((part) => ({ kind: 'body', part })) };
}

/** All lanes of a solved take. @param rests what the judge saw, of the transfer that is shown */
export function lanesOf(solved: Solved | undefined, rests: readonly RestSeen[]): LaneGroup[] {
  const all: readonly (Plant | Touch | BodyRest)[] = [
    ...(solved?.contacts.plants ?? []),
    ...(solved?.touches ?? []),
    ...(solved?.lying ?? []),
  ];
  const further = furtherLanes(solved);
  const frameTime = solved?.take.frameTime ?? 0;
  const lane = (of: LaneOf): Lane => {
    const key = keyOf(of);
    const points = pointsOf(of);
    return {
      key,
      of,
      name: nameOf(of),
      isLeft: key.startsWith('left'),
      bars: all
        .filter((one) => isIn(of, one))
        .map(({ first, last }) => ({ first, last, text: `${key} ${verbOf(of)}, frames ${first + 1} to ${last + 1}` })),
      rests: rests.filter(({ name }) => points.includes(name)).map((rest) => restBar(rest, frameTime)),
    };
  };
  return [
    ...(['left', 'right'] as const).map((side) => ({
      name: side,
      curve: side,
      lanes: PLANTS.filter((of) => of.kind === 'plant' && of.side === side).map(lane),
    })),
    { name: 'hands', curve: undefined, lanes: [...TOUCHES, ...further.touches].map(lane) },
    ...(further.body.length > 0 ? [{ name: 'body', curve: undefined, lanes: further.body.map(lane) }] : []),
  ];
}

function restBar({ name, first, last, lost, height }: RestSeen, frameTime: number): RestBar {
  const seconds = ((last - first + 1) * frameTime).toFixed(1);
  const isLost = lost > LOST;
  const text = `${name} rests for ${seconds} s, frames ${first + 1} to ${last + 1}${isLost ? `; ${lost.toFixed(1)} s of it not held` : ', held'}`;
  return { first, last, isLost, height, text };
}
