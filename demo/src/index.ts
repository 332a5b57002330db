import { craneSalutes, craneUnloads, writeCraneTake } from './machines/crane';
import { littleCrane } from './machines/littleCrane';
import type { Clip } from '@hollow-stride/core';
import { performerRig, writeTake, type Performance } from './performer';
import { apprentice } from './puppets/apprentice';
import { bellkeeper } from './puppets/bellkeeper';
import { ferryman } from './puppets/ferryman';
import { heron } from './puppets/heron';
import { lanternBearer } from './puppets/lanternBearer';
import { tideKing } from './puppets/tideKing';
import { crierFace, crierSound } from './face/crier';
import { townCriersCall } from './takes/crier';
import { netmender } from './meshes/netmender';
import { quayWalk } from './takes/quayWalk';
import { slowBow } from './takes/slowBow';
import * as wharf from './takes/wharf';

export { depotMotions, type DepotSource } from './depot';

export interface DemoFile {
  readonly name: string;
  readonly kind: 'take' | 'character';
  readonly title: string;
  readonly note: string;
  readonly tags: readonly string[];
  readonly bytes: Uint8Array;
}

const TAKES: readonly (readonly [title: string, play: () => Performance, tags: readonly string[], note: string])[] = [
  ['Quay walk', quayWalk, ['walk'], 'heel and ball phases; a dropout and a drift in heading; rest pose in the first frames'],
  ['Gangplank run', wharf.gangplankRun, ['run'], 'a moment in the air in each stride, up a slope; one spike'],
  ['Limp home', wharf.limpHome, ['walk'], 'uneven steps; floor 2 cm too low; a dropout'],
  ['Side shuffle', wharf.sideShuffle, ['walk'], 'sideways, feet flat; floor 2 cm too high'],
  ['Turn on the spot', wharf.turnOnTheSpot, ['turn'], 'a whole turn; the heading drifts'],
  ['Coil step-over', wharf.coilStepOver, ['walk', 'step'], 'high clearance, one long plant; a dropout'],
  ['Crate lift', wharf.crateLift, ['hands', 'prop'], 'deep knees, both hands on one prop; one spike'],
  ['Rope haul', wharf.ropeHaul, ['hands', 'prop'], 'hands together, braced feet, pelvis off balance; floor 2 cm too high'],
  ['Lantern reach', wharf.lanternReach, ['hands'], 'one arm at full stretch; a dropout'],
  ['Slow bow', slowBow, ['stand'], 'spine bend over still feet; floor 2 cm off; 50 frames a second'],
  ["Bell-ringer's climb", wharf.bellRingersClimb, ['climb', 'hands'], 'hands and feet off the floor'],
  [
    "Town crier's call",
    townCriersCall,
    ['stand', 'hands', 'face'],
    'a clap, then hands to the mouth; face and voice were recorded apart; 50 frames a second',
  ],
];

const CHARACTERS: readonly (readonly [title: string, make: () => Promise<Uint8Array>, note: string])[] = [
  ['Ferryman', ferryman, 'stocky: short legs, long arms, wide shoulders; A-pose'],
  ['Heron', heron, 'on stilts: legs half as long again, thin, narrow; T-pose'],
  ['Apprentice', apprentice, 'a child of 1.1 m: large head, short limbs; three spine joints'],
  ['Bellkeeper', bellkeeper, 'tall and stooped: six spine joints, two neck joints, twist joints, full hands'],
  ['Tide-King', tideKing, 'Z-up in centimetres with a prefix on each joint; hock legs; a tail'],
  ['Lantern Bearer', lanternBearer, 'the plain case; a lantern joint that is not part of the body; face channels'],
];

const fileName = (title: string, extension: string): string =>
  `${title
    .toLowerCase()
    .replace(/[^a-z]+/g, '-')
    .replace(/-s-/, 's-')}.${extension}`;

/** The demo production, *The Drowned Bell*: the same bytes each time. */
export async function makeDemo(): Promise<DemoFile[]> {
  const { skeleton } = performerRig();
  const takes = TAKES.map(([title, play, tags, note]): DemoFile => ({
    name: fileName(title, 'bvh'),
    kind: 'take',
    title,
    note,
    tags,
    bytes: writeTake(skeleton, play().clip(title.toLowerCase())),
  }));
  const characters: DemoFile[] = [];
  for (const [title, make, note] of CHARACTERS) {
    characters.push({ name: fileName(title, 'glb'), kind: 'character', title, note, tags: [], bytes: await make() });
  }
  return [...takes, ...characters];
}

/** A recording that belongs to a take of the demo: a face, or a sound. */
export interface DemoRecording {
  readonly name: string;
  readonly title: string;
  /** Title of the take. */
  readonly take: string;
  readonly kind: 'face' | 'sound';
  readonly bytes: Uint8Array;
}

/** What was recorded apart from the bodies: the face and the voice of the Town crier. */
export function makeRecordings(): DemoRecording[] {
  const take = "Town crier's call";
  return [
    { name: 'town-criers-face.csv', title: "Town crier's face", take, kind: 'face', bytes: new TextEncoder().encode(crierFace()) },
    { name: 'town-criers-voice.wav', title: "Town crier's voice", take, kind: 'sound', bytes: crierSound() },
  ];
}

/** A mesh of the demo that has no skeleton yet. */
export interface DemoMesh {
  readonly name: string;
  readonly title: string;
  readonly bytes: Uint8Array;
}

/** What was carved and never jointed: for a skeleton to be fitted to. */
export function makeMeshes(): DemoMesh[] {
  return [{ name: 'netmender.obj', title: 'Netmender', bytes: netmender() }];
}

const CRANE_TAKES: readonly (readonly [title: string, play: () => Clip, note: string])[] = [
  ['Crane unloads', craneUnloads, 'the harbour crane, no body: along the quay, down, grips, over, lets go; Z-up in centimetres'],
  ['Crane salutes', craneSalutes, 'the harbour crane bows three times while it turns right round; 30 frames a second'],
];

/** The machines of the production, which are no bodies: takes of the Harbour Crane, and a smaller twin of other names and axes. */
export async function makeMachines(): Promise<DemoFile[]> {
  const takes = CRANE_TAKES.map(([title, play, note]): DemoFile => ({
    name: fileName(title, 'bvh'),
    kind: 'take',
    title,
    note,
    tags: ['machine'],
    bytes: writeCraneTake(play()),
  }));
  const note = 'a smaller twin of the harbour crane: other names, axes along its bones, a joint more; paired joint by joint';
  return [
    ...takes,
    { name: fileName('Little Crane', 'glb'), kind: 'character', title: 'Little Crane', note, tags: [], bytes: await littleCrane() },
  ];
}
