/**
 * The judge of pairings that go joint by joint: every carried channel beside its source, told by matrices from the two motions alone.
 */
import { ClipReader, unsized, type Clip } from '../clip';
import { square } from '../math/numbers';
import { acos, atan2, cos, DEG, sin } from '../math/trig';
import type { Carry } from '../recipe';
import type { Pose, Skeleton } from '../skeleton';
import { frameOrNone, type Found, type Verdict } from './figure';
import { figureOf } from './judge';

/** A rig as it is judged. */
interface Judged {
  readonly name: string;
  readonly skeleton: Skeleton;
  readonly restPose: Pose;
}

/** A motion that was carried over joint by joint, beside its take. */
export interface JointCase {
  readonly performer: Judged;
  readonly character: Judged;
  readonly take: Clip;
  /** Frame for frame beside the take. */
  readonly result: Clip;
  /** Frames in which the take plays whole: those that are looked at. */
  readonly first: number;
  readonly last: number;
  /** By joint of the character: what should drive it, and what of it is carried. */
  readonly channels: readonly {
    readonly joint: number;
    readonly sources: readonly { readonly joint: number; readonly weight: number }[];
    readonly carry: Carry;
  }[];
  /** 1 for joints of the character that can be given a place. */
  readonly canMove: Uint8Array;
  /** Joints of the character that should keep their rest. */
  readonly still: readonly number[];
  /** Radians about the vertical from the performer's axes to the character's, and its size. */
  readonly heading: number;
  readonly size: number;
}

/** Rows of a rotation matrix. */
type M = readonly number[];

const matrix = (r: Float64Array, j: number): M => {
  const [x, y, z, w] = [r[j * 4], r[j * 4 + 1], r[j * 4 + 2], r[j * 4 + 3]];
  return [
    1 - 2 * (y * y + z * z),
    2 * (x * y - z * w),
    2 * (x * z + y * w),
    2 * (x * y + z * w),
    1 - 2 * (x * x + z * z),
    2 * (y * z - x * w),
    2 * (x * z - y * w),
    2 * (y * z + x * w),
    1 - 2 * (x * x + y * y),
  ];
};
const times = (a: M, b: M): M => Array.from({ length: 9 }, (_, i) => dot3(a, (i / 3) | 0, b, i % 3));
const dot3 = (a: M, row: number, b: M, column: number): number =>
  a[row * 3] * b[column] + a[row * 3 + 1] * b[3 + column] + a[row * 3 + 2] * b[6 + column];
const turned = (a: M): M => [a[0], a[3], a[6], a[1], a[4], a[7], a[2], a[5], a[8]];
const apply = (a: M, [x, y, z]: readonly number[]): number[] => [0, 1, 2].map((i) => a[i * 3] * x + a[i * 3 + 1] * y + a[i * 3 + 2] * z);
/** Angle of a turn, from sine and cosine: either alone tells some angles badly. */
const angleOf = (a: M): number => atan2(size([a[7] - a[5], a[2] - a[6], a[3] - a[1]]) / 2, (a[0] + a[4] + a[8] - 1) / 2);
const UNIT: M = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** A channel with what it is told in relation to. */
interface Channel {
  readonly joint: number;
  readonly sources: JointCase['channels'][number]['sources'];
  readonly carry: Carry;
  /** The nearest channel above it, on both sides; −1 for the world. */
  readonly over: { readonly mine: number; readonly theirs: number };
  /** The one above lies otherwise than at its rest by intent: axes at rest say nothing, only how far a thing is turned or moved. */
  readonly isLaidOver: boolean;
}

interface Worst {
  value: number;
  frame: number;
  joint: number;
}

/** Judges a motion that was carried over joint by joint. */
export function judgeJoints(given: JointCase): Verdict {
  const { performer, character, take, result, first, last } = given;
  const channels = channelsOf(given);
  const [theirs, mine] = [new ClipReader(performer.skeleton, unsized(take)), new ClipReader(character.skeleton, unsized(result))];
  const turns: Worst = { value: 0, frame: -1, joint: -1 };
  const places: Worst = { value: 0, frame: -1, joint: -1 };
  const note = (worst: Worst, value: number, frame: number, joint: number): void => {
    // A value that is none is the worst there can be.
    if (!(value <= worst.value)) Object.assign(worst, { value: Number.isFinite(value) ? value : 1e6, frame, joint });
  };
  const { moving, sliding } = movingJoints(performer.skeleton, take);
  const placed = channels.filter((channel) => isPlaced(given, channel, sliding));
  for (let f = first; f <= last; f++) {
    const [p, q] = [theirs.at(f), mine.at(f)];
    for (const channel of channels) {
      const off = turnOff(given, channel, p, q);
      if (off !== undefined) note(turns, off / DEG, f, channel.joint);
    }
    for (const joint of given.still) note(turns, stillOff(given, joint, q) / DEG, f, joint);
    for (const channel of placed) note(places, placeOff(given, channel, p, q) * 1000, f, channel.joint);
  }
  const sizes: Worst = { value: 0, frame: -1, joint: -1 };
  const sized = channels.filter((channel) => isSized(given, channel));
  for (const channel of sized) {
    const off = sizeOff(given, channel);
    for (let f = first; f <= last; f++) note(sizes, 100 * off(f), f, channel.joint);
  }
  const used = new Set(channels.flatMap(({ sources }) => sources.map(({ joint }) => joint)));
  const left = [...moving].filter((joint) => !used.has(joint));
  const names = character.skeleton.names;
  const seconds = `${((last - first + 1) * take.frameTime).toFixed(1)} s`;
  const at = ({ joint, frame }: Worst): string => (joint < 0 ? 'all as the performer’s' : `worst at ${names[joint]}, frame ${frame + 1}`);
  const found: Found[] = [
    {
      id: 'joints.turns',
      value: channels.length + given.still.length > 0 ? turns.value : NaN,
      looked: `${seconds} of ${channels.length} pairs and ${given.still.length} joints at rest`,
      words: at(turns),
      frame: frameOrNone(turns.frame),
    },
    {
      id: 'joints.places',
      value: placed.length > 0 ? places.value : NaN,
      looked: placed.length > 0 ? `${seconds} of ${placed.length} joints that are moved` : 'no joint is moved',
      words: placed.length > 0 ? at(places) : '',
      frame: frameOrNone(places.frame),
    },
    {
      id: 'joints.sizes',
      value: sized.length > 0 ? sizes.value : NaN,
      looked: sized.length > 0 ? `${seconds} of ${sized.length} joints that grow` : 'no joint grows',
      words: sized.length > 0 ? at(sizes) : '',
      frame: frameOrNone(sizes.frame),
    },
    {
      id: 'joints.left',
      value: moving.size > 0 ? (100 * left.length) / moving.size : NaN,
      looked: `${moving.size} joints of the performer that move`,
      words: left.length > 0 ? `nothing is driven by ${listed(left.map((joint) => performer.skeleton.names[joint]))}` : 'each drives one',
    },
  ];
  return { frames: result.frames, frameTime: take.frameTime, figures: found.map(figureOf), rests: [], skin: 'capsules' };
}

const listed = (names: readonly string[]): string =>
  names.slice(0, 6).join(', ') + (names.length > 6 ? ` and ${names.length - 6} more` : '');

function channelsOf({ performer, character, channels }: JointCase): Channel[] {
  const by = new Map(channels.map((channel) => [channel.joint, channel]));
  const hangsOn = ({ parents }: Skeleton, joint: number, above: number): boolean => {
    let j = parents[joint];
    while (j >= 0 && j !== above) j = parents[j];
    return j === above;
  };
  return channels.map((channel): Channel => {
    const { joint: own } = channel.sources[0];
    let j = character.skeleton.parents[channel.joint];
    while (j >= 0 && !(by.has(j) && hangsOn(performer.skeleton, own, by.get(j)!.sources[0].joint))) j = character.skeleton.parents[j];
    const above = by.get(j);
    const isLaidOver = above?.carry.turns === 'recorded' && above.carry.axes === 'world';
    return { ...channel, over: { mine: j, theirs: above?.sources[0].joint ?? -1 }, isLaidOver };
  });
}

/** A joint's turn in relation to another. */
const relative = (pose: Pose, over: number, joint: number): M => {
  const own = matrix(pose.rotations, joint);
  return over < 0 ? own : times(turned(matrix(pose.rotations, over)), own);
};
const place = ({ positions, rotations }: Pose, over: number, joint: number): number[] => {
  const away = [0, 1, 2].map((c) => positions[joint * 3 + c] - (over < 0 ? 0 : positions[over * 3 + c]));
  return over < 0 ? away : apply(turned(matrix(rotations, over)), away);
};

/** By how much a joint's change from rest is another than its partner's, radians; undefined where a factor has made it another by intent. */
function turnOff(given: JointCase, channel: Channel, theirs: Pose, mine: Pose): number | undefined {
  const { carry, joint, sources, over } = channel;
  const [a, b] = [given.performer.restPose, given.character.restPose];
  const now = relative(mine, over.mine, joint);
  const own = relative(b, over.mine, joint);
  if (carry.turns === 'none') return angleOf(times(now, turned(own)));
  // One source with a factor is told by its angle; what several are mixed to is no source's own.
  if (sources.length > 1) return undefined;
  const source = relative(theirs, over.theirs, sources[0].joint);
  const share = sources[0].weight * carry.turnsTimes;
  if (carry.turns === 'recorded' && carry.axes !== 'world') {
    return share === 1 ? angleOf(times(now, turned(source))) : undefined;
  }
  if (carry.turns === 'recorded') {
    return share === 1 ? directionOff(given, channel, theirs, mine) : undefined;
  }
  const rest = relative(a, over.theirs, sources[0].joint);
  const [change, mineChange] =
    carry.axes === 'own' ? [times(turned(rest), source), times(turned(own), now)] : [times(source, turned(rest)), times(now, turned(own))];
  if (share !== 1 || channel.isLaidOver) return scaledOff(angleOf(change), share, angleOf(mineChange));
  if (carry.axes !== 'world') return angleOf(times(mineChange, turned(change)));
  const theirAxes = times(headingOf(given.heading), over.theirs < 0 ? UNIT : matrix(a.rotations, over.theirs));
  const myAxes = over.mine < 0 ? UNIT : matrix(b.rotations, over.mine);
  const inWorld = (axes: M, m: M): M => times(times(axes, m), turned(axes));
  return angleOf(times(inWorld(myAxes, mineChange), turned(inWorld(theirAxes, change))));
}

/** Whole turns that a joint may have made before: a pose does not tell how many. */
const MOST_TURNS = 4;

/** By how much an angle is another than so many times one, with any whole turns made before; both as turns that look the same. */
function scaledOff(angle: number, share: number, got: number): number {
  let least = Infinity;
  for (let turns = -MOST_TURNS; turns <= MOST_TURNS; turns++) {
    const wanted = Math.abs((angle + turns * 2 * Math.PI) * share) % (2 * Math.PI);
    least = Math.min(least, Math.abs((wanted > Math.PI ? 2 * Math.PI - wanted : wanted) - got));
  }
  return least;
}

const headingOf = (angle: number): M => {
  const [c, s] = [cos(angle), sin(angle)];
  return [c, 0, s, 0, 1, 0, -s, 0, c];
};

/** Angle between the ways that two bones point, by their only children. */
function directionOff(given: JointCase, { joint, sources }: Channel, theirs: Pose, mine: Pose): number | undefined {
  const bone = ({ skeleton }: Judged, { positions }: Pose, j: number): number[] | undefined => {
    const children = [...skeleton.parents.keys()].filter((k) => skeleton.parents[k] === j);
    if (children.length !== 1) return undefined;
    const way = [0, 1, 2].map((c) => positions[children[0] * 3 + c] - positions[j * 3 + c]);
    const long = size(way);
    return long > 1e-6 ? way.map((x) => x / long) : undefined;
  };
  const a = bone(given.performer, theirs, sources[0].joint);
  const b = bone(given.character, mine, joint);
  if (!a || !b) return undefined;
  const t = apply(headingOf(given.heading), a);
  return acos(Math.max(-1, Math.min(1, t[0] * b[0] + t[1] * b[1] + t[2] * b[2])));
}

function stillOff({ character: { skeleton, restPose } }: JointCase, joint: number, pose: Pose): number {
  const parent = skeleton.parents[joint];
  return angleOf(times(relative(pose, parent, joint), turned(relative(restPose, parent, joint))));
}

/** Ways shorter than this are none, metres. */
const NO_WAY = 1e-5;

function isPlaced(
  { performer: { skeleton }, canMove }: JointCase,
  { carry, joint, sources, over }: Channel,
  sliding: ReadonlySet<number>,
): boolean {
  if (carry.places === 'none' || canMove[joint] === 0 || carry.axes !== 'world') return false;
  for (let j = sources[0].joint; j >= 0 && j !== over.theirs; j = skeleton.parents[j]) if (sliding.has(j)) return true;
  return false;
}

/** Joints that move in a clip at all, and those that change their place at their parent. */
function movingJoints(skeleton: Skeleton, clip: Clip): { moving: Set<number>; sliding: Set<number> } {
  const sliding = new Set<number>();
  const joints = skeleton.names.length;
  for (const { joint, values } of clip.moves) {
    if (values.some((value, i) => Math.abs(value - skeleton.restT[joint * 3 + (i % 3)]) > NO_WAY)) sliding.add(joint);
  }
  const moving = new Set(
    [...clip.moves, ...(clip.sizes ?? [])]
      .filter(({ values }) => values.some((value, i) => Math.abs(value - values[i % 3]) > 1e-4))
      .map(({ joint }) => joint),
  );
  for (let j = 0; j < joints; j++) {
    for (let f = 1; f < clip.frames && !moving.has(j); f++) {
      let dot = 0;
      for (let c = 0; c < 4; c++) dot += clip.rotations[(f * joints + j) * 4 + c] * clip.rotations[j * 4 + c];
      // Half a tenth of a degree from where it began.
      if (Math.abs(dot) < 1 - 1e-7) moving.add(j);
    }
  }
  return { moving, sliding };
}

/** Metres by which a joint's way from rest is another than its partner's, scaled as both lie at rest. */
function placeOff(given: JointCase, { carry, joint, sources, over, isLaidOver }: Channel, theirs: Pose, mine: Pose): number {
  const [a, b] = [given.performer.restPose, given.character.restPose];
  const { joint: source } = sources[0];
  const axes = times(
    turned(over.mine < 0 ? UNIT : matrix(b.rotations, over.mine)),
    times(headingOf(given.heading), over.theirs < 0 ? UNIT : matrix(a.rotations, over.theirs)),
  );
  const [p, p0] = [place(theirs, over.theirs, source), place(a, over.theirs, source)];
  const [q, q0] = [place(mine, over.mine, joint), place(b, over.mine, joint)];
  const [theirWay, myWay] = [size(p0), size(q0)];
  const isWhole = carry.places === 'recorded' || (over.mine < 0 && (theirWay < NO_WAY || myWay < NO_WAY));
  const ratio = carry.places === 'recorded' ? 1 : over.mine >= 0 && theirWay > NO_WAY && myWay > NO_WAY ? myWay / theirWay : given.size;
  const wanted = apply(axes, isWhole ? p : p.map((x, c) => x - p0[c])).map((x, c) => x * ratio * carry.placesTimes + (isWhole ? 0 : q0[c]));
  return isLaidOver ? Math.abs(size(wanted) - size(q)) : size(wanted.map((x, c) => x - q[c]));
}

function isSized({ take, result }: JointCase, { carry, joint, sources }: Channel): boolean {
  const grows = ({ sizes = [] }: Clip, j: number): boolean => sizes.some((track) => track.joint === j);
  return grows(result, joint) || (carry.sizes !== 'none' && sources.some((source) => grows(take, source.joint)));
}

/** By how much a joint has grown otherwise than its partner along its own axes as they lie at rest, in share of its rest, by frame. */
function sizeOff(given: JointCase, { carry, joint, sources }: Channel): (frame: number) => number {
  const sizeOf = ({ sizes = [] }: Clip, j: number): ((f: number, c: number) => number) => {
    const values = sizes.find((track) => track.joint === j)?.values;
    return (f, c) => (values ? values[f * 3 + c] : 1);
  };
  const own = sizeOf(given.result, joint);
  const mine = times(turned(headingOf(given.heading)), matrix(given.character.restPose.rotations, joint));
  const theirs = sources.map((source) => ({
    weight: source.weight,
    size: sizeOf(given.take, source.joint),
    // Columns are the character's axes, told in the performer's joint.
    axes: carry.axes === 'world' ? times(turned(matrix(given.performer.restPose.rotations, source.joint)), mine) : UNIT,
  }));
  return (f) => {
    let worst = 0;
    for (let axis = 0; axis < 3; axis++) {
      let wanted = 1;
      for (const { weight, size: grown, axes } of carry.sizes === 'none' ? [] : theirs) {
        // The stretch along a direction u is u · (D u).
        for (let c = 0; c < 3; c++) wanted += weight * carry.sizesTimes * square(axes[c * 3 + axis]) * (grown(f, c) - 1);
      }
      worst = Math.max(worst, Math.abs(Math.max(0, wanted) - own(f, axis)));
    }
    return worst;
  };
}

const size = (v: readonly number[]): number => Math.sqrt(square(v[0]) + square(v[1]) + square(v[2]));
