import type { Plant, RestSeen, Side, Touch } from '@hollow-stride/core';
import type { Solved } from '../../solver/messages';

/** A lane: what a foot or a hand does over time. */
export type LaneOf =
  | { readonly kind: 'plant'; readonly side: Side; readonly part: 'heel' | 'ball' }
  | { readonly kind: 'touch'; readonly side: Side; readonly on: 'rest' | 'hand' };

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
  /** What is held. */
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

export const keyOf = (of: LaneOf): string =>
  of.kind === 'plant' ? `${of.side} ${of.part}` : of.on === 'hand' ? 'hands' : `${of.side} hand`;

/** What a bar of a lane says: "left heel planted", "hands met". */
const verbOf = (of: LaneOf): string => (of.kind === 'plant' ? 'planted' : of.on === 'hand' ? 'together' : 'at rest');

const isIn = (of: LaneOf, one: Plant | Touch): boolean =>
  of.side === one.side && (of.kind === 'plant' ? 'part' in one && one.part === of.part : 'on' in one && one.on === of.on);

/** The points whose rests stand in a lane. */
function pointsOf(of: LaneOf): readonly string[] {
  if (of.kind === 'plant') return [`${of.side} ${of.part}`];
  return of.on === 'rest' ? [`${of.side} palm`] : [];
}

/** All lanes of a solved take. @param rests what the judge saw, of the transfer that is shown */
export function lanesOf(solved: Solved | undefined, rests: readonly RestSeen[]): LaneGroup[] {
  const all: readonly (Plant | Touch)[] = [...(solved?.contacts.plants ?? []), ...(solved?.touches ?? [])];
  const frameTime = solved?.take.frameTime ?? 0;
  const lane = (of: LaneOf): Lane => {
    const key = keyOf(of);
    const points = pointsOf(of);
    return {
      key,
      of,
      name: of.kind === 'plant' ? of.part : of.on === 'hand' ? 'together' : `${of.side} rests`,
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
      lanes: PLANTS.filter((of) => of.side === side).map(lane),
    })),
    { name: 'hands', curve: undefined, lanes: TOUCHES.map(lane) },
  ];
}

function restBar({ name, first, last, lost, height }: RestSeen, frameTime: number): RestBar {
  const seconds = ((last - first + 1) * frameTime).toFixed(1);
  const isLost = lost > LOST;
  const text = `${name} rests for ${seconds} s, frames ${first + 1} to ${last + 1}${isLost ? `; ${lost.toFixed(1)} s of it not held` : ', held'}`;
  return { first, last, isLost, height, text };
}
