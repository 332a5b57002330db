import { DEFAULT_FACE_ROW, DEFAULT_NAME_TABLE, type FaceRow, type FaceSource, type FaceTurn, type NameTable } from '../recipe';
import { proposeNames, type FaceReason } from './propose';
import { readFaceNames } from './words';

/** A shape of the character with what drives it. */
export interface ResolvedRow extends Omit<FaceRow, 'from'> {
  readonly shape: string;
  readonly from: readonly FaceSource[];
  readonly reason: FaceReason;
  readonly likeness: number;
}

/** A joint of the face with what turns it. */
export interface ResolvedTurns {
  readonly joint: string;
  readonly turns: readonly FaceTurn[];
  readonly reason: 'hand' | 'alike';
}

/** A name table with everything that was left open filled in. */
export interface ResolvedTable {
  readonly rows: readonly ResolvedRow[];
  readonly joints: readonly ResolvedTurns[];
  /** Channels that drive nothing. */
  readonly left: readonly string[];
  /** Shapes that nothing drives. */
  readonly bare: readonly string[];
  /** Channels that the table names and the recording does not have. */
  readonly unknown: readonly string[];
  readonly exchange: boolean;
}

/**
 * What drives each shape and joint: as set by hand, else as the names propose.
 * @param joints keys of the character's joints, of which jaw and eyes are driven where no shape is
 */
export function resolveTable(
  channels: readonly string[],
  shapes: readonly string[],
  joints: readonly string[],
  table: NameTable = DEFAULT_NAME_TABLE,
): ResolvedTable {
  const open = shapes.filter((shape) => !(shape in table.rows && table.rows[shape].from !== null));
  const proposed = new Map(table.propose ? proposeNames(channels, open).map((proposal, i) => [open[i], proposal]) : []);
  const known = new Set(channels);
  const rows = shapes.map((shape): ResolvedRow => {
    const own = (table.rows[shape] as FaceRow | undefined) ?? DEFAULT_FACE_ROW;
    const proposal = proposed.get(shape);
    const { from, reason, likeness } =
      own.from !== null
        ? { from: own.from, reason: own.from.length > 0 ? ('hand' as const) : ('none' as const), likeness: 1 }
        : (proposal ?? { from: [], reason: 'none' as const, likeness: 0 });
    return { ...own, shape, from: from.filter(({ channel }) => known.has(channel)), reason, likeness };
  });
  const turned = Object.entries(table.joints)
    .filter(([joint]) => joints.includes(joint))
    .map(([joint, turns]): ResolvedTurns => ({ joint, turns, reason: 'hand' }));
  const byName = table.propose ? proposeTurns(channels, joints, rows).filter(({ joint }) => !(joint in table.joints)) : [];
  const driven = [...turned, ...byName].filter(({ turns }) => turns.length > 0);
  const named = [...rows.flatMap(({ from }) => from), ...driven.flatMap(({ turns }) => turns.flatMap(({ from }) => from))];
  const used = new Set(named.map(({ channel }) => channel));
  const asked = [
    ...Object.values(table.rows).flatMap(({ from }) => from ?? []),
    ...Object.values(table.joints)
      .flat()
      .flatMap(({ from }) => from),
  ];
  return {
    rows,
    joints: driven,
    left: channels.filter((channel) => !used.has(channel)),
    bare: rows.filter(({ from }) => from.length === 0).map(({ shape }) => shape),
    unknown: [...new Set(asked.map(({ channel }) => channel))].filter((channel) => !known.has(channel)),
    exchange: table.exchange,
  };
}

/** Degrees that a jaw opens and an eye turns at a channel's full. */
const JAW_OPENS = 22;
const EYE_TURNS = 30;

/** Turns of jaw and eyes that are joints, by channels that drive no shape. */
function proposeTurns(channels: readonly string[], joints: readonly string[], rows: readonly ResolvedRow[]): ResolvedTurns[] {
  const used = new Set(rows.flatMap(({ from }) => from.map(({ channel }) => channel)));
  const words = readFaceNames(channels);
  const find = (part: string, acts: readonly string[], side: 'left' | 'right' | undefined): FaceSource[] => {
    const at = words.findIndex(
      (one, c) => !used.has(channels[c]) && one.parts.includes(part) && one.side === side && acts.every((act) => one.acts.includes(act)),
    );
    return at < 0 ? [] : [{ channel: channels[at], weight: 1 }];
  };
  const turn = (from: FaceSource[], degrees: FaceTurn['degrees']): FaceTurn[] =>
    from.length === 0 ? [] : [{ ...DEFAULT_FACE_ROW, from, degrees }];
  const spoken = readFaceNames(joints);
  return joints.flatMap((joint, j): ResolvedTurns[] => {
    const { parts, side, acts } = spoken[j];
    if (parts.length !== 1 || acts.length > 0) return [];
    let turns: FaceTurn[] = [];
    if (parts[0] === 'jaw' && side === undefined) turns = turn(find('jaw', ['open'], undefined), [JAW_OPENS, 0, 0]);
    if (parts[0] === 'eye' && side !== undefined) {
      // Inward is to the right for the left eye.
      const inward = side === 'left' ? -EYE_TURNS : EYE_TURNS;
      turns = [
        ...turn(find('eye', ['look', 'up'], side), [-EYE_TURNS, 0, 0]),
        ...turn(find('eye', ['look', 'down'], side), [EYE_TURNS, 0, 0]),
        ...turn(find('eye', ['look', 'in'], side), [0, inward, 0]),
        ...turn(find('eye', ['look', 'out'], side), [0, -inward, 0]),
      ];
    }
    return turns.length > 0 ? [{ joint, turns, reason: 'alike' }] : [];
  });
}
