import { ClipReader } from '../clip';
import { fail } from '../errors';
import {
  bindWeights,
  brush,
  farPoints,
  findLandmarks,
  guessStand,
  keptFrame,
  meshHoles,
  sectionsOf,
  settled,
  skeletonOf,
  spread,
  standUp,
  strainedSpots,
  trunkMiddle,
  type FittedSkeleton,
  type Found,
  type Frame,
  type GuessedStand,
  type Landmarks,
  type Measured,
  type MeshBody,
  type OnProgress,
  type Sections,
  type WeldedWeights,
  type Spot,
} from '../fit';
import { bindGlb, readMotionFile, readSurface, reweighGlb, type MotionFile, type PointWeights, type Surface } from '../formats';
import { placeMatrix } from '../math/matrix';
import type { FitChoices } from '../recipe';
import { copyPose, extent, labelFile, prepareRig, rangeCheck, type Rig } from '../rig';
import { restPose } from '../skeleton';
import { Memory } from './memory';

/** A mesh that was read, and how it stands as far as can be told. */
export interface OpenMesh {
  readonly surface: Surface;
  readonly guessed: GuessedStand;
  /** The skeleton that the file has. */
  readonly file: MotionFile | undefined;
  readonly facts: MeshFacts;
}

/** Facts about a mesh. Plain data, fit for JSON. */
export interface MeshFacts {
  readonly points: number;
  readonly triangles: number;
  readonly parts: readonly { readonly name: string; readonly points: number }[];
  /** Pieces that hang together by their triangles. */
  readonly shells: number;
  /** Edges at the rim of a hole. */
  readonly rims: number;
  readonly height: number;
  readonly stand: string;
  /** Joints of the skeleton that it has; 0 for none. */
  readonly joints: number;
}

/** Pieces that facts tell of. */
const MOST_PARTS = 200;

/** Reads a mesh. @throws FaultError of the readers */
export async function openMesh(bytes: Uint8Array, name: string): Promise<OpenMesh> {
  const surface = await readSurface(bytes, name);
  const guessed = guessStand(surface);
  const file = await skeletonIn(surface);
  return { surface, guessed, file, facts: factsOfMesh(surface, guessed, file) };
}

/** The file's own skeleton, where it has one that moves its mesh. */
async function skeletonIn({ glb, name }: Surface): Promise<MotionFile | undefined> {
  try {
    const file = await readMotionFile(glb, name);
    return file.skin ? file : undefined;
  } catch {
    // No skeleton, or none that is read here: the mesh is fitted without.
    return undefined;
  }
}

function factsOfMesh(surface: Surface, guessed: GuessedStand, file: MotionFile | undefined): MeshFacts {
  const body = standUp(surface, guessed.stand);
  return {
    points: surface.positions.length / 3,
    triangles: surface.triangles.length / 3,
    parts: surface.parts.slice(0, MOST_PARTS).map(({ name, count }) => ({ name, points: count })),
    shells: body.shells.count,
    rims: meshHoles(body),
    height: body.height,
    stand: guessed.reason,
    joints: file?.skeleton.names.length ?? 0,
  };
}

/** A mesh with its landmarks and the skeleton by them. */
export interface LaidMesh extends Measured {
  readonly mesh: OpenMesh;
  readonly body: MeshBody;
  readonly sections: Sections;
  readonly found: Found;
  readonly landmarks: Landmarks;
  /** By the landmarks; what is bound to where the file's own skeleton is kept. */
  readonly fitted: FittedSkeleton;
}

/** Stands a mesh up, finds its landmarks, and lays a skeleton through them and those that were set by hand. */
export function layMesh(mesh: OpenMesh, choices: FitChoices, memory = new Memory()): LaidMesh {
  const stand = choices.stand ?? mesh.guessed.stand;
  const body = memory.of('body', [mesh.surface, stand], () => standUp(mesh.surface, stand));
  const sections = memory.of('sections', [body], () => sectionsOf(body));
  const found = memory.of('found', [body, choices.mirrored], () => findLandmarks(body, sections, choices.mirrored));
  const landmarks = settled(found, choices);
  const fitted = memory.of('fitted', [body, landmarks, choices.detail, found.middle], () =>
    skeletonOf(landmarks, choices.detail, found.middle, (y) => trunkMiddle(sections.trunk, y)),
  );
  return { mesh, body, sections, found, landmarks, fitted, height: body.height, middle: found.middle };
}

/** A place that a person should look at. */
export interface FitDoubt {
  readonly kind: 'pull' | 'far';
  readonly joint: string;
  readonly at: readonly [number, number, number];
  readonly message: string;
}

/** A mesh bound to a skeleton: a character's file, and what a person should look at. */
export interface BoundMesh {
  readonly glb: Uint8Array<ArrayBuffer>;
  readonly file: MotionFile;
  readonly rig: Rig;
  readonly weights: PointWeights;
  readonly names: readonly string[];
  readonly doubts: readonly FitDoubt[];
  /** Most that an edge of the skin is drawn out in the range check, share of the height. */
  readonly pull: number;
}

/** Edges drawn out by more than this share of the height are told of. */
const PULLED = 0.015;
const MOST_DOUBTS = 40;

/**
 * Binds a mesh to its skeleton and writes the character's file; reads it again and moves it through the range check.
 * @param report called with the share that is done; it may throw to end the work
 * @throws FaultError fit/landmarks; option where a skeleton is to be kept and there is none
 */
export async function bindMesh(
  laid: LaidMesh,
  choices: FitChoices,
  name: string,
  memory = new Memory(),
  report: OnProgress = () => undefined,
): Promise<BoundMesh> {
  const { body, mesh, fitted, found } = laid;
  const kept = choices.skeleton === 'keep' ? keptOf(laid) : undefined;
  const frame: Frame = kept?.frame ?? fitted;
  const names = kept ? kept.file.skeleton.names : fitted.skeleton.names;
  const plain = memory.of('weights', [body, frame.places, frame.ends], () => bindWeights(body, frame, (share) => report(0.9 * share)));
  const brushed: WeldedWeights = { joints: plain.joints.slice(), values: plain.values.slice() };
  brush(body, brushed, choices.strokes, choices.mirrored ? found.middle : undefined);
  const weights = spread(body, brushed, frame, wholeOf(mesh.surface, choices, names));
  report(0.92);
  const glb = kept
    ? reweighGlb(mesh.surface, weights, kept.nodes, kept.binds)
    : bindGlb(mesh.surface, { name, skeleton: fitted.skeleton, toBody: body.toBody, weights });
  const file = await readMotionFile(glb, `${name}.glb`);
  const rig = prepareRig(file);
  report(0.96);
  const { spots, pull } = strainOf(file, rig);
  const doubts = [...doubtsOfPull(spots, rig), ...doubtsOfFar(body, frame, weights, names)].slice(0, MOST_DOUBTS);
  report(1);
  return { glb, file, rig, weights, names, doubts, pull };
}

/** Joint of each piece that moves whole. */
function wholeOf({ parts }: Surface, { whole }: FitChoices, names: readonly string[]): Map<number, number> {
  const out = new Map<number, number>();
  parts.forEach(({ name }, p) => {
    const joint = names.indexOf(whole[name] ?? '');
    if (joint >= 0) out.set(p, joint);
  });
  return out;
}

/** The file's own skeleton as what is bound to. @throws FaultError option */
function keptOf({ mesh: { file, surface }, body }: LaidMesh): { file: MotionFile; frame: Frame; nodes: Int32Array; binds: Float64Array } {
  if (!file || file.layout.format !== 'glb') fail('option', 'the file has no skeleton to keep; fit a new one', { file: surface.name });
  const { nodes, ownScales } = file.layout;
  const pose = restPose(file.skeleton);
  const binds = new Float64Array(nodes.length * 16);
  for (let j = 0; j < nodes.length; j++) {
    const [turn, place] = [pose.rotations.subarray(j * 4, j * 4 + 4), pose.positions.subarray(j * 3, j * 3 + 3)];
    binds.set(placeMatrix(turn, place, ownScales[j]), j * 16);
  }
  return { file, frame: keptFrame(file.skeleton, pose, labelFile(file).roles, body.toBody), nodes, binds };
}

/** The range check's movements, each at its farthest. */
function strainOf(file: MotionFile, rig: Rig): { spots: (Spot & { says: string })[]; pull: number } {
  if (!file.skin) return { spots: [], pull: 0 };
  const { clip, steps } = rangeCheck(rig.skeleton, rig.restPose, rig.roles, rig);
  const reader = new ClipReader(rig.skeleton, clip);
  const half = steps.length > 1 ? (steps[1].first - steps[0].first) / 2 : 0;
  const poses = steps.map(({ first }) => copyPose(reader.at(Math.round(first + half))));
  const height = Math.max(1e-3, extent(rig.restPose.positions, 1));
  const spots = strainedSpots(file.skin, rig.restPose, poses, rig.basis.metres);
  const told = spots.filter(({ drawn }) => drawn > PULLED * height).map((spot) => ({ ...spot, says: steps[spot.pose].step.says }));
  return { spots: told, pull: spots.length > 0 ? spots[0].drawn / height : 0 };
}

function doubtsOfPull(spots: readonly (Spot & { says: string })[], { skeleton }: Rig): FitDoubt[] {
  return spots.map(({ joint, at, drawn, says }) => ({
    kind: 'pull',
    joint: skeleton.names[joint],
    at,
    message: `the skin is drawn out by ${Math.round(drawn * 1000)} mm: ${says}`,
  }));
}

function doubtsOfFar(body: MeshBody, frame: Frame, weights: PointWeights, names: readonly string[]): FitDoubt[] {
  return [...farPoints(body, frame, weights)].map(([joint, { count, at }]) => ({
    kind: 'far',
    joint: names[joint],
    at,
    message: `${count} ${count === 1 ? 'point moves' : 'points move'} with it that ${count === 1 ? 'lies' : 'lie'} nearer to another limb`,
  }));
}
